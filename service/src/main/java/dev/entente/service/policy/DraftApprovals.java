package dev.entente.service.policy;

import dev.entente.core.policy.Weakening;
import dev.entente.service.approval.Approvals;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.wire.DraftApi;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Whether another administrator has to agree to a draft, and has. */
@Component
@Transactional
class DraftApprovals {
    private final Configurations configurations;
    private final CheckedFiles files;
    private final Drafts drafts;
    private final Approvals approvals;
    private final EventLog events;

    DraftApprovals(
            Configurations configurations, CheckedFiles files, Drafts drafts, Approvals approvals, EventLog events) {
        this.configurations = configurations;
        this.files = files;
        this.drafts = drafts;
        this.approvals = approvals;
        this.events = events;
    }

    /** What a draft makes weaker, and whether somebody else has to agree. */
    DraftApi.Approval approval(UUID id) {
        var row = drafts.row(id);
        var weaker = weaker(row.files);
        return new DraftApi.Approval(
                weaker, needed(weaker), row.digest(), row.authors, row.submittedBy, valid(row) ? row.approvedBy : null);
    }

    private static boolean valid(DraftRow row) {
        return row.digest().equals(row.approvedDigest);
    }

    /** Whether another administrator has to agree to what makes these weaker. */
    boolean needed(List<String> weaker) {
        return switch (approvals.askedFor()) {
            case "everything" -> true;
            case "weakening" -> !weaker.isEmpty();
            default -> false;
        };
    }

    DraftApi.Approval submit(UUID id, String author) {
        var row = drafts.row(id);
        files.valid(row.files);
        row.submittedBy = author;
        events.write(NewEvent.administration("draft.submitted", author).with("draft", row.name));
        return approval(id);
    }

    /**
     * Approves a draft; neither its authors nor the administrator who submitted it may.
     *
     * @param digest of what was shown to them
     */
    DraftApi.Approval approve(UUID id, String digest, String approver) {
        var row = drafts.row(id);
        files.valid(row.files);
        if (row.submittedBy == null) {
            throw Problem.of("draft-not-submitted");
        }
        if (row.authors.contains(approver) || approver.equals(row.submittedBy)) {
            throw Problem.of("approval-by-another/draft");
        }
        if (!row.digest().equals(digest)) {
            throw Problem.of("draft-shown-otherwise");
        }
        row.approvedBy = approver;
        row.approvedDigest = digest;
        events.write(NewEvent.administration("draft.approved", approver).with("draft", row.name));
        return approval(id);
    }

    String approved(DraftRow row) {
        var valid = valid(row);
        if (!valid && needed(weaker(row.files))) {
            throw Problem.of("approval-needed")
                    .with(
                            "says",
                            (row.approvedBy != null
                                    ? "The draft was changed after " + row.approvedBy + " approved it. Submit it again."
                                    : "Another administrator has to approve this first. Submit the draft, and ask someone to approve"
                                            + " it."))
                    .with("weaker", weaker(row.files));
        }
        return valid ? row.approvedBy : null;
    }

    /** What files would make weaker than what is in force. */
    List<String> weaker(Map<String, String> files) {
        return Weakening.of(configurations.current(), CheckedFiles.valid(configurations.readable(files)));
    }
}
