package dev.entente.service.audit;

import dev.entente.core.audit.AuditEvent;
import dev.entente.service.platform.KeyRing;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionSynchronization;
import org.springframework.transaction.support.TransactionSynchronizationManager;
import tools.jackson.databind.json.JsonMapper;

/**
 * Puts events on record, in the transaction of the fact that they tell. They are kept until it is about to commit and then
 * written together, in two statements however many there are: a steward's call may end many deliveries at once.
 */
@Component
public class EventLog {
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

    /** Writes an event; it becomes part of the record if and only if the transaction commits. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void write(NewEvent event) {
        kept().events.add(new Happened(event, clock.millis()));
    }

    private record Happened(NewEvent event, long at) {}

    private Kept kept() {
        for (var synchronization : TransactionSynchronizationManager.getSynchronizations()) {
            if (synchronization instanceof Kept kept) {
                return kept;
            }
        }
        var kept = new Kept();
        TransactionSynchronizationManager.registerSynchronization(kept);
        return kept;
    }

    /** What one transaction has to tell. */
    private final class Kept implements TransactionSynchronization {
        private final List<Happened> events = new ArrayList<>();

        @Override
        public void beforeCommit(boolean readOnly) {
            // Plain statements: nothing here depends on what the session has not written yet.
            database.doWork(connection -> insert(connection, events));
        }
    }

    private void insert(Connection connection, List<Happened> events) throws SQLException {
        var ordinals = firstOrdinals(connection, events);
        var rows = new Rows("uuid", "text", "int8", "text", "uuid", "int4", "int4", "text", "text", "bytea");
        var personal = new Rows("uuid", "text", "text", "bytea");
        for (var happened : events) {
            var event = happened.event();
            var id = UUID.randomUUID();
            var commitments = new TreeMap<String, String>();
            event.personal().forEach((name, value) -> {
                var salt = keys.randomBytes(AuditEvent.SALT_LENGTH);
                commitments.put(name, AuditEvent.commit(salt, name, value));
                personal.add(id, name, value, salt);
            });
            var ordinal = event.attempt() == null ? 0 : ordinals.merge(event.attempt(), 1, Integer::sum) - 1;
            var hashed = new AuditEvent(
                    id,
                    happened.at(),
                    event.kind(),
                    event.attempt(),
                    ordinal,
                    event.revision(),
                    event.data(),
                    commitments);
            rows.add(
                    id,
                    event.retention().name().toLowerCase(Locale.ROOT),
                    happened.at(),
                    event.kind(),
                    event.attempt(),
                    ordinal,
                    event.revision(),
                    json.writeValueAsString(event.data()),
                    json.writeValueAsString(commitments),
                    hashed.leafHash());
        }
        try (var statement = connection.prepareStatement("""
                WITH fresh AS (SELECT * FROM unnest(?::uuid[], ?::text[], ?::bigint[], ?::text[], ?::uuid[], ?::int[],
                        ?::int[], ?::text[], ?::text[], ?::bytea[])
                        AS f(id, class, at, kind, attempt, ordinal, revision, data, commitments, hash)),
                    personal AS (INSERT INTO event_personal (event, name, value, salt)
                        SELECT * FROM unnest(?::uuid[], ?::text[], ?::text[], ?::bytea[]))
                INSERT INTO event (id, retention_class, occurred_at, kind, attempt, ordinal, revision, data, commitments,
                    leaf_hash) SELECT id, class, timestamptz 'epoch' + at * interval '1 ms', kind, attempt, ordinal, revision, data::jsonb,
                    commitments::jsonb, hash FROM fresh""")) {
            personal.set(statement, rows.set(statement, 1));
            statement.executeUpdate();
        }
    }

    /** The next ordinal of each attempt, and as many behind it as the attempt has events here. */
    private static Map<UUID, Integer> firstOrdinals(Connection connection, List<Happened> events) throws SQLException {
        var counts = new TreeMap<UUID, Integer>();
        events.stream()
                .map(e -> e.event().attempt())
                .filter(attempt -> attempt != null)
                .forEach(attempt -> counts.merge(attempt, 1, Integer::sum));
        var first = new HashMap<UUID, Integer>();
        if (counts.isEmpty()) {
            return first;
        }
        // In one order, so that two transactions never wait for each other.
        try (var statement = connection.prepareStatement("""
                INSERT INTO event_ordinal AS o (attempt, ordinal) SELECT * FROM unnest(?::uuid[], ?::int[]) AS n(a, c)
                ORDER BY 1 ON CONFLICT (attempt) DO UPDATE SET ordinal = o.ordinal + excluded.ordinal
                RETURNING attempt, ordinal""")) {
            statement.setArray(
                    1, connection.createArrayOf("uuid", counts.keySet().toArray()));
            statement.setArray(
                    2, connection.createArrayOf("int4", counts.values().toArray()));
            try (var rows = statement.executeQuery()) {
                while (rows.next()) {
                    var attempt = rows.getObject(1, UUID.class);
                    first.put(attempt, rows.getInt(2) - counts.get(attempt) + 1);
                }
            }
        }
        return first;
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
                var values = columns.get(i).toArray(types.get(i).equals("bytea") ? new byte[0][] : new Object[0]);
                statement.setArray(first + i, statement.getConnection().createArrayOf(types.get(i), values));
            }
            return first + types.size();
        }
    }
}
