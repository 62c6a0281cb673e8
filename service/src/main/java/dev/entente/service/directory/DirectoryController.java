package dev.entente.service.directory;

import dev.entente.service.platform.Answers;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.DirectoryApi;
import java.util.List;
import java.util.UUID;
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
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Directories and stewards over HTTP. */
@RestController
@RequestMapping("/api/v1")
class DirectoryController {
    private final Directories directories;
    private final DirectorySettings settings;
    private final Rosters rosters;
    private final Credentials credentials;
    private final Suspensions suspensions;
    private final DirectoryList list;
    private final Jobs jobs;

    DirectoryController(
            Directories directories,
            DirectorySettings settings,
            Rosters rosters,
            Credentials credentials,
            Suspensions suspensions,
            DirectoryList list,
            Jobs jobs) {
        this.directories = directories;
        this.settings = settings;
        this.rosters = rosters;
        this.credentials = credentials;
        this.suspensions = suspensions;
        this.list = list;
        this.jobs = jobs;
    }

    @GetMapping("/directories")
    @Transactional(readOnly = true)
    public List<DirectoryApi.Directory> list() {
        return list.all();
    }

    @Fails("directory-not-found")
    @GetMapping("/directories/{name}")
    @Transactional(readOnly = true)
    public DirectoryApi.Directory show(@PathVariable String name) {
        return list.shown(directories.named(name));
    }

    @Fails({
        "attribute-refused",
        "correlation-missing",
        "directory-exists",
        "directory-kind",
        "directory-name",
        "directory-numbers",
        "directory-servers",
        "distinguished-name-missing",
        "mail-domains",
        "not-a-distinguished-name",
        "operator-key-missing",
        "too-many-attributes",
        "trust-taken"
    })
    @Answers(
            value = {201, 202},
            empty = 202)
    @PostMapping("/directories")
    @Transactional
    public ResponseEntity<DirectoryApi.Directory> add(
            @RequestBody DirectoryApi.NewDirectory wanted, @AuthenticationPrincipal String administrator) {
        return settings.add(wanted, administrator)
                ? ResponseEntity.status(HttpStatus.CREATED).body(list.shown(directories.named(wanted.name())))
                : ResponseEntity.accepted().build();
    }

    @Fails({"directory-not-found", "steward-name"})
    @PostMapping("/directories/{name}/join-codes")
    @ResponseStatus(HttpStatus.CREATED)
    DirectoryApi.JoinCode admit(
            @PathVariable String name,
            @RequestBody DirectoryApi.NewJoinCode wanted,
            @AuthenticationPrincipal String administrator) {
        return rosters.admit(name, wanted.steward(), administrator);
    }

    @Fails("directory-not-found")
    @GetMapping("/directories/{name}/roster")
    @Transactional(readOnly = true)
    public DirectoryApi.SignedRoster roster(@PathVariable String name) {
        return new DirectoryApi.SignedRoster(directories.named(name).roster);
    }

    @Fails({"directory-not-found", "roster-refused", "roster-unknown-steward", "roster-version"})
    @PutMapping("/directories/{name}/roster")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void putRoster(
            @PathVariable String name,
            @RequestBody DirectoryApi.SignedRoster roster,
            @AuthenticationPrincipal String administrator) {
        rosters.put(name, roster.roster(), administrator);
    }

    /** Signed statements about the credentials of one account, those of what was withdrawn first. */
    @Fails("directory-not-found")
    @GetMapping("/directories/{name}/credentials/{account}")
    @Transactional(readOnly = true)
    public List<DirectoryApi.SignedCredential> credentials(@PathVariable String name, @PathVariable UUID account) {
        return credentials.statements(directories.named(name).id, account).stream()
                .map(DirectoryApi.SignedCredential::new)
                .toList();
    }

    /** Takes a statement about a credential that the directory's operator signed. */
    @Fails({"credential-refused", "directory-not-found"})
    @PostMapping("/directories/{name}/credentials")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void putCredential(
            @PathVariable String name,
            @RequestBody DirectoryApi.SignedCredential statement,
            @AuthenticationPrincipal String administrator) {
        credentials.put(name, statement.statement(), administrator);
    }

    @Fails({"directory-not-found", "no-steward", "no-steward-connected"})
    @Unconfirmed
    @PostMapping("/directories/{name}/preflight")
    @ResponseStatus(HttpStatus.ACCEPTED)
    @Transactional
    public DirectoryApi.Job preflight(@PathVariable String name) {
        return jobs.start(directories.named(name), "preflight");
    }

    @Fails({"directory-not-found", "no-steward", "no-steward-connected"})
    @Unconfirmed
    @PostMapping("/directories/{name}/sync")
    @ResponseStatus(HttpStatus.ACCEPTED)
    @Transactional
    public DirectoryApi.Job sync(@PathVariable String name) {
        return jobs.start(directories.named(name), "sync");
    }

    /** Changes what is named; what is left out stays. 202 if that waits for another administrator. */
    @Answers({200, 202})
    @Fails({
        "attribute-refused",
        "correlation-missing",
        "directory-not-found",
        "directory-numbers",
        "directory-servers",
        "distinguished-name-missing",
        "mail-domains",
        "not-a-distinguished-name",
        "too-many-attributes",
        "trust-taken"
    })
    @PutMapping("/directories/{name}/settings")
    @Transactional
    public ResponseEntity<DirectoryApi.Directory> change(
            @PathVariable String name,
            @RequestBody DirectoryApi.DirectoryChange wanted,
            @AuthenticationPrincipal String administrator) {
        var made = settings.change(name, wanted, administrator);
        return ResponseEntity.status(made ? HttpStatus.OK : HttpStatus.ACCEPTED)
                .body(list.shown(directories.named(name)));
    }

    /** Stops its deliveries at once. */
    @Fails("directory-not-found")
    @Unconfirmed
    @PostMapping("/directories/{name}/suspension")
    @Transactional
    public DirectoryApi.Directory suspend(@PathVariable String name, @AuthenticationPrincipal String administrator) {
        suspensions.suspend(name, true, administrator);
        return list.shown(directories.named(name));
    }

    @Fails("directory-not-found")
    @DeleteMapping("/directories/{name}/suspension")
    @Transactional
    public DirectoryApi.Directory resume(@PathVariable String name, @AuthenticationPrincipal String administrator) {
        suspensions.suspend(name, false, administrator);
        return list.shown(directories.named(name));
    }

    /** Agrees that the accounts which the last sync did not see are gone. */
    @Fails({"directory-not-found", "no-loss-to-accept"})
    @PostMapping("/directories/{name}/loss-accepted")
    @Transactional
    public DirectoryApi.Job acceptLoss(@PathVariable String name, @AuthenticationPrincipal String administrator) {
        return jobs.acceptLoss(directories.named(name), administrator);
    }

    @Fails("job-not-found")
    @GetMapping("/jobs/{id}")
    DirectoryApi.Job job(@PathVariable UUID id) {
        return jobs.get(id);
    }
}
