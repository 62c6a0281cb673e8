package dev.entente.service.overview;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.Reference;
import dev.entente.core.delivery.DeliveryState;
import dev.entente.core.policy.Policy;
import dev.entente.service.approval.Approvals;
import dev.entente.service.attempt.AttemptList;
import dev.entente.service.audit.AuditTrail;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.audit.Proofs;
import dev.entente.service.audit.Readings;
import dev.entente.service.delivery.DeliveryList;
import dev.entente.service.directory.DirectoryList;
import dev.entente.service.directory.Removal;
import dev.entente.service.notification.Notifications;
import dev.entente.service.platform.Answers;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Reads;
import dev.entente.service.policy.Configurations;
import dev.entente.wire.AttemptApi;
import dev.entente.wire.DirectoryApi;
import dev.entente.wire.OneOf;
import dev.entente.wire.Page;
import dev.entente.wire.RecordApi;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Comparator;
import java.util.List;
import java.util.UUID;
import org.springframework.context.event.EventListener;
import org.springframework.http.ContentDisposition;
import org.springframework.http.HttpHeaders;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Today, and attempts. */
@RestController
@RequestMapping("/api/v1")
class OverviewController {
    private static final String REMOVED = "directory removed";

    private final Configurations configurations;
    private final DirectoryList directories;
    private final Removal directoryRemoval;
    private final Approvals approvals;
    private final AttemptList attempts;
    private final DeliveryList deliveries;
    private final AuditTrail trail;
    private final InstantSource clock;
    private final Proofs proofs;
    private final EventLog events;
    private final AttemptReport report;
    private final Notifications notifications;
    private final NeedsAttention needs;
    private final Readings readings;

    OverviewController(
            Configurations configurations,
            DirectoryList directories,
            Removal directoryRemoval,
            Approvals approvals,
            AttemptList attempts,
            DeliveryList deliveries,
            AuditTrail trail,
            InstantSource clock,
            Proofs proofs,
            EventLog events,
            AttemptReport report,
            Notifications notifications,
            NeedsAttention needs,
            Readings readings) {
        this.readings = readings;
        this.configurations = configurations;
        this.directories = directories;
        this.directoryRemoval = directoryRemoval;
        this.approvals = approvals;
        this.attempts = attempts;
        this.deliveries = deliveries;
        this.trail = trail;
        this.clock = clock;
        this.proofs = proofs;
        this.events = events;
        this.report = report;
        this.notifications = notifications;
        this.needs = needs;
    }

    /** What needs attention, and how the last 24 hours went. */
    @GetMapping("/today")
    @Transactional(readOnly = true)
    public RecordApi.Today today() {
        var since = clock.instant().minus(Duration.ofDays(1));
        var revision = configurations.current().revision();
        var attention = needs.now().stream()
                .map(NeedsAttention.Need::shown)
                .sorted(Comparator.comparing(one -> one.severity().equals("error") ? 0 : 1))
                .toList();
        var covered = configurations.covered();
        var extent = trail.extent();
        return new RecordApi.Today(
                revision,
                covered[1],
                covered[0],
                attempts.outcomes(since),
                attempts.madeUp(since),
                attention,
                extent.map(AuditTrail.Extent::size).orElse(0L),
                extent.map(AuditTrail.Extent::signedAt).orElse(null));
    }

    /** Deliveries, newest first. */
    @Fails({"delivery-not-found", "directory-not-found", "unknown-cause", "unknown-state"})
    @Reads("deliveries")
    @GetMapping("/deliveries")
    Page<AttemptApi.Delivery> deliveries(
            @RequestParam(required = false) @OneOf(DeliveryState.class) String state,
            @RequestParam(required = false) String directory,
            @RequestParam(required = false) String cause,
            @RequestParam(required = false) UUID after,
            @RequestParam(defaultValue = "50") int limit) {
        var size = Math.max(1, Math.min(limit, 200));
        var rows = deliveries.list(new DeliveryList.Filter(state, directory, cause), after, size + 1);
        var items = rows.stream().limit(size).toList();
        return new Page<>(items, rows.size() > size ? items.get(size - 1).id().toString() : null);
    }

    /** One delivery. */
    @Fails("delivery-not-found")
    @Reads("deliveries")
    @GetMapping("/deliveries/{id}")
    AttemptApi.Delivery delivery(@PathVariable UUID id) {
        return deliveries.show(id);
    }

    /** What removing a directory would do. */
    @Fails("directory-not-found")
    @GetMapping("/directories/{name}/removal")
    DirectoryApi.Removal removal(@PathVariable String name) {
        return directories.removal(name, deliveringTo(name));
    }

    /** Removes a directory; refused while a policy delivers to it. 202 if another administrator has to approve that. */
    @Fails({"deliveries-under-way", "directory-in-use", "directory-not-found", "name-not-confirmed"})
    @Answers({202, 204})
    @DeleteMapping("/directories/{name}")
    @Transactional
    public ResponseEntity<Void> remove(
            @PathVariable String name,
            @RequestBody DirectoryApi.RemovalConfirmed confirmed,
            @AuthenticationPrincipal String administrator) {
        if (!name.equals(confirmed.name())) {
            throw Problem.of("name-not-confirmed");
        }
        var removal = removable(name);
        return approvals.make(
                        REMOVED,
                        name,
                        List.of("The directory " + name + " is removed: " + removal.accounts()
                                + " accounts are forgotten, " + removal.onlyHere()
                                + " of them of people who have no other."),
                        name,
                        administrator)
                ? ResponseEntity.noContent().build()
                : ResponseEntity.accepted().build();
    }

    private DirectoryApi.Removal removable(String name) {
        var policies = deliveringTo(name);
        if (!policies.isEmpty()) {
            throw Problem.of("directory-in-use").with("name", name).with("list", String.join(", ", policies));
        }
        var removal = directories.removal(name, policies);
        if (removal.waitingDeliveries() > 0) {
            throw Problem.of("deliveries-under-way").with("name", name);
        }
        return removal;
    }

    /** Looked at anew: a policy may deliver to it by now. */
    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void remove(Approvals.Approved change) {
        if (change.kind().equals(REMOVED)) {
            change.handled().set(true);
            removable(change.subject());
            directoryRemoval.remove(change.subject(), change.author());
        }
    }

    private List<String> deliveringTo(String directory) {
        return configurations.current().policies().stream()
                .filter(p -> p.deliverTo().value().contains(directory))
                .map(Policy::name)
                .toList();
    }

    /** Attempts, newest first. */
    @Fails({"attempt-not-found", "not-a-reference", "unknown-state"})
    @Reads("attempts")
    @GetMapping("/attempts")
    Page<AttemptApi.AttemptRow> attempts(
            @RequestParam(required = false) @OneOf(AttemptState.class) String state,
            @RequestParam(required = false) UUID person,
            @RequestParam(defaultValue = "false") boolean madeUp,
            @RequestParam(required = false) Instant since,
            @RequestParam(required = false) Instant until,
            @RequestParam(required = false) String after,
            @RequestParam(defaultValue = "50") int limit) {
        var size = Math.max(1, Math.min(limit, 200));
        var rows = attempts.list(state, person, madeUp, since, until, after, size + 1);
        var items = rows.stream().limit(size).toList();
        return new Page<>(items, rows.size() > size ? items.get(size - 1).reference() : null);
    }

    /** One attempt with its deliveries and everything that happened. */
    @Fails({"attempt-not-found", "not-a-reference"})
    @GetMapping("/attempts/{reference}")
    @Transactional
    public AttemptApi.AttemptDetail attempt(
            @PathVariable String reference, @AuthenticationPrincipal String administrator) {
        var detail = detail(reference);
        readings.ofAttempt(administrator, detail.attempt().reference());
        return detail;
    }

    private AttemptApi.AttemptDetail detail(String reference) {
        var found = attempts.show(reference);
        return new AttemptApi.AttemptDetail(
                found.row(),
                found.reason(),
                attempts.limits(found.id()),
                deliveries.ofAttempt(found.id()),
                trail.ofAttempt(found.id(), found.row().reference()));
    }

    /** The same as a PDF for an incident's file, with the proofs of its events attached; that it was made is on record. */
    @Fails({"attempt-not-found", "event-not-found", "not-a-reference", "record-empty"})
    @GetMapping(value = "/attempts/{reference}/report", produces = MediaType.APPLICATION_PDF_VALUE)
    @Transactional
    public ResponseEntity<byte[]> report(
            @PathVariable String reference, @AuthenticationPrincipal String administrator) {
        var detail = detail(reference);
        var proven = proofs.ofAttempt(reference);
        events.write(NewEvent.administration("report.made", administrator)
                .with("about", detail.attempt().reference()));
        return ResponseEntity.ok()
                .header(
                        HttpHeaders.CONTENT_DISPOSITION,
                        ContentDisposition.attachment()
                                .filename("attempt-"
                                        + detail.attempt().reference().replaceAll("\\W+", "-") + ".pdf")
                                .build()
                                .toString())
                .body(report.of(
                        detail,
                        Reference.parse(reference)
                                .map(r -> notifications.about(r.digits()))
                                .orElse(List.of()),
                        proven,
                        administrator));
    }
}
