package dev.entente.wire;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** The record, and what needs attention, over the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class RecordApi {
    private RecordApi() {}

    /** One event; {@code seq} is null until it is sealed. */
    public record Event(
            Long seq,
            UUID id,
            Instant at,
            String kind,
            String reference,
            int ordinal,
            int revision,
            Map<String, Object> data,
            Map<String, String> personal,
            String sentence) {}

    /**
     * What needs attention and how the last day went.
     *
     * @param outcomes attempts of people by state
     * @param madeUp attempts for names that don't exist, which count nowhere else
     */
    public record Today(
            int revision,
            int people,
            int covered,
            Map<String, Integer> outcomes,
            int madeUp,
            List<Attention> attention,
            long recordSize,
            Instant recordSignedAt) {}

    /**
     * Something to look at, with the page where to do it.
     *
     * @param stop what can be stopped against it, as {@link NewStop} has it; null if nothing
     */
    public record Attention(
            @OneOf(named = {"error", "warning", "info"}) String severity, String text, String page, String stop) {}
}
