package dev.entente.wire;

import dev.entente.core.audit.EventKind.Severity;
import dev.entente.core.audit.EventKind.Type;
import dev.entente.core.audit.Gone;
import dev.entente.core.audit.KeyChange;
import dev.entente.core.audit.ProofFile;
import dev.entente.core.audit.RecordVerifier;
import dev.entente.core.audit.SignedCheckpoint;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** The record, and what needs attention, over the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class RecordApi {
    private RecordApi() {}

    /** One event; {@code seq} is null until it is sealed. */
    public record Event(
            @OrNull Long seq,
            UUID id,
            Instant at,
            String kind,
            @OrNull String reference,
            int ordinal,
            int revision,
            Map<String, Object> data,
            Map<String, String> personal,
            @OneOf(Severity.class) String severity,
            String sentence) {}

    /**
     * How many events a search finds.
     *
     * @param exact whether they were counted; otherwise it is about as many
     */
    public record EventCount(long events, boolean exact) {}

    /**
     * A search that is kept under a name.
     *
     * @param filters by name, as in the query of {@code /events}
     * @param by the administrator who saved it last
     */
    public record SavedSearch(String name, Map<String, String> filters, String by, Instant at) {}

    /** What a search looks for. */
    public record NewSearch(Map<String, String> filters) {}

    /**
     * A kind of event.
     *
     * @param part of the record that it belongs to, such as {@code delivery}
     * @param written whether it is still written
     * @param classes how long events of it are kept
     */
    public record EventKind(
            String name,
            String part,
            @OneOf(Severity.class) String severity,
            boolean written,
            List<String> classes,
            List<EventField> fields) {}

    /** One field of a kind; {@code personal} ones name somebody and are erasable. */
    public record EventField(String name, @OneOf(Type.class) String type, boolean optional) {}

    /**
     * A part of the record as it was sealed, for whoever verifies it: events in their order, and the checkpoints that were signed after
     * them.
     *
     * @param gone the lists of what cuts and erasures among these events took out
     * @param size how many events are sealed
     * @param waiting how many wait to be sealed
     * @param key which signed where this part begins
     * @param keyChanges other keys that follow within it, in their order
     * @param after the position from which the next part goes on; null at the end
     */
    public record SealedPart(
            List<RecordVerifier.Sealed> events,
            List<Gone> gone,
            List<SignedCheckpoint> checkpoints,
            long size,
            long waiting,
            EcKey key,
            List<NextKey> keyChanges,
            @OrNull Long after) {}

    /**
     * Another key that signs the record from a point on.
     *
     * @param size how many events the key of before has signed
     */
    public record NextKey(long size, KeyChange change) {}

    /** A checkpoint that somebody kept, as it was signed. */
    public record KeptCheckpoint(String statement) {}

    /**
     * Proofs of everything that happened to an attempt.
     *
     * @param missing numbers of its events, from 1, that are gone: cut off, or removed
     * @param waiting how many of its events wait to be sealed
     */
    public record AttemptProofs(String reference, List<ProofFile> proofs, List<Integer> missing, int waiting) {}

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
            @OrNull Instant recordSignedAt) {}

    /**
     * Something to look at, with the page where to do it.
     *
     * @param stop what can be stopped against it, as {@link NewStop} has it; null if nothing
     */
    public record Attention(
            @OneOf(named = {"error", "warning", "info"}) String severity,
            String text,
            @OrNull String page,
            @OrNull String stop) {}
}
