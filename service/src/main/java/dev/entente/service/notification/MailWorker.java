package dev.entente.service.notification;

import dev.entente.service.audit.EventLog;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.platform.WhenDue;
import jakarta.annotation.PreDestroy;
import jakarta.mail.AuthenticationFailedException;
import jakarta.mail.MessagingException;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Semaphore;
import org.eclipse.angus.mail.util.MailConnectException;
import org.hibernate.Session;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.json.JsonMapper;

/**
 * Sends what is queued. A message is claimed in one transaction, sent outside any, and its fate recorded in another. A
 * message whose sender died in between is {@code uncertain} and not silently repeated.
 *
 * <p>Messages of one origin stand behind each other: each comes with the number of those that waited before it, its lane, and
 * lower lanes go first. However many codes one network asks for, everybody else's go before its second one.
 */
@Component
class MailWorker {
    private static final int AT_ONCE = 6;
    private static final Logger log = LoggerFactory.getLogger(MailWorker.class);
    private static final Duration CLAIM = Duration.ofMinutes(2);
    private static final int MOST_TRIES = 12;

    private final Session database;
    private final EventLog events;
    private final KeyRing keys;
    private final MailChannel mail;
    private final JsonMapper json;
    private final InstantSource clock;
    private final TransactionTemplate transaction;
    private final ExecutorService sending = Executors.newFixedThreadPool(AT_ONCE);
    private final Semaphore free = new Semaphore(AT_ONCE);
    private final ExecutorService claiming = Executors.newSingleThreadExecutor();
    /** Whether more may wait than there was room for. */
    private volatile boolean more;

    MailWorker(
            Session database,
            EventLog events,
            KeyRing keys,
            MailChannel mail,
            JsonMapper json,
            InstantSource clock,
            TransactionTemplate transaction) {
        this.database = database;
        this.events = events;
        this.keys = keys;
        this.mail = mail;
        this.json = json;
        this.clock = clock;
        this.transaction = transaction;
    }

    @PreDestroy
    void stop() {
        claiming.shutdown();
        sending.shutdown();
    }

    private record Claimed(
            UUID id, UUID attempt, int revision, String kind, byte[] payload, int tries, Instant expires) {}

    /** A wake-up may get lost, and what is tried again waits for its time. */
    @WhenDue(
            "SELECT FROM notification WHERE state = 'queued' AND next_try <= entente_now() AND expires_at > entente_now()")
    void look() {
        sendWaiting();
    }

    @EventListener
    void wake(WakeUps.MailWaits mail) {
        claiming.execute(this::sendWaiting);
    }

    /** Takes as many as there is room for, and more when one of them is done, if there may be more. */
    private void sendWaiting() {
        var room = free.drainPermits();
        if (room == 0) {
            more = true;
            return;
        }
        var claimed = new Batch(null, List.of());
        try {
            claimed = transaction.execute(status -> new Batch(mail.by(), claim(room)));
        } catch (RuntimeException e) {
            // Such as a database that is away; the next look is a moment later.
            log.warn("mail is not sent for now: {}", e.getClass().getSimpleName());
        }
        if (claimed.messages().size() == room) {
            more = true;
        }
        free.release(room - claimed.messages().size());
        var by = claimed.by();
        claimed.messages().forEach(one -> sending.execute(() -> sendOne(by, one)));
    }

    private record Batch(MailChannel.By by, List<Claimed> messages) {}

    private void sendOne(MailChannel.By by, Claimed claimed) {
        try {
            send(by, claimed);
        } catch (RuntimeException e) {
            log.warn("the fate of a message is not known: {}", e.getClass().getSimpleName());
        } finally {
            free.release();
        }
        if (more) {
            more = false;
            claiming.execute(this::sendWaiting);
        }
    }

    private List<Claimed> claim(int most) {
        return Sql.rows(database, """
                        UPDATE notification SET state = 'sending', tries = tries + 1, next_try = :until WHERE id IN (
                            SELECT id FROM notification WHERE state = 'queued' AND next_try <= :now AND expires_at > :now
                            ORDER BY lane, next_try FOR UPDATE SKIP LOCKED LIMIT :most)
                        RETURNING id, attempt, revision, kind, payload, tries, expires_at AS expires""", Claimed.class)
                .setParameter("most", most)
                .setParameter("now", clock.instant())
                .setParameter("until", clock.instant().plus(CLAIM))
                .getResultList();
    }

    private void send(MailChannel.By by, Claimed claimed) {
        var message = json.readValue(
                keys.decrypt("notification " + claimed.id(), claimed.payload()), Notifications.Letter.class);
        if (message.to() == null) {
            end(claimed, "expired", "notification.dropped", "there is nobody to send it to");
            return;
        }
        try {
            mail.send(by, claimed.id(), message.to(), message.subject(), message.text());
            if (!by.works()) {
                mail.showed(true, null);
            }
            end(claimed, "sent", "notification.sent", null);
        } catch (MessagingException | IOException e) {
            if (e instanceof MailConnectException || e instanceof AuthenticationFailedException) {
                mail.showed(false, MailChannel.reason(e));
            }
            failed(claimed, e);
        }
    }

    private void failed(Claimed claimed, Exception e) {
        var why = e.getClass().getSimpleName();
        log.warn("message {} not sent: {}", claimed.id(), why);
        if (afterData(e)) {
            end(claimed, "uncertain", "notification.uncertain", why);
        } else if (claimed.tries() >= MOST_TRIES) {
            end(claimed, "failed", "notification.failed", why);
        } else {
            var wait = Duration.ofSeconds(Math.min(300, 1L << Math.min(8, claimed.tries())));
            transaction.executeWithoutResult(status -> {
                Sql.change(database, "UPDATE notification SET state = 'queued', next_try = :next WHERE id = :id")
                        .setParameter("next", clock.instant().plus(wait))
                        .setParameter("id", claimed.id())
                        .executeUpdate();
                if (claimed.tries() == 1) {
                    record(claimed.attempt(), claimed.revision(), claimed.kind(), "notification.retried", why);
                }
            });
        }
    }

    /** Whether the server may have taken the message although it never said so. */
    private static boolean afterData(Exception e) {
        return e instanceof MessagingException messaging
                && messaging.getNextException() instanceof IOException
                && !(messaging instanceof MailConnectException);
    }

    private void end(Claimed claimed, String state, String kind, String why) {
        transaction.executeWithoutResult(status -> {
            Sql.change(
                            database,
                            "UPDATE notification SET state = :state, payload = NULL, ended_at = :now WHERE id = :id")
                    .setParameter("state", state)
                    .setParameter("now", clock.instant())
                    .setParameter("id", claimed.id())
                    .executeUpdate();
            record(claimed.attempt(), claimed.revision(), claimed.kind(), kind, why);
        });
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
            record(
                    row.attempt(),
                    row.revision(),
                    row.kind(),
                    "notification." + row.state(),
                    "it could not be sent in time");
        }
    }

    private void record(UUID attempt, int revision, String message, String kind, String why) {
        events.write(Notifications.about(attempt, kind, revision)
                .with("message", message)
                .with("why", why));
    }
}
