package dev.entente.wire;

import dev.entente.core.policy.Action;
import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** Drafts, rehearsal, publishing and revisions, over the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class DraftApi {
    private DraftApi() {}

    /** A draft to start. */
    public record NewDraft(String name) {}

    /** Files of a draft, by path. */
    public record DraftFiles(Map<String, String> files) {}

    /** A draft; {@code version} is its ETag. */
    public record Draft(
            UUID id,
            String name,
            int baseRevision,
            int version,
            String author,
            Instant changedAt,
            Map<String, String> files,
            List<Problem> problems) {}

    /**
     * A problem in a file, with its place.
     *
     * @param severity {@code error} for what cannot be published, {@code warning} for what is hardly meant
     */
    public record Problem(
            @OrNull String file,
            int line,
            int column,
            @OrNull String pointer,
            String message,
            @OneOf(named = {"error", "warning"}) String severity) {}

    /**
     * What a draft would change.
     *
     * @param weaker what becomes easier for somebody who is not the person, a sentence each
     * @param waysOpened the weakest ways to reset somebody's password that there were not before, a sentence each
     * @param waysClosed those that there are no more
     */
    public record Comparison(
            List<String> sentences,
            String diff,
            int coveredBefore,
            int coveredAfter,
            List<String> weaker,
            List<String> waysOpened,
            List<String> waysClosed) {}

    /**
     * Publish with a note for the history.
     *
     * @param after the revision in force that was looked at; null for whichever is
     * @param losesWay how many people may lose a way in, as the rehearsal counted them; null if nobody looked
     * @param at when it is to be published; null for now
     * @param until when what was in force before becomes the next revision by itself; null for not by itself
     */
    public record Publication(
            @OrNull String note,
            @OrNull Integer after,
            @OrNull Integer losesWay,
            @OrNull Instant at,
            @OrNull Instant until) {}

    /** What an approver was shown. */
    public record Shown(String digest) {}

    /**
     * What a draft makes weaker, and whether it needs a second person.
     *
     * @param weaker a sentence for each thing
     * @param digest of what it holds: what is approved is this, and nothing else
     * @param authors who wrote any of it; none of them can approve it
     */
    public record Approval(
            List<String> weaker,
            boolean needed,
            String digest,
            List<String> authors,
            @OrNull String submittedBy,
            @OrNull String approvedBy) {}

    /**
     * Something that happens by itself.
     *
     * @param kind {@code publish} a draft, or go {@code back} to a revision
     */
    public record Planned(
            UUID id, @OneOf(named = {"publish", "back"}) String kind, String says, Instant at, String author) {}

    /**
     * A draft with what was published meanwhile.
     *
     * @param revision that it is based on now
     * @param taken files that were taken from it
     * @param conflicts files that both changed, kept as the draft has them
     */
    public record Merge(int revision, List<String> taken, List<String> conflicts) {}

    /** A published revision. */
    public record Revision(
            int number,
            String author,
            @OrNull String approvedBy,
            @OrNull String note,
            Instant publishedAt,
            Map<String, String> files) {}

    /**
     * What a draft would mean for everybody.
     *
     * @param network from where everybody would come; null for from everywhere
     * @param counts the gravest first, over all situations: whoever is concerned in one of them is counted
     * @param situations each that makes a difference
     */
    public record Rehearsal(
            @OneOf(Action.class) String action,
            @OrNull String network,
            int revision,
            int people,
            List<RehearsalCount> counts,
            List<RehearsalSituation> situations,
            List<RehearsalMove> moves,
            List<RehearsalPart> scopes,
            List<RehearsalPart> departments,
            List<RehearsalPart> privilege) {}

    /** One situation, such as "from elsewhere, on an unknown device"; empty words where nothing makes a difference. */
    public record RehearsalSituation(String words, int losesWay, int lacksMethods) {}

    /** How many people something happens to; {@code words} follow the number. */
    public record RehearsalCount(
            @OneOf(dev.entente.core.policy.Rehearsal.Kind.class)
            String kind,

            String words,
            int people) {}

    /** People who go from one policy to another; empty for none. */
    public record RehearsalMove(@OrNull String from, @OrNull String to, int people) {}

    /**
     * What it means for some of them.
     *
     * @param part what asks for the people: {@code scope NAME}, {@code department NAME}, {@code privileged},
     *     {@code not-privileged}
     */
    public record RehearsalPart(String part, String name, int people, int losesWay, int lacksMethods) {}

    /** One of the people behind a number. */
    public record RehearsedPerson(
            UUID id,
            String name,
            @OrNull String department,
            List<String> logins,
            @OrNull String before,
            @OrNull String after) {}

    /** A past attempt that would have begun otherwise. */
    public record RehearsedAttempt(
            String reference,
            @OrNull String name,
            @OneOf(Action.class) String action,
            Instant at,
            @OrNull String before,
            @OrNull String after,
            @OrNull String policy,
            @OrNull String because) {}
}
