package dev.entente.service.notification;

import dev.entente.service.audit.EventLog;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import java.time.InstantSource;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Messages of any channel that came too late, and those whose sender died half-way. */
@Component
class LateMessages {
    private final Session database;
    private final EventLog events;
    private final InstantSource clock;

    LateMessages(Session database, EventLog events, InstantSource clock) {
        this.database = database;
        this.events = events;
        this.clock = clock;
    }

    private record Ended(UUID attempt, int revision, String kind, String state) {}

    /** Drops what came too late, and tells what died half-way. */
    @WhenDue(
            "SELECT FROM notification WHERE state = 'queued' AND expires_at <= entente_now() OR state = 'sending' AND next_try <= entente_now()")
    @Transactional
    void expire() {
        for (var row : Sql.rows(database, """
                        UPDATE notification SET state = CASE WHEN state = 'sending' THEN 'uncertain' ELSE 'failed' END,
                            payload = NULL, ended_at = :now
                        WHERE state = 'queued' AND expires_at <= :now OR state = 'sending' AND next_try <= :now
                        RETURNING attempt, revision, kind, state""", Ended.class)
                .setParameter("now", clock.instant())
                .getResultList()) {
            events.write(Notifications.about(row.attempt(), "notification." + row.state(), row.revision())
                    .with("message", row.kind())
                    .with("why", "it could not be sent in time"));
        }
    }
}
