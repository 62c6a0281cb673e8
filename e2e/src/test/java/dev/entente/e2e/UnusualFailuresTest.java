package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.attempt.Cause;
import java.time.Duration;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Failures far above what is usual are told, and what is usual is told from the days before. */
class UnusualFailuresTest {
    private static final Duration SOON = Duration.ofSeconds(30);

    private final ServiceWorld world = ServiceWorld.get();

    @AfterEach
    void asUsual() {
        world.stewards.get("fleet").succeed();
    }

    /** @return how it ended */
    private String reset() {
        var crew = world.crew();
        return new ApiPerson(world)
                .prove(crew.shore(), crew.address())
                .choose("Attention-Quay-201")
                .waitForOutcome(SOON)
                .state();
    }

    @Test
    void failures_far_above_the_usual() {
        // What other tests of this world left behind is older than a week by then.
        world.later(Duration.ofDays(20));
        for (var i = 0; i < 8; i++) {
            assertThat(reset()).isEqualTo("completed");
        }
        assertThat(world.entente("status").out()).doesNotContain("far more than usual");
        world.later(Duration.ofDays(22));
        world.stewards.get("fleet").fail(Cause.UNREACHABLE);
        for (var i = 0; i < 5; i++) {
            assertThat(reset()).isEqualTo("incomplete");
        }
        assertThat(world.entente("status").out())
                .contains("5 of 10 deliveries of the last hour failed, far more than usual.");
    }
}
