package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import org.junit.jupiter.api.Test;

/** Two that change the same row at once: neither writes back what the other one changed. */
class SideBySideTest {
    private static final Duration SOON = Duration.ofSeconds(30);

    private final ServiceWorld world = ServiceWorld.get();

    @Test
    void what_an_administrator_changes_of_a_directory_stays_though_a_preflight_that_read_it_before_ends_after() {
        world.query("""
                CREATE FUNCTION end_later() RETURNS trigger LANGUAGE plpgsql AS
                'BEGIN PERFORM pg_advisory_xact_lock(4711); RETURN NEW; END';
                CREATE TRIGGER end_later BEFORE INSERT ON event FOR EACH ROW
                    WHEN (NEW.kind = 'preflight.ended') EXECUTE FUNCTION end_later()""");
        try {
            world.during("SELECT pg_advisory_lock(4711)", () -> {
                var started = ConsoleApi.signedIn(world).post("/directories/fleet/preflight", "");
                assertThat(started.statusCode()).as(started.body()).isEqualTo(202);
                Installation.waitUntil(
                        SOON,
                        "the preflight is about to end",
                        () -> world.query("SELECT count(*) FROM pg_locks WHERE locktype = 'advisory' AND NOT granted")
                                .equals("1"));
                world.entente("directory", "change", "fleet", "--title", "Fleet at sea", "--mailbox-domain", "sea.test")
                        .expect(0);
            });
            Installation.waitUntil(
                    SOON,
                    "the preflight has ended",
                    () -> world.query("SELECT count(*) FROM job WHERE kind = 'preflight' AND ended_at IS NULL")
                            .equals("0"));
            assertThat(world.entente("directory", "show", "fleet").out()).contains("Fleet at sea", "sea.test");
        } finally {
            world.query("DROP TRIGGER end_later ON event; DROP FUNCTION end_later()");
            world.entente("directory", "change", "fleet", "--title", "Fleet", "--mailbox-domain", "")
                    .expect(0);
        }
    }
}
