package dev.entente.e2e;

import java.util.Optional;
import java.util.stream.Stream;
import org.junit.jupiter.api.extension.AfterAllCallback;
import org.junit.jupiter.api.extension.AfterEachCallback;
import org.junit.jupiter.api.extension.BeforeEachCallback;
import org.junit.jupiter.api.extension.ExtensionContext;

/**
 * A test that failed in the middle leaves nothing broken for the next ones: one fault is one failure. The pages that it opened are
 * closed: they would go on asking the service every few seconds. What the service answered meanwhile has to be what the API's description
 * says. And what a class of tests had for itself goes to the next one.
 */
public final class Mending implements BeforeEachCallback, AfterEachCallback, AfterAllCallback {
    @Override
    public void beforeEach(ExtensionContext context) {
        World.POOL.mine().ifPresent(World::mend);
        ServiceWorld.POOL.mine().ifPresent(ServiceWorld::mend);
    }

    @Override
    public void afterEach(ExtensionContext context) {
        World.POOL.mine().ifPresent(Installation::closePages);
        ServiceWorld.POOL.mine().ifPresent(Installation::closePages);
    }

    @Override
    public void afterAll(ExtensionContext context) {
        var undescribed = Stream.of(World.POOL.mine(), ServiceWorld.POOL.mine())
                .flatMap(Optional::stream)
                .flatMap(one -> one.undescribed().stream())
                .toList();
        World.POOL.giveBack();
        ServiceWorld.POOL.giveBack();
        if (!undescribed.isEmpty()) {
            throw new AssertionError(
                    "Answers that console/openapi.json doesn't describe:\n" + String.join("\n", undescribed));
        }
    }
}
