package dev.entente.core.delivery;

import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import java.time.Duration;
import java.time.Instant;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;

/**
 * One delivery as it stands, and the steps it can take. Each step is pure: it gives the delivery afterwards, or nothing if it is not
 * permitted now. Every time comes from one clock, the database's.
 *
 * <p>An order is held for its lease and for as long as a directory may take to answer; only then may another steward take it over,
 * under the next epoch, who first judges what the one before did. Of receipts only the one of the present holder and epoch counts.
 *
 * @param epoch how often it was handed out
 * @param steward who has it, or had it last; null before the first
 * @param leasedUntil until when its steward may begin
 * @param heldUntil until when nobody else gets it
 * @param noted the version before, as the first steward that began noted it; null before that
 * @param begunAt when writing was allowed; null if it never was
 * @param checkedAt when a steward was last asked to look what became of it; null if none was
 * @param endedAt when it ended; null before
 * @param cause why it did not end as done, or null
 * @param receipt the receipt that ended or settled it, as signed; null if none did
 * @param expiresAt after which nobody gets it any more
 * @param sealed whether its ciphertext is still kept
 */
public record Delivery(
        DeliveryState state,
        int epoch,
        UUID steward,
        Instant leasedUntil,
        Instant heldUntil,
        Noted noted,
        Instant begunAt,
        Instant checkedAt,
        Instant endedAt,
        Cause cause,
        String receipt,
        Instant expiresAt,
        boolean sealed) {
    /** How often an order is handed out at most. */
    public static final int MOST_EPOCHS = 3;

    /** An entry's version, which each server counts by itself. */
    public record Noted(String server, String version) {}

    /**
     * Spans of time.
     *
     * @param lease how long a steward has to begin
     * @param timeout how long a directory may take to answer
     */
    public record Spans(Duration lease, Duration timeout) {}

    /** A new one. */
    public static Delivery waiting(Instant expiresAt, boolean sealed) {
        return new Delivery(
                DeliveryState.WAITING, 0, null, null, null, null, null, null, null, null, null, expiresAt, sealed);
    }

    /** Hands it to a steward. */
    public Optional<Delivery> lease(UUID to, Instant now, Spans spans) {
        var free = state == DeliveryState.WAITING || !state.ended() && heldUntil.isBefore(now);
        if (!free || !expiresAt.isAfter(now) || epoch >= MOST_EPOCHS) {
            return Optional.empty();
        }
        return Optional.of(held(DeliveryState.LEASED, epoch + 1, to, noted, begunAt, now, spans));
    }

    /** Allows the write. The lease begins anew, so that the steward knows how long it may still send it. */
    public Optional<Delivery> begin(UUID by, int under, Noted before, Instant now, Spans spans) {
        if (state != DeliveryState.LEASED || !by.equals(steward) || under != epoch || !leasedUntil.isAfter(now)) {
            return Optional.empty();
        }
        return Optional.of(held(DeliveryState.BEGUN, epoch, steward, before, now, now, spans));
    }

    /** In a steward's hands, from now on for a lease and for as long as a directory may take to answer. */
    private Delivery held(
            DeliveryState as, int under, UUID by, Noted before, Instant writing, Instant now, Spans spans) {
        var lease = now.plus(spans.lease());
        return new Delivery(
                as,
                under,
                by,
                lease,
                lease.plus(spans.timeout()),
                before,
                writing,
                checkedAt,
                null,
                null,
                null,
                expiresAt,
                sealed);
    }

    /**
     * Asks a steward to look what became of one that was told as unknown; not before the time of a lease has passed, when nothing
     * that was on its way can land any more.
     */
    public Optional<Delivery> look(UUID by, Instant now, Spans spans) {
        var last = checkedAt == null ? endedAt : checkedAt;
        if (state != DeliveryState.UNKNOWN
                || !sealed
                || noted == null
                || !expiresAt.isAfter(now)
                || !last.isBefore(now.minus(spans.lease()))) {
            return Optional.empty();
        }
        return Optional.of(new Delivery(
                state,
                epoch + 1,
                by,
                leasedUntil,
                heldUntil,
                noted,
                begunAt,
                now,
                endedAt,
                cause,
                receipt,
                expiresAt,
                true));
    }

    /** What a receipt does. */
    public enum Effect {
        /** It ended the delivery. */
        ENDED,
        /** It settled what had been told as unknown. */
        SETTLED,
        /** A later look could not tell either. */
        STILL_UNKNOWN,
        /** It is the one that counts already, handed in once more. */
        REPEATED,
        /** It came late, or of somebody who does not hold it. */
        IGNORED
    }

    /** What came of a receipt: the delivery is another one only if it ended or settled it. */
    public record Received(Effect effect, Delivery delivery) {}

    /**
     * Takes a receipt whose signature holds.
     *
     * @param by who signed it
     * @param under the epoch it names
     * @param signed as it was signed
     */
    public Received receive(UUID by, int under, Outcome outcome, Cause why, String signed, Instant now) {
        var current = under == epoch && by.equals(steward);
        if (current && state == DeliveryState.UNKNOWN && checkedAt != null) {
            return outcome == Outcome.UNKNOWN || outcome == Outcome.REFUSED
                    ? new Received(Effect.STILL_UNKNOWN, this)
                    : new Received(Effect.SETTLED, as(outcome, why, signed, endedAt));
        }
        if (state.ended() || !current) {
            return new Received(Objects.equals(signed, receipt) ? Effect.REPEATED : Effect.IGNORED, this);
        }
        return new Received(Effect.ENDED, as(outcome, why, signed, now));
    }

    /**
     * Ends what nobody can carry out any more: as failed if nothing was begun, as unknown otherwise.
     *
     * @param hindrance what keeps it from being written, stopped or suspended; null for nothing
     */
    public Optional<Delivery> giveUp(Cause hindrance, Instant now) {
        var neverHandedOut = state == DeliveryState.WAITING && expiresAt.isBefore(now);
        var hindered = begunAt == null && hindrance != null;
        var leftBehind = state != DeliveryState.WAITING
                && heldUntil != null
                && heldUntil.isBefore(now)
                && (epoch >= MOST_EPOCHS || expiresAt.isBefore(now));
        if (state.ended() || !neverHandedOut && !hindered && !leftBehind) {
            return Optional.empty();
        }
        if (begunAt != null) {
            return Optional.of(as(Outcome.UNKNOWN, Cause.LOST_TRACK, receipt, now));
        }
        return Optional.of(as(Outcome.FAILED, hindrance == null ? Cause.EXPIRED : hindrance, receipt, now));
    }

    private Delivery as(Outcome outcome, Cause why, String signed, Instant at) {
        return new Delivery(
                DeliveryState.of(outcome),
                epoch,
                steward,
                leasedUntil,
                heldUntil,
                noted,
                begunAt,
                checkedAt,
                at,
                why,
                signed,
                expiresAt,
                sealed);
    }
}
