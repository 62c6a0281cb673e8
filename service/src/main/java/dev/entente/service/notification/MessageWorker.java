package dev.entente.service.notification;

import dev.entente.core.audit.EventKind;
import dev.entente.core.verify.Channel;
import dev.entente.service.audit.EventLog;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Sql;
import jakarta.annotation.PreDestroy;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Semaphore;
import org.hibernate.Session;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.json.JsonMapper;

/**
 * Sends what is queued. A message is claimed in one transaction, sent outside any, and its fate recorded in another. A
 * message whose sender died in between is {@code uncertain} and not silently repeated.
 *
 * <p>News waits behind codes, and goes at a pace, so that telling thousands of people something keeps nobody from a code, and no
 * server is flooded. Messages of one origin stand behind each other: each comes with the number of those that waited before it, its lane, and
 * lower lanes go first. However many codes one network asks for, everybody else's go before its second one.
 */
abstract class MessageWorker<B> {
    private static final Logger log = LoggerFactory.getLogger(MessageWorker.class);
    private static final Duration CLAIM = Duration.ofMinutes(2);
    private static final int MOST_TRIES = 12;

    private final Session database;
    private final EventLog events;
    private final KeyRing keys;
    private final JsonMapper json;
    private final InstantSource clock;
    private final TransactionTemplate transaction;
    private final String[] channels;
    private final ExecutorService sending;
    private final Semaphore free;
    private final ExecutorService claiming = Executors.newSingleThreadExecutor();
    /** Whether more may wait than there was room for. */
    private volatile boolean more;

    /**
     * @param channels those whose messages it sends
     * @param atOnce how many it sends at a time
     */
    MessageWorker(
            Session database,
            EventLog events,
            KeyRing keys,
            JsonMapper json,
            InstantSource clock,
            TransactionTemplate transaction,
            Set<Channel> channels,
            int atOnce) {
        this.channels = channels.stream().map(Channel::label).toArray(String[]::new);
        this.sending = Executors.newFixedThreadPool(atOnce);
        this.free = new Semaphore(atOnce);
        this.database = database;
        this.events = events;
        this.keys = keys;
        this.json = json;
        this.clock = clock;
        this.transaction = transaction;
    }

    @PreDestroy
    void stop() {
        claiming.shutdown();
        sending.shutdown();
    }

    /** A message that this node sends now. */
    record Claimed(
            UUID id,
            UUID attempt,
            int revision,
            String kind,
            String channel,
            UUID person,
            String recipient,
            byte[] payload,
            int tries,
            boolean news,
            Instant expires) {
        MessageFate fate() {
            return new MessageFate(id, attempt, revision, kind, channel, person, recipient);
        }
    }

    /** How messages are sent now; asked in the transaction that claims them. */
    abstract B by();

    /** How much news may go by it in a minute. */
    abstract int pace(B by);

    /**
     * Sends one.
     *
     * @return the gateway that took it and what it calls it; null where nothing more is heard of a message
     */
    abstract Taken send(B by, Claimed claimed, Outbox.Letter letter) throws NotSent;

    /** Who took a message, and under which reference. */
    record Taken(String gateway, String reference) {}

    void wake() {
        claiming.execute(this::sendWaiting);
    }

    /** Takes as many as there is room for, and more when one of them is done, if there may be more. */
    final void sendWaiting() {
        var room = free.drainPermits();
        if (room == 0) {
            more = true;
            return;
        }
        var claimed = new Batch<B>(null, List.of());
        try {
            claimed = transaction.execute(status -> {
                var by = by();
                return new Batch<>(by, claim(room, pace(by)));
            });
        } catch (RuntimeException e) {
            // Such as a database that is away; the next look is a moment later.
            log.warn("messages are not sent for now: {}", e.getClass().getSimpleName());
        }
        if (claimed.messages().size() == room) {
            more = true;
        }
        free.release(room - claimed.messages().size());
        var by = claimed.by();
        claimed.messages().forEach(one -> sending.execute(() -> sendOne(by, one)));
    }

    private record Batch<B>(B by, List<Claimed> messages) {}

    private void sendOne(B by, Claimed claimed) {
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

    private List<Claimed> claim(int most, int pace) {
        return Sql.rows(database, """
                        WITH soon AS (
                            SELECT id FROM notification WHERE state = 'queued' AND next_try <= :now AND expires_at > :now
                            AND channel = ANY(cast(:channels AS text[])) AND NOT news
                            ORDER BY lane, next_try FOR UPDATE SKIP LOCKED LIMIT :most),
                        later AS (
                            SELECT id FROM notification WHERE state = 'queued' AND next_try <= :now AND expires_at > :now
                            AND channel = ANY(cast(:channels AS text[])) AND news
                            ORDER BY lane, next_try FOR UPDATE SKIP LOCKED
                            LIMIT greatest(0, least(:most - (SELECT count(*) FROM soon), :pace - (SELECT count(*) FROM notification
                                WHERE news AND begun_at > :minute AND begun_at <= :now AND channel = ANY(cast(:channels AS text[]))))))
                        UPDATE notification SET state = 'sending', tries = tries + 1, next_try = :until, begun_at = :now
                        WHERE id IN (SELECT id FROM soon UNION ALL SELECT id FROM later)
                        RETURNING id, attempt, revision, kind, channel, person, recipient, payload, tries, news, expires_at AS expires""", Claimed.class)
                .setParameter("most", most)
                .setParameter("pace", pace)
                .setParameter("channels", channels)
                .setParameter("now", clock.instant())
                .setParameter("minute", clock.instant().minus(Duration.ofMinutes(1)))
                .setParameter("until", clock.instant().plus(CLAIM))
                .getResultList();
    }

    private void send(B by, Claimed claimed) {
        var message =
                json.readValue(keys.decrypt("notification " + claimed.id(), claimed.payload()), Outbox.Letter.class);
        if (message.to() == null) {
            end(claimed, "expired", "notification.dropped", "there is nobody to send it to");
            return;
        }
        try {
            var taken = send(by, claimed, message);
            end(claimed, "sent", "notification.sent", null, taken);
        } catch (NotSent e) {
            failed(claimed, e);
        }
    }

    private void failed(Claimed claimed, NotSent e) {
        var why = EventKind.withoutAddresses(e.getMessage());
        log.warn("message {} not sent: {}", claimed.id(), why);
        if (e.uncertain()) {
            end(claimed, "uncertain", "notification.uncertain", why);
        } else if (e.forGood() || claimed.tries() >= MOST_TRIES) {
            end(claimed, "failed", "notification.failed", why);
        } else {
            var wait = Duration.ofSeconds(Math.min(300, 1L << Math.min(8, claimed.tries())));
            transaction.executeWithoutResult(status -> {
                Sql.change(
                                database,
                                "UPDATE notification SET state = 'queued', next_try = :next, why = :why WHERE id = :id")
                        .setParameter("next", clock.instant().plus(wait))
                        .setParameter("why", why)
                        .setParameter("id", claimed.id())
                        .executeUpdate();
                if (claimed.tries() == 1) {
                    events.write(claimed.fate().event("notification.retried").with("why", why));
                }
            });
        }
    }

    private void end(Claimed claimed, String state, String kind, String why) {
        end(claimed, state, kind, why, null);
    }

    private void end(Claimed claimed, String state, String kind, String why, Taken taken) {
        transaction.executeWithoutResult(status -> {
            Sql.change(database, """
                            UPDATE notification SET state = :state, payload = CASE WHEN news THEN payload END, ended_at = :now,
                                gateway = :gateway, gateway_reference = :reference, arrival_asked_at = :now, why = :why
                            WHERE id = :id""")
                    .setParameter("state", state)
                    .setParameter("why", why)
                    .setParameter("now", clock.instant())
                    .setParameter("gateway", taken == null ? null : taken.gateway())
                    .setParameter("reference", taken == null ? null : taken.reference())
                    .setParameter("id", claimed.id())
                    .executeUpdate();
            events.write(claimed.fate().event(kind).with("why", why));
        });
    }
}
