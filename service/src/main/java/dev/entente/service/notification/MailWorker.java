package dev.entente.service.notification;

import dev.entente.service.audit.EventLog;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.WakeUps;
import jakarta.annotation.PreDestroy;
import jakarta.mail.AuthenticationFailedException;
import jakarta.mail.MessagingException;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Semaphore;
import org.eclipse.angus.mail.util.MailConnectException;
import org.hibernate.Session;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.EventListener;
import org.springframework.scheduling.annotation.Scheduled;
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
        sending.shutdown();
    }

    private record Claimed(UUID id, UUID attempt, String kind, byte[] payload, int tries, Instant expires) {}

    /** A wake-up may get lost, and what is tried again waits for its time. */
    @Scheduled(fixedDelay = 1000)
    void look() {
        begin();
    }

    @EventListener
    void wake(WakeUps.MailWaits mail) {
        begin();
    }

    private void begin() {
        if (free.tryAcquire()) {
            sending.execute(this::sendAll);
        }
    }

    private void sendAll() {
        try {
            for (var next = claim(); next.isPresent(); next = claim()) {
                // Nobody waits for a slow conversation with the server but the one who holds it.
                begin();
                send(next.get());
            }
        } catch (RuntimeException e) {
            // Such as a database that is away; the next round is a moment later.
            log.warn("mail is not sent for now: {}", e.getClass().getSimpleName());
        } finally {
            free.release();
        }
    }

    private Optional<Claimed> claim() {
        return transaction.execute(status -> database.createNativeQuery("""
                        UPDATE notification SET state = 'sending', tries = tries + 1, next_try = :until WHERE id = (
                            SELECT id FROM notification WHERE state = 'queued' AND next_try <= :now AND expires_at > :now
                            ORDER BY lane, next_try FOR UPDATE SKIP LOCKED LIMIT 1)
                        RETURNING id, attempt, kind, payload, tries, expires_at""", Object[].class)
                .setParameter("now", clock.instant())
                .setParameter("until", clock.instant().plus(CLAIM))
                .getResultStream()
                .map(r -> new Claimed(
                        (UUID) r[0], (UUID) r[1], (String) r[2], (byte[]) r[3], (Integer) r[4], (Instant) r[5]))
                .findFirst());
    }

    private void send(Claimed claimed) {
        var message = json.readValue(
                keys.decrypt("notification " + claimed.id(), claimed.payload()), Notifications.Letter.class);
        if (message.to() == null) {
            end(claimed, "expired", "notification.dropped", "there is nobody to send it to");
            return;
        }
        try {
            mail.send(claimed.id(), message.to(), message.subject(), message.text());
            mail.showed(true, null);
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
                database.createNativeMutationQuery(
                                "UPDATE notification SET state = 'queued', next_try = :next WHERE id = :id")
                        .setParameter("next", clock.instant().plus(wait))
                        .setParameter("id", claimed.id())
                        .executeUpdate();
                if (claimed.tries() == 1) {
                    record(claimed.attempt(), claimed.kind(), "notification.retried", why);
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
            database.createNativeMutationQuery(
                            "UPDATE notification SET state = :state, payload = NULL, ended_at = :now WHERE id = :id")
                    .setParameter("state", state)
                    .setParameter("now", clock.instant())
                    .setParameter("id", claimed.id())
                    .executeUpdate();
            record(claimed.attempt(), claimed.kind(), kind, why);
        });
    }

    /** Drops what came too late, and tells what died half-way. */
    @Scheduled(fixedDelay = 5000)
    @Transactional
    void expire() {
        for (var row : database.createNativeQuery("""
                        UPDATE notification SET state = CASE WHEN state = 'sending' THEN 'uncertain' ELSE 'failed' END,
                            payload = NULL, ended_at = :now
                        WHERE state = 'queued' AND expires_at <= :now OR state = 'sending' AND next_try <= :now
                        RETURNING attempt, kind, state""", Object[].class)
                .setParameter("now", clock.instant())
                .getResultList()) {
            record((UUID) row[0], (String) row[1], "notification." + row[2], "it could not be sent in time");
        }
    }

    private void record(UUID attempt, String message, String kind, String why) {
        var revision = database.createNativeQuery(
                        "SELECT revision FROM attempt WHERE id = cast(:attempt AS uuid)", Integer.class)
                .setParameter("attempt", attempt)
                .getResultStream()
                .findFirst()
                .orElse(0);
        events.write(Notifications.about(attempt, kind, revision)
                .with("message", message)
                .with("why", why));
    }
}
