package dev.entente.service.audit;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionSynchronization;
import org.springframework.transaction.support.TransactionSynchronizationManager;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Puts on record that an administrator looked at what concerns somebody. Pages ask again by themselves, so the same administrator's
 * look at the same is on record once in a quarter of an hour on each node. What cannot be put on record is not shown.
 */
@Component
public class Readings {
    private static final Duration ANEW = Duration.ofMinutes(15);
    private static final int MOST_REMEMBERED = 10_000;

    private final EventLog events;
    private final TransactionTemplate transaction;
    private final InstantSource clock;
    private final Map<Reading, Instant> remembered = new ConcurrentHashMap<>();
    private final Map<Reading, Listed> lists = new ConcurrentHashMap<>();

    Readings(EventLog events, TransactionTemplate transaction, InstantSource clock) {
        this.events = events;
        this.transaction = transaction;
        this.clock = clock;
    }

    private record Reading(String administrator, String page, String what) {}

    /** The page of a person, or what they can do and why. */
    public void ofPerson(String administrator, UUID person, String name) {
        once(
                new Reading(administrator, "person", person.toString()),
                read(administrator, "person").with("person", person.toString()).withPersonal("name", name));
    }

    /** An attempt with everything that happened. */
    public void ofAttempt(String administrator, String reference) {
        once(
                new Reading(administrator, "attempt", reference),
                read(administrator, "attempt").with("about", reference));
    }

    /** What a message says. */
    public void ofMessage(String administrator, UUID message) {
        once(
                new Reading(administrator, "message", message.toString()),
                read(administrator, "message").with("about", message.toString()));
    }

    /** Events that were sought by somebody's name. */
    void ofEvents(String administrator, String name) {
        once(
                new Reading(administrator, "events", name),
                read(administrator, "events").withPersonal("name", name));
    }

    /**
     * Records that a list of people was read: once every 15 minutes, and again each time the number of entries has grown tenfold.
     *
     * @param what is read, a word
     * @param asked what was looked for; empty for everything
     * @param many how many this answer holds
     */
    void ofList(String administrator, String what, String asked, int many) {
        var reading = new Reading(administrator, "list " + what, asked);
        var now = clock.instant();
        var last = lists.get(reading);
        var fresh = last != null && Duration.between(last.since(), now).abs().compareTo(ANEW) < 0;
        var total = (fresh ? last.total() : 0) + many;
        if (fresh && total < 10 * last.told()) {
            keep(reading, new Listed(last.since(), total, last.told()));
            return;
        }
        transaction.executeWithoutResult(status -> events.write(NewEvent.administration("list.read", administrator)
                .with("what", what)
                .with("many", total)
                .withPersonal("asked", asked.isEmpty() ? null : asked)));
        keep(reading, new Listed(fresh ? last.since() : now, total, total));
    }

    /**
     * What was read of a list lately.
     *
     * @param told how many were on record at the last time
     */
    private record Listed(Instant since, long total, long told) {}

    private void keep(Reading reading, Listed listed) {
        if (lists.size() >= MOST_REMEMBERED) {
            lists.clear();
        }
        lists.put(reading, listed);
    }

    private static NewEvent read(String administrator, String page) {
        return NewEvent.administration("page.read", administrator).with("page", page);
    }

    private void once(Reading reading, NewEvent event) {
        var now = clock.instant();
        var last = remembered.get(reading);
        if (last != null && Duration.between(last, now).abs().compareTo(ANEW) < 0) {
            return;
        }
        transaction.executeWithoutResult(status -> {
            events.write(event);
            TransactionSynchronizationManager.registerSynchronization(new TransactionSynchronization() {
                @Override
                public void afterCommit() {
                    remember(reading, now);
                }
            });
        });
    }

    private void remember(Reading reading, Instant now) {
        if (remembered.size() >= MOST_REMEMBERED) {
            remembered.clear();
        }
        remembered.put(reading, now);
    }
}
