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
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Whether another administrator has to agree to a draft, and has. */
@Component
@Transactional
class DraftApprovals {
    private final Session database;
    private final Configurations configurations;
    private final CheckedFiles files;
    private final Drafts drafts;
    private final Approvals approvals;
    private final EventLog events;

    DraftApprovals(
            Session database,
            Configurations configurations,
            CheckedFiles files,
            Drafts drafts,
            Approvals approvals,
            EventLog events) {
        this.database = database;
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
                weaker,
                needed(weaker),
                row.submittedBy,
                row.approvedVersion != null && row.approvedVersion == row.version ? row.approvedBy : null);
    }

    private boolean needed(List<String> weaker) {
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

    /** Somebody else than who wrote or submitted it agrees to a draft as it is now. */
    DraftApi.Approval approve(UUID id, String approver) {
        var row = drafts.row(id);
        files.valid(row.files);
        if (row.submittedBy == null) {
            throw Problem.of("draft-not-submitted");
        }
        if (approver.equals(row.author) || approver.equals(row.submittedBy)) {
            throw Problem.of("approval-by-another/draft");
        }
        row.approvedBy = approver;
        database.flush();
        // Writing the approval makes a version of its own.
        row.approvedVersion = row.version + 1;
        database.flush();
        events.write(NewEvent.administration("draft.approved", approver).with("draft", row.name));
        return approval(id);
    }

    String approved(DraftRow row) {
        var valid = row.approvedVersion != null && row.approvedVersion == row.version;
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

    /** Whether anything needs another administrator. */
    boolean asked() {
        return !approvals.askedFor().equals("nothing");
    }
}
