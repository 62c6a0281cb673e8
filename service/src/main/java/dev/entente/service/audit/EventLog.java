package dev.entente.service.audit;

import dev.entente.core.audit.AuditEvent;
import dev.entente.service.platform.KeyRing;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Locale;
import java.util.TreeMap;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** Puts events on record, in the transaction of the fact that they tell. */
@Component
public class EventLog {
    private final Session database;
    private final KeyRing keys;
    private final InstantSource clock;

    EventLog(Session database, KeyRing keys, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.clock = clock;
    }

    /** Writes an event; it becomes part of the record if and only if the transaction commits. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void write(NewEvent event) {
        var id = UUID.randomUUID();
        var at = clock.millis();
        var commitments = new TreeMap<String, String>();
        event.personal().forEach((name, value) -> {
            var salt = keys.randomBytes(AuditEvent.SALT_LENGTH);
            commitments.put(name, AuditEvent.commit(salt, name, value));
            database.createNativeMutationQuery(
                            "INSERT INTO event_personal (event, name, value, salt) VALUES (:event, :name, :value, :salt)")
                    .setParameter("event", id)
                    .setParameter("name", name)
                    .setParameter("value", value)
                    .setParameter("salt", salt)
                    .executeUpdate();
        });
        var ordinal = event.attempt() == null ? 0 : nextOrdinal(event.attempt());
        var hashed = new AuditEvent(
                id, at, event.kind(), event.attempt(), ordinal, event.revision(), event.data(), commitments);
        var row = new EventRow();
        row.id = id;
        row.retentionClass = event.retention().name().toLowerCase(Locale.ROOT);
        row.occurredAt = Instant.ofEpochMilli(at);
        row.kind = event.kind();
        row.attempt = event.attempt();
        row.ordinal = ordinal;
        row.revision = event.revision();
        row.data = event.data();
        row.commitments = commitments;
        row.leafHash = hashed.leafHash();
        database.persist(row);
        database.createNativeMutationQuery("INSERT INTO event_pending (event) VALUES (:event)")
                .setParameter("event", id)
                .executeUpdate();
    }

    private int nextOrdinal(UUID attempt) {
        return database.createNativeQuery("""
                        INSERT INTO event_ordinal (attempt, ordinal) VALUES (:attempt, 1)
                        ON CONFLICT (attempt) DO UPDATE SET ordinal = event_ordinal.ordinal + 1 RETURNING ordinal""", Integer.class)
                .setParameter("attempt", attempt)
                .getSingleResult();
    }
}
