package dev.entente.wire;

import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.UUID;

/** What of the record is kept how long, what may not go, and whose values are to go, over the administrators' API under {@code /api/v1}. */
public final class RetentionApi {
    private RetentionApi() {}

    /**
     * How things stand.
     *
     * @param lastRun when the retention step ran last; null if it never did
     * @param kept what it keeps, by class; empty if it never ran
     * @param holds in force first, then those that were lifted
     * @param erasures newest first
     * @param cuts newest first
     */
    public record Retention(
            @OrNull Instant lastRun, List<Span> kept, List<Hold> holds, List<Erasure> erasures, List<Cut> cuts) {}

    /** How long events of one class are kept. */
    public record Span(String kept, int months) {}

    /**
     * Something that may not go.
     *
     * @param login of the person that it is about; null if it is about none
     * @param reference of the attempt that it is about; null if it is about none
     * @param since beginning of the span that it is about; null if it is about none
     * @param until its end; null for no end
     */
    public record Hold(
            UUID id,
            @OrNull String reason,
            @OrNull String login,
            @OrNull String reference,
            @OrNull Instant since,
            @OrNull Instant until,
            @OrNull String placedBy,
            Instant placedAt,
            @OrNull String liftedBy,
            @OrNull Instant liftedAt) {}

    /** Places a hold on one of a person, by a name that they sign in with, an attempt, and a span. */
    public record NewHold(
            String reason,
            @OrNull String login,
            @OrNull String reference,
            @OrNull Instant since,
            @OrNull Instant until) {}

    /**
     * A person's values that are to go, or went.
     *
     * @param login whose; null once it is done, because that is one of those values
     * @param heldBy the hold that stood in the way when it was tried last
     * @param doneAt when they went; null while they wait for the retention step
     * @param events that named the person
     * @param values that went
     * @param firstAt the earliest of those events
     * @param lastAt the latest
     */
    public record Erasure(
            UUID id,
            @OrNull String reason,
            @OrNull String login,
            @OrNull String requestedBy,
            Instant requestedAt,
            @OrNull UUID heldBy,
            @OrNull Instant doneAt,
            @OrNull Long events,
            @OrNull Long values,
            @OrNull Instant firstAt,
            @OrNull Instant lastAt) {}

    /** Asks for a person's values to be erased. */
    public record NewErasure(String reason, String login) {}

    /** A month of a class that was cut off. */
    public record Cut(String kept, String month, long events, Instant cutAt) {}
}
