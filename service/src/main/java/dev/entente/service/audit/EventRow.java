package dev.entente.service.audit;

import dev.entente.core.audit.AuditEvent;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.io.Serializable;
import java.time.Instant;
import java.util.Map;
import java.util.UUID;
import org.hibernate.annotations.Immutable;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** An event as stored; written once. */
@Entity
@Immutable
@Table(name = "event")
@IdClass(EventRow.Key.class)
class EventRow {
    @Id
    UUID id;

    @Id
    @Column(name = "retention_class")
    String retentionClass;

    @Id
    @Column(name = "occurred_at")
    Instant occurredAt;

    String kind;
    UUID attempt;
    String reference;
    int ordinal;
    int revision;

    @JdbcTypeCode(SqlTypes.JSON)
    Map<String, Object> data;

    @JdbcTypeCode(SqlTypes.JSON)
    Map<String, String> commitments;

    @Column(name = "leaf_version")
    int leafVersion;

    @Column(name = "leaf_hash")
    byte[] leafHash;

    /** What it says, as it is hashed. */
    AuditEvent content() {
        return new AuditEvent(
                leafVersion,
                id,
                occurredAt.toEpochMilli(),
                kind,
                leafVersion == 1 ? null : retentionClass,
                attempt,
                reference,
                ordinal,
                revision,
                data,
                commitments);
    }

    /** The key includes what the partitions are made by. */
    record Key(UUID id, String retentionClass, Instant occurredAt) implements Serializable {}
}
