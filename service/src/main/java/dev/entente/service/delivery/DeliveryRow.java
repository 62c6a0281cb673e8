package dev.entente.service.delivery;

import dev.entente.core.attempt.Cause;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.EnumType;
import jakarta.persistence.Enumerated;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.UUID;

/** One sealed password on its way to one account. */
@Entity
@Table(name = "delivery")
class DeliveryRow {
    @Id
    UUID id;

    UUID attempt;
    int sealing;
    UUID directory;
    UUID account;
    UUID sealed;
    String state;
    int epoch;
    UUID steward;

    @Column(name = "leased_until")
    Instant leasedUntil;

    @Column(name = "held_until")
    Instant heldUntil;

    @Column(name = "begun_server")
    String begunServer;

    @Column(name = "begun_version")
    String begunVersion;

    @Enumerated(EnumType.STRING)
    Cause cause;

    String receipt;

    @Column(name = "created_at")
    Instant createdAt;

    @Column(name = "expires_at")
    Instant expiresAt;

    @Column(name = "ended_at")
    Instant endedAt;
}
