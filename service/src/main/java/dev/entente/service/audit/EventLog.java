package dev.entente.service.audit;

import dev.entente.core.audit.AuditEvent;
import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind.Retention;
import dev.entente.service.platform.KeyRing;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.TreeMap;
import java.util.UUID;
import org.hibernate.Session;
import org.hibernate.id.uuid.UuidVersion7Strategy;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionSynchronization;
import org.springframework.transaction.support.TransactionSynchronizationManager;
import tools.jackson.databind.json.JsonMapper;

/**
 * Puts events on record, in the transaction of the fact that they tell. They are kept until it is about to commit and then
 * written together, in one statement however many there are: a steward's call may end many deliveries at once. All of them bear the
 * time of the first.
 */
@Component
public class EventLog {
    /** At most so many events share the row of a word: with its 120 characters it has to fit into the 2,704 bytes of an index entry. */
    private static final int TOGETHER = 100;

    private final Session database;
    private final KeyRing keys;
    private final JsonMapper json;
    private final InstantSource clock;

    EventLog(Session database, KeyRing keys, JsonMapper json, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.json = json;
        this.clock = clock;
    }

    /**
     * Writes an event; it becomes part of the record if and only if the transaction commits.
     *
     * @throws IllegalArgumentException if it is not what the catalogue says, and then what it tells does not happen either
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public void write(NewEvent event) {
        kept().events.add(event.fitted());
    }

    /** A word of one class: a row is cut off with its month, so it never holds events that are kept longer. */
    private record Word(String term, Retention retention) {}

    private Unwritten kept() {
        for (var synchronization : TransactionSynchronizationManager.getSynchronizations()) {
            if (synchronization instanceof Unwritten kept) {
                return kept;
            }
        }
        var kept = new Unwritten(clock.millis());
        TransactionSynchronizationManager.registerSynchronization(kept);
        return kept;
    }

    /** The events of one transaction. */
    private final class Unwritten implements TransactionSynchronization {
        private final long at;
        private final List<NewEvent> events = new ArrayList<>();

        private Unwritten(long at) {
            this.at = at;
        }

        @Override
        public void beforeCommit(boolean readOnly) {
            // Plain statements: nothing here depends on what the session has not written yet.
            database.doWork(connection -> insert(connection, at, events));
        }
    }

    private void insert(Connection connection, long at, List<NewEvent> events) throws SQLException {
        var nth = new HashMap<UUID, Integer>();
        var rows = new Rows("uuid", "text", "text", "uuid", "int4", "int4", "text", "text", "bytea", "bytea", "bytea");
        var personal = new Rows("uuid", "text", "text", "bytea");
        var under = new HashMap<Word, List<UUID>>();
        for (var event : events) {
            // Ids in order of writing: lists by time then keep that order, and new entries of indexes lie side by side.
            var id = UuidVersion7Strategy.INSTANCE.generateUuid(null);
            var commitments = new TreeMap<String, String>();
            event.personal().forEach((name, value) -> {
                var salt = keys.randomBytes(AuditEvent.SALT_LENGTH);
                commitments.put(name, AuditEvent.commit(salt, name, value));
                personal.add(id, name, value, salt);
            });
            EventCatalogue.toWrite(event.kind())
                    .terms(event.data(), event.personal())
                    .forEach(term -> under.computeIfAbsent(new Word(term, event.retention()), word -> new ArrayList<>())
                            .add(id));
            var around = new AuditEvent(
                            AuditEvent.VERSION,
                            id,
                            at,
                            event.kind(),
                            event.retention().label(),
                            event.attempt(),
                            null,
                            0,
                            event.revision(),
                            event.data(),
                            commitments)
                    .around();
            rows.add(
                    id,
                    event.retention().label(),
                    event.kind(),
                    event.attempt(),
                    event.attempt() == null ? 0 : nth.merge(event.attempt(), 1, Integer::sum),
                    event.revision(),
                    json.writeValueAsString(event.data()),
                    json.writeValueAsString(commitments),
                    around.before(),
                    around.between(),
                    around.after());
        }
        var terms = new Rows("text", "uuid", "int4", "int4");
        var others = new ArrayList<UUID>();
        under.forEach((word, all) -> {
            for (var from = 0; from < all.size(); from += TOGETHER) {
                var some = all.subList(from, Math.min(all.size(), from + TOGETHER));
                terms.add(word.term(), some.get(0), others.size() + 1, others.size() + some.size() - 1);
                others.addAll(some.subList(1, some.size()));
            }
        });
        // What was called by a reference is kept by it. The next numbers of each attempt are taken in one order, so
        // that two transactions never wait for each other;
        // the hash is that of AuditEvent, which the signer works out anew.
        try (var statement = connection.prepareStatement("""
                WITH moment AS (SELECT timestamptz 'epoch' + ? * interval '1 ms' AS at),
                    fresh AS (SELECT * FROM unnest(?::uuid[], ?::text[], ?::text[], ?::uuid[], ?::int[],
                        ?::int[], ?::text[], ?::text[], ?::bytea[], ?::bytea[], ?::bytea[])
                        AS f(id, class, kind, attempt, nth, revision, data, commitments, before, between, after)),
                    counted AS (SELECT attempt, max(nth) AS n FROM fresh WHERE attempt IS NOT NULL GROUP BY attempt),
                    taken AS (INSERT INTO event_ordinal AS o (attempt, ordinal) SELECT attempt, n FROM counted ORDER BY attempt
                        ON CONFLICT (attempt) DO UPDATE SET ordinal = o.ordinal + excluded.ordinal
                        RETURNING attempt, ordinal),
                    numbered AS (SELECT f.*, coalesce(t.ordinal - c.n + f.nth, 0) AS ordinal, r.reference FROM fresh f
                        LEFT JOIN taken t ON t.attempt = f.attempt LEFT JOIN counted c ON c.attempt = f.attempt
                        LEFT JOIN attempt_reference r ON r.attempt = f.attempt),
                    personal AS (INSERT INTO event_personal (event, name, value, salt)
                        SELECT * FROM unnest(?::uuid[], ?::text[], ?::text[], ?::bytea[])),
                    terms AS (INSERT INTO event_term (term, at, event, others)
                        SELECT t.term, m.at, t.event, CASE WHEN t.last >= t.first THEN (?::uuid[])[t.first:t.last] END
                        FROM moment m, unnest(?::text[], ?::uuid[], ?::int[], ?::int[]) AS t(term, event, first, last))
                INSERT INTO event (id, retention_class, occurred_at, kind, attempt, reference, ordinal, revision, data, commitments,
                    leaf_version, leaf_hash) SELECT id, class, m.at, kind, attempt, reference,
                    ordinal, revision, data::jsonb, commitments::jsonb, 2,
                    sha256('\\x00'::bytea || before || convert_to(ordinal::text, 'UTF8') || between
                        || convert_to(coalesce('"' || reference || '"', 'null'), 'UTF8') || after) FROM numbered, moment m""")) {
            statement.setLong(1, at);
            var next = personal.set(statement, rows.set(statement, 2));
            statement.setArray(next, connection.createArrayOf("uuid", others.toArray()));
            terms.set(statement, next + 1);
            statement.executeUpdate();
        }
    }

    /** Rows as PostgreSQL takes many at once: an array for each column. */
    private static final class Rows {
        private final List<String> types;
        private final List<List<Object>> columns;

        Rows(String... types) {
            this.types = List.of(types);
            this.columns = this.types.stream()
                    .<List<Object>>map(type -> new ArrayList<>())
                    .toList();
        }

        void add(Object... row) {
            for (var i = 0; i < row.length; i++) {
                columns.get(i).add(row[i]);
            }
        }

        /** @return the parameter after the last one set */
        int set(PreparedStatement statement, int first) throws SQLException {
            for (var i = 0; i < types.size(); i++) {
                // Of these types the driver sends the bytes of the values instead of a text to be read.
                var values = columns.get(i)
                        .toArray(
                                switch (types.get(i)) {
                                    case "bytea" -> new byte[0][];
                                    case "text" -> new String[0];
                                    case "int4" -> new Integer[0];
                                    default -> new Object[0];
                                });
                statement.setArray(first + i, statement.getConnection().createArrayOf(types.get(i), values));
            }
            return first + types.size();
        }
    }
}
