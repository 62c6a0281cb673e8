package dev.entente.service.attempt;

import dev.entente.service.platform.AttemptsPurged;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Finished attempts are not kept for ever: the record keeps what happened, and the reference leads there. Those of made-up names
 * go after a day.
 */
@Component
class Purge {
    private static final Duration MADE_UP_KEPT = Duration.ofDays(1);
    private static final int AT_ONCE = 500;

    private static final String NOT_HELD = """
            NOT EXISTS (SELECT FROM hold_in_force h WHERE h.person = a.person OR h.attempt = a.id
                OR h.since IS NOT NULL AND a.created_at >= h.since AND a.created_at < coalesce(h.until, 'infinity'))""";

    private final Session database;
    private final ApplicationEventPublisher publisher;
    private final ServiceSettings settings;
    private final InstantSource clock;

    Purge(Session database, ApplicationEventPublisher publisher, ServiceSettings settings, InstantSource clock) {
        this.database = database;
        this.publisher = publisher;
        this.settings = settings;
        this.clock = clock;
    }

    @Scheduled(fixedDelayString = "${entente.purge-every:5m}")
    @Transactional
    public void purge() {
        purge("person IS NULL AND created_at < :before", clock.instant().minus(MADE_UP_KEPT));
        purge("ended_at < :before", clock.instant().minus(settings.attemptsKept()));
    }

    private void purge(String which, Instant before) {
        var ids = Sql.values(
                        database,
                        "SELECT id FROM attempt a WHERE ended_at IS NOT NULL AND " + which + " AND " + NOT_HELD
                                + " ORDER BY created_at LIMIT :most FOR UPDATE SKIP LOCKED",
                        UUID.class)
                .setParameter("before", before)
                .setParameter("most", AT_ONCE)
                .getResultList();
        if (ids.isEmpty()) {
            return;
        }
        // Whoever keeps something that belongs to attempts lets go of it in this transaction.
        publisher.publishEvent(new AttemptsPurged(List.copyOf(ids)));
        for (var table : List.of("attempt_proof", "challenge")) {
            Sql.change(database, "DELETE FROM " + table + " WHERE attempt IN (:ids)")
                    .setParameter("ids", ids)
                    .executeUpdate();
        }
        Sql.change(database, "DELETE FROM attempt WHERE id IN (:ids)")
                .setParameter("ids", ids)
                .executeUpdate();
    }
}
