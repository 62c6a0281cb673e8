package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** What the Today page and {@code entente status} say needs attention, with its cause really there. */
class AttentionTest {
    private static final Duration SOON = Duration.ofSeconds(60);

    private final World world = World.get();

    private String status() {
        return world.entente("status").out();
    }

    /** @return how it ended */
    private String reset() {
        var crew = Crew.next();
        return new ApiPerson(world)
                .prove(crew.shore(), crew.address())
                .choose("Attention-Quay-201")
                .waitForOutcome(SOON)
                .state();
    }

    @Test
    void a_directory_whose_steward_is_gone_and_whose_backlog_grows_until_it_is_back() {
        var crew = Crew.next();
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

    @Test
    void failures_far_above_the_usual() {
        // What other tests did becomes last week's history: the successes are the usual, the failures are forgotten.
        world.query("UPDATE delivery SET ended_at = ended_at - interval '2 days' WHERE state = 'done'");
        world.query(
                "UPDATE delivery SET ended_at = ended_at - interval '20 days' WHERE state IN ('failed', 'unknown')");
        try {
            for (var i = 0; i < 8; i++) {
                assertThat(reset()).isEqualTo("completed");
            }
            assertThat(status()).doesNotContain("far more than usual");
            world.query("UPDATE delivery SET ended_at = ended_at - interval '2 days' WHERE state = 'done'"
                    + " AND ended_at > now() - interval '1 day'");
            world.lab("ldap-down");
            try {
                for (var i = 0; i < 5; i++) {
                    assertThat(reset()).isEqualTo("incomplete");
                }
            } finally {
                world.lab("ldap-up");
            }
            var told = Pattern.compile("(\\d+) of \\d+ deliveries of the last hour failed, far more than usual[.]")
                    .matcher(status());
            assertThat(told.find()).isTrue();
            // One that another test left behind may have ended meanwhile, or was refused for good: it counts, too.
            assertThat(Integer.parseInt(told.group(1)))
                    .isBetween(
                            5,
                            Integer.parseInt(world.query("SELECT count(*) FROM delivery WHERE state <> 'done'"
                                    + " AND ended_at > now() - interval '1 hour'")));
        } finally {
            world.query("UPDATE delivery SET ended_at = ended_at + interval '2 days'"
                    + " WHERE ended_at BETWEEN now() - interval '3 days' AND now() - interval '1 day'");
            world.query("UPDATE delivery SET ended_at = ended_at + interval '20 days'"
                    + " WHERE ended_at < now() - interval '10 days'");
        }
    }
}
