package dev.entente.e2e;

import org.junit.jupiter.api.extension.BeforeEachCallback;
import org.junit.jupiter.api.extension.ExtensionContext;

/** A test that failed in the middle leaves nothing broken for the next ones: one fault is one failure. */
public final class Mending implements BeforeEachCallback {
    @Override
    public void beforeEach(ExtensionContext context) {
        World.mend();
        ServiceWorld.mend();
    }
}
