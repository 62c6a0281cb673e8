package dev.entente.service.platform;

import java.util.EnumMap;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionSynchronization;
import org.springframework.transaction.support.TransactionSynchronizationManager;

/**
 * What changes rarely and is asked for all the time: read once and kept in memory. Each topic has a stamp in the database, the
 * number of the transaction that changed it last (a trigger sees to that). The stamps are read once in a transaction, and what
 * was kept under another stamp is read anew. So nobody is ever told what was not in force any more when their transaction began,
 * on whatever node, and nothing depends on having heard of a change.
 */
@Component
public class Standing {
    /** What is kept apart; the names are those of the table's rows. */
    public enum Topic {
        /** Names, rosters, suspension and trust of directories. */
        DIRECTORY,
        /** That something was read anew from directories: groups, OUs, protected groups. */
        PEOPLE,
        /** Stewards and their sealing keys, but not when they were last heard of. */
        STEWARD,
        STOP,
        /** The mail channel, and whether it works. */
        CHANNEL,
        REVISION
    }

    private record Key(Topic topic, Object name) {}

    private record Remembered(String stamp, Object value) {}

    /** More than all directories have of anything that is kept. */
    private static final int MOST = 10_000;

    private final Session database;
    private final Map<Key, Remembered> kept = new ConcurrentHashMap<>();

    Standing(Session database) {
        this.database = database;
    }

    /** The stamps of one transaction, for as long as it lasts. */
    private static final class Stamps implements TransactionSynchronization {
        private final Map<Topic, String> by;

        Stamps(Map<Topic, String> by) {
            this.by = by;
        }
    }

    /**
     * What was read before, or what {@code read} gives if it changed since.
     *
     * @param name tells apart what is kept of one topic
     * @param read reads it in this transaction; its value must not be changed by anybody
     */
    @Transactional(readOnly = true)
    public <T> T kept(Topic topic, Object name, Class<T> type, Supplier<T> read) {
        var stamp = stamps().by.get(topic);
        var key = new Key(topic, name);
        var known = kept.get(key);
        if (known != null && known.stamp().equals(stamp)) {
            return type.cast(known.value());
        }
        var value = read.get();
        // What this transaction changed itself is not in force for anybody else yet.
        if (!changes()) {
            if (kept.size() > MOST) {
                kept.clear();
            }
            kept.put(key, new Remembered(stamp, value));
        }
        return value;
    }

    /** What was read last, whether it is still so or not: for what nothing hangs on. */
    public <T> Optional<T> lastKnown(Topic topic, Object name, Class<T> type) {
        return Optional.ofNullable(kept.get(new Key(topic, name)))
                .map(Remembered::value)
                .map(type::cast);
    }

    /** Differs whenever something of these topics has changed. */
    @Transactional(readOnly = true)
    public String stamp(Topic... topics) {
        var stamp = new StringBuilder();
        for (var topic : topics) {
            stamp.append(stamps().by.get(topic)).append(' ');
        }
        return stamp.toString();
    }

    private Stamps stamps() {
        for (var synchronization : TransactionSynchronizationManager.getSynchronizations()) {
            if (synchronization instanceof Stamps stamps) {
                return stamps;
            }
        }
        var stamps = new Stamps(read());
        TransactionSynchronizationManager.registerSynchronization(stamps);
        return stamps;
    }

    private record Stamp(Topic topic, String stamp) {}

    private Map<Topic, String> read() {
        var by = new EnumMap<Topic, String>(Topic.class);
        Sql.rows(database, "SELECT upper(topic) AS topic, cast(changed_by AS text) AS stamp FROM standing", Stamp.class)
                .getResultStream()
                .forEach(row -> by.put(row.topic(), row.stamp()));
        return by;
    }

    private boolean changes() {
        return "yes"
                .equals(Sql.values(database, "SELECT current_setting('entente.changes', true)", String.class)
                        .getSingleResult());
    }
}
