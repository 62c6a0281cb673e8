package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import org.junit.jupiter.api.Test;

/** What the Today page and {@code entente status} say needs attention, with its cause really there. */
class AttentionTest {
    private static final Duration SOON = Duration.ofSeconds(60);

    private final World world = World.get();

    private String status() {
        return world.entente("status").out();
    }

    @Test
    void a_directory_whose_steward_is_gone_and_whose_backlog_grows_until_it_is_back() {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        world.kill("steward-fleet");
        try {
            person.choose("Attention-Quay-101");
            World.waitUntil(
                    SOON,
                    "the missing steward is told",
                    () -> status().contains("No steward of fleet is connected; nothing can be delivered."));
            World.waitUntil(
                    SOON,
                    "the backlog is told",
                    () -> status().matches(
                                    "(?s).*Fleet: The backlog grows: \\d+ deliver(y waits|ies wait) for longer than.*"));
        } finally {
            world.startSteward("fleet");
        }
        assertThat(person.waitForOutcome(SOON).state()).isEqualTo("completed");
        World.waitUntil(
                SOON,
                "nothing of it is left",
                () -> !status().contains("No steward of fleet") && !status().contains("backlog"));
    }
}
