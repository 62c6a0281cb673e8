package dev.entente.service.policy;

import dev.entente.service.platform.Answers;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.DraftApi;
import java.util.List;
import java.util.UUID;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Drafts over HTTP: writing, comparing, approving, publishing. */
@RestController
@RequestMapping("/api/v1")
class DraftController {
    private final Drafts drafts;
    private final Comparisons comparisons;
    private final DraftApprovals approvals;
    private final Publishing publishing;
    private final PlannedChanges planned;

    DraftController(
            Drafts drafts,
            Comparisons comparisons,
            DraftApprovals approvals,
            Publishing publishing,
            PlannedChanges planned) {
        this.drafts = drafts;
        this.comparisons = comparisons;
        this.approvals = approvals;
        this.publishing = publishing;
        this.planned = planned;
    }

    @Fails("too-many-files")
    @GetMapping("/drafts")
    List<DraftApi.Draft> drafts() {
        return drafts.list();
    }

    @Answers(201)
    @Fails("too-many-files")
    @Unconfirmed
    @PostMapping("/drafts")
    ResponseEntity<DraftApi.Draft> start(
            @RequestBody DraftApi.NewDraft wanted, @AuthenticationPrincipal String author) {
        return tagged(HttpStatus.CREATED, drafts.start(wanted.name(), author));
    }

    @Fails({"draft-not-found", "too-many-files"})
    @GetMapping("/drafts/{id}")
    ResponseEntity<DraftApi.Draft> draft(@PathVariable UUID id) {
        return tagged(HttpStatus.OK, drafts.get(id));
    }

    /** Replaces all files; problems come back with the draft, which is kept as it is. */
    @Fails({"changed-meanwhile", "draft-not-found", "if-match", "too-many-files"})
    @Unconfirmed
    @PutMapping("/drafts/{id}/files")
    ResponseEntity<DraftApi.Draft> load(
            @PathVariable UUID id,
            @RequestHeader(value = HttpHeaders.IF_MATCH, required = false) String version,
            @RequestBody DraftApi.DraftFiles files,
            @AuthenticationPrincipal String author) {
        return tagged(HttpStatus.OK, drafts.load(id, files.files(), expected(version), author));
    }

    @Fails({"draft-invalid", "draft-not-found"})
    @GetMapping("/drafts/{id}/comparison")
    DraftApi.Comparison compare(@PathVariable UUID id) {
        return comparisons.draft(id);
    }

    /** Brings in what was published since the draft was started. */
    @Fails({"draft-not-found", "nothing-published", "revision-not-found"})
    @Unconfirmed
    @PostMapping("/drafts/{id}/merge")
    DraftApi.Merge merge(@PathVariable UUID id, @AuthenticationPrincipal String author) {
        return drafts.merge(id, author);
    }

    /** Publishes now, or plans it; the answer is empty if it is only planned. */
    @Answers(
            value = {200, 202},
            empty = 202)
    @Fails({
        "approval-needed",
        "draft-invalid",
        "draft-not-found",
        "draft-outdated",
        "nothing-changed",
        "nothing-to-go-back-to",
        "people-lose-a-way",
        "plan-ends-before-it-begins",
        "plan-in-the-past",
        "published-meanwhile",
        "too-many-files"
    })
    @PostMapping("/drafts/{id}/publish")
    @Transactional
    public ResponseEntity<DraftApi.Revision> publish(
            @PathVariable UUID id,
            @RequestBody DraftApi.Publication publication,
            @AuthenticationPrincipal String author) {
        if (publication.at() != null) {
            drafts.configuration(id);
            planned.plan(id, publication, null, author);
            return ResponseEntity.accepted().build();
        }
        var revision = publishing.publish(id, publication, author);
        planned.plan(null, publication, revision.number(), author);
        return ResponseEntity.ok(revision);
    }

    /** What happens by itself. */
    @GetMapping("/planned-changes")
    List<DraftApi.Planned> plannedChanges() {
        return planned.list();
    }

    @Fails("planned-change-not-found")
    @DeleteMapping("/planned-changes/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void cancel(@PathVariable UUID id, @AuthenticationPrincipal String administrator) {
        planned.cancel(id, administrator);
    }

    /** What a draft makes weaker, and whether a second person has to agree. */
    @Fails({"draft-invalid", "draft-not-found"})
    @GetMapping("/drafts/{id}/approval")
    DraftApi.Approval approval(@PathVariable UUID id) {
        return approvals.approval(id);
    }

    @Fails({"draft-invalid", "draft-not-found"})
    @Unconfirmed
    @PostMapping("/drafts/{id}/submission")
    DraftApi.Approval submit(@PathVariable UUID id, @AuthenticationPrincipal String author) {
        return approvals.submit(id, author);
    }

    /** Agrees to what was shown, and to nothing else. */
    @Fails({"approval-by-another", "draft-invalid", "draft-not-found", "draft-not-submitted", "draft-shown-otherwise"})
    @PostMapping("/drafts/{id}/approval")
    DraftApi.Approval approve(
            @PathVariable UUID id, @RequestBody DraftApi.Shown shown, @AuthenticationPrincipal String approver) {
        return approvals.approve(id, shown.digest(), approver);
    }

    @Fails("draft-not-found")
    @Unconfirmed
    @DeleteMapping("/drafts/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void discard(@PathVariable UUID id) {
        drafts.discard(id);
    }

    private static ResponseEntity<DraftApi.Draft> tagged(HttpStatus status, DraftApi.Draft draft) {
        return ResponseEntity.status(status).eTag("\"" + draft.version() + "\"").body(draft);
    }

    private static Integer expected(String header) {
        if (header == null || header.equals("*")) {
            return null;
        }
        try {
            return Integer.parseInt(header.replace("\"", ""));
        } catch (NumberFormatException e) {
            throw Problem.of("if-match");
        }
    }
}
