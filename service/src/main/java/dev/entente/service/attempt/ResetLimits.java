package dev.entente.service.attempt;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Decision.Obstacle;
import dev.entente.core.policy.Policy;
import dev.entente.service.platform.Sql;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** How often one person may reset. Only resets that were done count, so that nobody else can use them up. */
@Component
@Transactional(readOnly = true)
class ResetLimits {
    private final Session database;
    private final InstantSource clock;

    ResetLimits(Session database, InstantSource clock) {
        this.database = database;
        this.clock = clock;
    }

    /** The limit that is reached; empty if none is. It is silent: it tells nobody who exists. */
    Optional<Obstacle> reached(UUID person, Action action, Policy policy) {
        if (action != Action.RESET && action != Action.CHANGE) {
            return Optional.empty();
        }
        var rate = policy.resets().value();
        var done = resets(person, rate.per());
        if (done.count() >= rate.count()) {
            return Optional.of(new Obstacle(
                    "reset-limit",
                    "The policy " + policy.name() + " permits " + rate + ", and this person has used them.",
                    until(done.oldest(), rate.per()) + ", or change limit.resets in "
                            + policy.resets().source() + "."));
        }
        var pause = policy.pause().value();
        if (!pause.isZero()) {
            var last = resets(person, pause);
            if (last.count() > 0) {
                return Optional.of(new Obstacle(
                        "reset-wait",
                        "The policy " + policy.name() + " asks for a wait between two resets, and the last one was less"
                                + " than that ago.",
                        until(last.newest(), pause) + ", or change limit.wait in "
                                + policy.pause().source() + "."));
            }
        }
        return Optional.empty();
    }

    private static String until(Instant from, Duration span) {
        return "Wait until " + from.plus(span).truncatedTo(ChronoUnit.MINUTES).plus(1, ChronoUnit.MINUTES);
    }

    private record Resets(long count, Instant oldest, Instant newest) {}

    private Resets resets(UUID person, Duration span) {
        return Sql.rows(database, """
                        SELECT count(*) AS count, min(ended_at) AS oldest, max(ended_at) AS newest FROM attempt
                        WHERE person = :person AND state IN ('completed', 'incomplete')
                        AND action IN ('reset', 'change') AND ended_at > :since""", Resets.class)
                .setParameter("person", person)
                .setParameter("since", clock.instant().minus(span))
                .getSingleResult();
    }
}
