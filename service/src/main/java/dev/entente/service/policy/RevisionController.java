package dev.entente.service.policy;

import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.DraftApi;
import java.util.List;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Revisions over HTTP, and files that are only to be checked. */
@RestController
@RequestMapping("/api/v1")
class RevisionController {
    private final Revisions revisions;
    private final Comparisons comparisons;
    private final Publishing publishing;
    private final CheckedFiles checked;

    RevisionController(Revisions revisions, Comparisons comparisons, Publishing publishing, CheckedFiles checked) {
        this.revisions = revisions;
        this.comparisons = comparisons;
        this.publishing = publishing;
        this.checked = checked;
    }

    @GetMapping("/revisions")
    List<DraftApi.Revision> revisions() {
        return revisions.list();
    }

    @Fails("revision-not-found")
    @GetMapping("/revisions/{number}")
    DraftApi.Revision revision(@PathVariable int number) {
        return revisions.show(number);
    }

    /** What restoring it would change. */
    @Fails({"draft-invalid", "revision-not-found"})
    @GetMapping("/revisions/{number}/comparison")
    DraftApi.Comparison compareRevision(@PathVariable int number) {
        return comparisons.revision(number);
    }

    /** What it changed, beside the revision before it. */
    @Fails("revision-not-found")
    @GetMapping("/revisions/{number}/changes")
    DraftApi.Comparison changesOfRevision(@PathVariable int number) {
        return comparisons.changes(number);
    }

    /** What is wrong with files; nothing is kept. */
    @Fails("too-many-files")
    @Unconfirmed
    @PostMapping("/configuration-check")
    List<DraftApi.Problem> check(@RequestBody DraftApi.DraftFiles files) {
        return checked.problems(files.files());
    }

    /** Makes what it held the next revision. */
    @Fails({
        "approval-needed",
        "draft-invalid",
        "nothing-changed",
        "people-lose-a-way",
        "published-meanwhile",
        "revision-not-found"
    })
    @PostMapping("/revisions/{number}/restoration")
    @ResponseStatus(HttpStatus.CREATED)
    DraftApi.Revision restore(
            @PathVariable int number,
            @RequestBody DraftApi.Publication publication,
            @AuthenticationPrincipal String author) {
        return publishing.restore(number, publication, author);
    }
}
