package dev.entente.service.approval;

import dev.entente.service.platform.Answers;
import dev.entente.service.platform.Fails;
import dev.entente.wire.ApprovalApi;
import java.util.List;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Changes that wait for a second person, over HTTP. */
@RestController
@RequestMapping("/api/v1")
class ApprovalController {
    private final Approvals approvals;

    ApprovalController(Approvals approvals) {
        this.approvals = approvals;
    }

    @GetMapping("/approval-rule")
    ApprovalApi.ApprovalRule rule() {
        return new ApprovalApi.ApprovalRule(approvals.askedFor());
    }

    /** Changes the rule; 202 if that waits for another administrator. */
    @Answers({200, 202})
    @Fails({"approval-needs-two", "approval-rule"})
    @PutMapping("/approval-rule")
    ResponseEntity<ApprovalApi.ApprovalRule> askFor(
            @RequestBody ApprovalApi.ApprovalRule rule, @AuthenticationPrincipal String administrator) {
        var made = approvals.askFor(rule.askedFor(), administrator);
        return ResponseEntity.status(made ? HttpStatus.OK : HttpStatus.ACCEPTED).body(rule());
    }

    /** Changes of settings that wait for another administrator. */
    @GetMapping("/proposed-changes")
    List<ApprovalApi.ProposedChange> open() {
        return approvals.open();
    }

    /** Agrees to one, which is made now. */
    @Fails({"approval-by-another", "change-not-waiting"})
    @PostMapping("/proposed-changes/{id}/approval")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void approve(@PathVariable UUID id, @AuthenticationPrincipal String administrator) {
        approvals.approve(id, administrator);
    }

    /** Refuses one, or takes back one's own. */
    @Fails("change-not-waiting")
    @DeleteMapping("/proposed-changes/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void refuse(@PathVariable UUID id, @AuthenticationPrincipal String administrator) {
        approvals.refuse(id, administrator);
    }
}
