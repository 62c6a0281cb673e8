package dev.entente.e2e;

import org.junit.jupiter.api.extension.AfterEachCallback;
import org.junit.jupiter.api.extension.BeforeEachCallback;
import org.junit.jupiter.api.extension.ExtensionContext;

/**
 * A test that failed in the middle leaves nothing broken for the next ones: one fault is one failure. And the pages that it opened are
 * closed: they would go on asking the service every few seconds.
 */
public final class Mending implements BeforeEachCallback, AfterEachCallback {
    @Override
    public void beforeEach(ExtensionContext context) {
        World.mend();
        ServiceWorld.mend();
    }

    @Override
    public void afterEach(ExtensionContext context) {
        World.leavePages();
        ServiceWorld.leavePages();
    }
}
