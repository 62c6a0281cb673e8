package dev.entente.service.delivery;

import dev.entente.core.attempt.Cause;
import dev.entente.core.delivery.Delivery;
import dev.entente.core.delivery.DeliveryState;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.EnumType;
import jakarta.persistence.Enumerated;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.UUID;
import org.hibernate.annotations.DynamicUpdate;

/** One password, or an unlock, on its way to one account. */
@Entity
@DynamicUpdate
@Table(name = "delivery")
class DeliveryRow {
    @Id
    UUID id;

    UUID attempt;
    int sealing;
    String action;
    UUID directory;
    UUID account;
    /** The account's name when the delivery was made. */
    String login;
    /** The revision and the policy that decided about the attempt. */
    int revision;

    String policy;
    /** The attempt's, digits only. */
    String reference;

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

    @Column(name = "retry_at")
    Instant retryAt;

    @Column(name = "leased_at")
    Instant leasedAt;

    @Column(name = "begun_at")
    Instant begunAt;

    /** When a steward was last asked to look what became of it, after it was told as unknown. */
    @Column(name = "checked_at")
    Instant checkedAt;

    /** When a temporary password that nobody used is replaced. */
    @Column(name = "retire_at")
    Instant retireAt;

    @Column(name = "created_at")
    Instant createdAt;

    @Column(name = "expires_at")
    Instant expiresAt;

    @Column(name = "ended_at")
    Instant endedAt;

    /** Whether the person was told that it took effect. */
    boolean told;

    /** As the machine sees it. */
    Delivery machine() {
        return new Delivery(
                DeliveryState.labelled(state),
                epoch,
                steward,
                leasedUntil,
                heldUntil,
                begunVersion == null ? null : new Delivery.Noted(begunServer, begunVersion),
                begunAt,
                checkedAt,
                endedAt,
                cause,
                receipt,
                expiresAt,
                sealed != null);
    }

    /** What a step that ended or settled it has changed. */
    void take(Delivery after) {
        state = after.state().label();
        cause = after.cause();
        receipt = after.receipt();
        endedAt = after.endedAt();
    }

    /** The latest of each account, in the order in which accounts came. */
    static List<DeliveryRow> latest(List<DeliveryRow> rows) {
        var latest = new LinkedHashMap<UUID, DeliveryRow>();
        rows.forEach(row -> latest.put(row.account, row));
        return List.copyOf(latest.values());
    }
}
