package dev.entente.wire;

import dev.entente.core.policy.Action;
import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** Bodies of the help desk's API under {@code /api/v1/help-desk}: staff confirm who somebody is, and see or set no password. */
public final class HelpDeskApi {
    private HelpDeskApi() {}

    /**
     * Finds what a caller asks for.
     *
     * @param login by which the caller signs in
     * @param number on the caller's screen, six digits
     */
    public record Caller(String login, String number) {}

    /**
     * What waits to be confirmed.
     *
     * @param department as their directory has it; null if it has none
     * @param privileged whether two of the staff have to confirm
     * @param network from where it was asked
     * @param checklist what has to be done before it is confirmed, as the policy says
     * @param spoken what the caller wants to be asked, the texts of each question by language; empty if nothing
     * @param confirmedBy who confirmed already, where two have to; null if nobody did
     */
    public record HelpRequest(
            UUID id,
            String reference,
            @OrNull String name,
            @OrNull String login,
            @OrNull String department,
            boolean privileged,
            @OneOf(Action.class) String action,
            @OrNull String network,
            List<String> checklist,
            List<Map<String, String>> spoken,
            @OrNull String confirmedBy,
            Instant askedAt,
            Instant expiresAt) {}

    /**
     * Confirms.
     *
     * @param checked every entry of the checklist, word for word
     * @param heard what the caller answered to each spoken question, in their order; null where none is asked
     * @param note for the record, at most 500 characters; null for none
     */
    public record StaffConfirmation(
            List<String> checked,
            @OrNull List<String> heard,
            @OrNull String note) {
        public StaffConfirmation(List<String> checked, String note) {
            this(checked, null, note);
        }

        /** Shows nothing of the answers. */
        @Override
        public String toString() {
            return "StaffConfirmation[]";
        }
    }

    /** What stands behind # in a manager's link. */
    public record ManagerLink(String token) {}

    /**
     * A manager confirms.
     *
     * @param token what stands behind # in the link
     * @param number on the person's screen, six digits
     * @param checked every entry of the checklist, word for word
     * @param note for the record, at most 500 characters; null for none
     */
    public record ManagerConfirmation(
            String token,
            @OrNull String number,
            @OrNull List<String> checked,
            @OrNull String note) {}

    /**
     * What came of a confirmation.
     *
     * @param complete whether the person goes on now; otherwise somebody else has to confirm, too
     */
    public record Confirmed(boolean complete) {}

    /** Denies; the person and administrators are told. */
    public record Denial(@OrNull String note) {}
}
