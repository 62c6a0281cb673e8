package dev.entente.wire;

import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.UUID;

/** What needs another administrator, and switches for the whole service, over the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class ApprovalApi {
    private ApprovalApi() {}

    /** Whose approval a change needs: {@code nothing}, {@code weakening} or {@code everything}. */
    public record ApprovalRule(
            @OneOf(named = {"nothing", "weakening", "everything"})
            String askedFor) {}

    /**
     * Switches that are off unless an administrator turns them on.
     *
     * @param temporaryPasswords whether administrators may give temporary passwords
     * @param secondFactorRequired whether every administrator has to have a second factor
     */
    public record Switches(boolean temporaryPasswords, boolean secondFactorRequired) {}

    /**
     * A change of a setting that waits for another administrator.
     *
     * @param says old and new values, a sentence each
     */
    public record ProposedChange(
            UUID id, String kind, @OrNull String subject, List<String> says, String author, Instant madeAt) {}
}
