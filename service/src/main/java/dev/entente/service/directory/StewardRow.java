package dev.entente.service.directory;

import dev.entente.core.seal.EcKey;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.UUID;
import org.hibernate.annotations.DynamicUpdate;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** A steward as stored; whether it serves is said by the roster alone. */
@Entity
// Retiring a steward must not write back what it reported meanwhile.
@DynamicUpdate
@Table(name = "steward")
class StewardRow {
    @Id
    UUID id;

    UUID directory;
    String name;

    @Column(name = "identity_key")
    @JdbcTypeCode(SqlTypes.JSON)
    EcKey identityKey;

    String version;

    @Column(name = "joined_at")
    Instant joinedAt;

    @Column(name = "last_seen")
    Instant lastSeen;

    String server;

    @Column(name = "certificate_ends")
    Instant certificateEnds;

    @Column(name = "latency_ms")
    int latencyMillis;

    boolean replaced;

    @Column(name = "copied_at")
    Instant copiedAt;

    @Column(name = "record_doubt")
    String recordDoubt;

    @Column(name = "retired_at")
    Instant retiredAt;
}
