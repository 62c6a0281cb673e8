package dev.entente.service.notification;

import dev.entente.service.audit.EventLog;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import java.time.Duration;
import java.time.InstantSource;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Messages of any channel that came too late, and those whose sender died half-way. */
@Component
class LateMessages {
    private static final Duration KEPT_WITHOUT_ATTEMPT = Duration.ofDays(30);

    private final Session database;
    private final EventLog events;
    private final InstantSource clock;

    LateMessages(Session database, EventLog events, InstantSource clock) {
        this.database = database;
        this.events = events;
        this.clock = clock;
    }

    /** News is forgotten after a week, and a message that belongs to no attempt after a month: the record keeps that there was one. */
    @Scheduled(fixedDelay = 600_000, initialDelay = 60_000)
    @Transactional
    void forget() {
        Sql.change(
                        database,
                        "UPDATE notification SET payload = NULL WHERE news AND payload IS NOT NULL AND ended_at < :before")
                .setParameter("before", clock.instant().minus(Outbox.KEPT))
                .executeUpdate();
        Sql.change(database, "DELETE FROM notification WHERE attempt IS NULL AND ended_at < :before")
                .setParameter("before", clock.instant().minus(KEPT_WITHOUT_ATTEMPT))
                .executeUpdate();
    }

    private record Ended(
            UUID id,
            UUID attempt,
            int revision,
            String kind,
            String channel,
            UUID person,
            String recipient,
            String state) {}

    /** Drops what came too late, and tells what died half-way. */
    @WhenDue(
            "SELECT FROM notification WHERE state = 'queued' AND expires_at <= entente_now() OR state = 'sending' AND next_try <= entente_now()")
    @Transactional
    void expire() {
        for (var row : Sql.rows(database, """
                        UPDATE notification SET state = CASE WHEN state = 'sending' THEN 'uncertain' ELSE 'failed' END,
                            payload = CASE WHEN news THEN payload END, ended_at = :now, why = 'it could not be sent in time'
                        WHERE state = 'queued' AND expires_at <= :now OR state = 'sending' AND next_try <= :now
                        RETURNING\s""" + MessageFate.COLUMNS + ", state", Ended.class)
                .setParameter("now", clock.instant())
                .getResultList()) {
            var fate = new MessageFate(
                    row.id(), row.attempt(), row.revision(), row.kind(), row.channel(), row.person(), row.recipient());
            events.write(fate.event("notification." + row.state()).with("why", "it could not be sent in time"));
        }
    }
}
