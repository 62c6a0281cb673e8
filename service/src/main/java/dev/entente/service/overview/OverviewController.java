package dev.entente.service.overview;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.Reference;
import dev.entente.core.delivery.DeliveryState;
import dev.entente.core.policy.Policy;
import dev.entente.core.policy.Stop;
import dev.entente.service.approval.Approvals;
import dev.entente.service.attempt.AttemptList;
import dev.entente.service.attempt.Pressure;
import dev.entente.service.audit.AuditTrail;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.Holds;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.audit.Proofs;
import dev.entente.service.delivery.DeliveryList;
import dev.entente.service.directory.DirectoryList;
import dev.entente.service.directory.Removal;
import dev.entente.service.notification.MailChannel;
import dev.entente.service.notification.Notifications;
import dev.entente.service.outlet.Outlets;
import dev.entente.service.people.AccountPasswords;
import dev.entente.service.people.People;
import dev.entente.service.platform.Problem;
import dev.entente.service.policy.Configurations;
import dev.entente.service.policy.Stops;
import dev.entente.service.policy.Ways;
import dev.entente.wire.AttemptApi;
import dev.entente.wire.DirectoryApi;
import dev.entente.wire.OneOf;
import dev.entente.wire.Page;
import dev.entente.wire.RecordApi;
import dev.entente.wire.RecordApi.Attention;
import java.time.Duration;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.UUID;
import java.util.stream.Collectors;
import org.springframework.http.ContentDisposition;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Today, and attempts. */
@RestController
@RequestMapping("/api/v1")
class OverviewController {
    private static final int FEW = 5;
    /** The retention step runs once a day. */
    private static final Duration ERASED_WITHIN = Duration.ofDays(2);

    private final Configurations configurations;
    private final DirectoryList directories;
    private final Removal directoryRemoval;
    private final MailChannel mail;
    private final Stops stops;
    private final People people;
    private final AttemptList attempts;
    private final DeliveryList deliveries;
    private final Notifications notifications;
    private final AuditTrail trail;
    private final Pressure pressure;
    private final Approvals approvals;
    private final InstantSource clock;
    private final AccountPasswords passwords;
    private final Ways ways;
    private final Outlets outlets;
    private final Holds holds;
    private final Proofs proofs;
    private final EventLog events;
    private final AttemptReport report;

    OverviewController(
            Configurations configurations,
            DirectoryList directories,
            Removal directoryRemoval,
            MailChannel mail,
            Stops stops,
            People people,
            AttemptList attempts,
            DeliveryList deliveries,
            Notifications notifications,
            AuditTrail trail,
            Pressure pressure,
            Approvals approvals,
            InstantSource clock,
            AccountPasswords passwords,
            Ways ways,
            Outlets outlets,
            Holds holds,
            Proofs proofs,
            EventLog events,
            AttemptReport report) {
        this.configurations = configurations;
        this.directories = directories;
        this.directoryRemoval = directoryRemoval;
        this.mail = mail;
        this.stops = stops;
        this.people = people;
        this.attempts = attempts;
        this.deliveries = deliveries;
        this.notifications = notifications;
        this.trail = trail;
        this.pressure = pressure;
        this.approvals = approvals;
        this.clock = clock;
        this.passwords = passwords;
        this.ways = ways;
        this.outlets = outlets;
        this.holds = holds;
        this.proofs = proofs;
        this.events = events;
        this.report = report;
    }

    /** What needs attention, and how the last 24 hours went. */
    @GetMapping("/today")
    @Transactional(readOnly = true)
    public RecordApi.Today today() {
        var since = clock.instant().minus(Duration.ofDays(1));
        var attention = new ArrayList<Attention>();
        for (var reference : notifications.alarms(since)) {
            attention.add(new Attention(
                    "error",
                    "Someone said that a reset was not theirs: " + new Reference(reference) + ".",
                    "audit/attempts/" + reference,
                    null));
        }
        var shown = directories.all();
        if (shown.isEmpty()) {
            attention.add(new Attention(
                    "warning",
                    "No directory is connected yet. Start with entente directory add.",
                    "directories",
                    null));
        }
        for (var directory : shown) {
            for (var text : directory.attention()) {
                attention.add(new Attention(
                        "warning", directory.title() + ": " + text, "directories/" + directory.name(), null));
            }
        }
        if (!mail.works()) {
            attention.add(new Attention(
                    "error",
                    "Mail cannot be sent, so no code reaches anybody. Look at the conversation: entente mail test ADDRESS",
                    "settings",
                    null));
        }
        if (mail.administrators().isEmpty()
                && configurations.current().policies().stream()
                        .anyMatch(p -> p.tellAdministrators().value())) {
            attention.add(new Attention(
                    "warning",
                    "A policy tells administrators of privileged accounts, but no address for them is set.",
                    "settings",
                    null));
        }
        for (var stop : stops.inForce()) {
            // A stopped directory says so itself.
            if (stop.kind() != Stop.Kind.DIRECTORY) {
                attention.add(new Attention(
                        "error", "Stopped: " + stop.what() + ", because " + stop.reason() + ".", "stops", null));
            }
        }
        for (var level : pressure.levels()) {
            if (level.unusual()) {
                var most = pressure.networks(50).stream()
                        .filter(n -> n.kind() == level.kind())
                        .findFirst();
                // Where it comes from everywhere, stopping one network stops nothing.
                var one = most.filter(n -> n.count() * 3 >= level.lastHour());
                var named = pressure.people(50).stream()
                        .filter(n -> n.kind() == level.kind())
                        .limit(3)
                        .toList();
                var names =
                        people.names(named.stream().map(Pressure.Source::person).collect(Collectors.toSet()));
                attention.add(new Attention(
                        "error",
                        level.kind().words(level.lastHour()) + " in the last hour; "
                                + (level.usual() < 1
                                        ? "usually there are hardly any"
                                        : "usually about " + Math.round(level.usual()))
                                + "."
                                + (named.isEmpty()
                                        ? ""
                                        : " In the name of "
                                                + named.stream()
                                                        .map(n -> names.get(n.person()) + " (" + n.count() + ")")
                                                        .collect(Collectors.joining(", "))
                                                + ".")
                                + one.map(n -> " Most came from " + n.network() + " (" + n.count() + ").")
                                        .orElse(most.isPresent() ? " They came from many networks." : ""),
                        "audit/pressure",
                        one.map(n -> "network:" + n.network()).orElse(null)));
            }
        }
        for (var gone : configurations.vanished()) {
            attention.add(new Attention(
                    "error",
                    "The configuration in force names something that isn't there: " + gone + ".",
                    "policies/files",
                    null));
        }
        for (var found : ways.singleThingsToPrivileged()) {
            attention.add(new Attention("warning", found, "policies", null));
        }
        trail.doubt()
                .ifPresent(why -> attention.add(new Attention(
                        "error",
                        "The record isn't continued, because " + why + ". Look at the service's log.",
                        "audit",
                        null)));
        for (var outlet : outlets.shown().outlets()) {
            var stopped = outlet.state().equals("stopped");
            if (stopped || outlet.failures() >= Outlets.TOLD_AFTER) {
                attention.add(new Attention(
                        stopped ? "error" : "warning",
                        "The outlet " + outlet.name() + (stopped ? " stopped: " : " waits: ") + outlet.why()
                                + ". It is " + outlet.behind() + (outlet.behind() == 1 ? " event" : " events")
                                + " behind.",
                        "audit/outlets",
                        null));
            }
        }
        var late = clock.instant().minus(ERASED_WITHIN);
        var waiting = holds.shown().erasures().stream()
                .filter(one -> one.doneAt() == null
                        && one.heldBy() == null
                        && one.requestedAt().isBefore(late))
                .count();
        if (waiting > 0) {
            attention.add(new Attention(
                    "warning",
                    (waiting == 1 ? "An erasure has" : waiting + " erasures have")
                            + " waited for more than two days. Have the operator of the service run the retention step.",
                    "audit/retention",
                    null));
        }
        for (var change : approvals.open()) {
            attention.add(new Attention(
                    "warning",
                    "A change of " + change.author() + " waits for someone else's approval: "
                            + String.join(" ", change.says()),
                    "settings",
                    null));
        }
        var outOfStep = passwords.outOfStep();
        if (outOfStep > 0) {
            attention.add(new Attention(
                    "info",
                    outOfStep + (outOfStep == 1 ? " person has" : " people have")
                            + " accounts with different passwords: one was set elsewhere.",
                    "people",
                    null));
        }
        var failures = deliveries.failures(clock.instant().minus(Duration.ofHours(1)));
        var usual = deliveries.failures(clock.instant().minus(Duration.ofDays(8)));
        if (failures.failed() >= FEW
                && failures.failed() * 10 > failures.ended() * 2
                && failures.failed() * (long) usual.ended() > 2L * usual.failed() * failures.ended()) {
            attention.add(new Attention(
                    "error",
                    failures.failed() + " of " + failures.ended()
                            + " deliveries of the last hour failed, far more than usual. Look at their causes.",
                    "directories/deliveries",
                    null));
        }
        var revision = configurations.current().revision();
        if (revision == 0) {
            attention.add(new Attention(
                    "warning",
                    "Nothing is published yet, so nobody can recover anything. Start a draft.",
                    "policies",
                    null));
        }
        attention.sort(Comparator.comparing(one -> one.severity().equals("error") ? 0 : 1));
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
    @GetMapping("/deliveries/{id}")
    AttemptApi.Delivery delivery(@PathVariable UUID id) {
        return deliveries.show(id);
    }

    /** What removing a directory would do. */
    @GetMapping("/directories/{name}/removal")
    DirectoryApi.Removal removal(@PathVariable String name) {
        return directories.removal(name, deliveringTo(name));
    }

    /** Removes a directory; refused while a policy delivers to it. */
    @DeleteMapping("/directories/{name}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void remove(
            @PathVariable String name,
            @RequestBody DirectoryApi.RemovalConfirmed confirmed,
            @AuthenticationPrincipal String administrator) {
        if (!name.equals(confirmed.name())) {
            throw Problem.invalid("name-not-confirmed", "Repeat the directory's name to remove it.");
        }
        var policies = deliveringTo(name);
        if (!policies.isEmpty()) {
            throw Problem.conflict(
                    "directory-in-use",
                    "These policies deliver to " + name + ": " + String.join(", ", policies)
                            + ". Publish a revision without it first.");
        }
        if (directories.removal(name, policies).waitingDeliveries() > 0) {
            throw Problem.conflict(
                    "deliveries-under-way",
                    "Deliveries are under way to " + name + ". Suspend it first: entente directory suspend " + name
                            + ".");
        }
        directoryRemoval.remove(name, administrator);
    }

    private List<String> deliveringTo(String directory) {
        return configurations.current().policies().stream()
                .filter(p -> p.deliverTo().value().contains(directory))
                .map(Policy::name)
                .toList();
    }

    /** Attempts, newest first. */
    @GetMapping("/attempts")
    Page<AttemptApi.AttemptRow> attempts(
            @RequestParam(required = false) @OneOf(AttemptState.class) String state,
            @RequestParam(required = false) UUID person,
            @RequestParam(defaultValue = "false") boolean madeUp,
            @RequestParam(required = false) String after,
            @RequestParam(defaultValue = "50") int limit) {
        var size = Math.max(1, Math.min(limit, 200));
        var rows = attempts.list(state, person, madeUp, after, size + 1);
        var items = rows.stream().limit(size).toList();
        return new Page<>(items, rows.size() > size ? items.get(size - 1).reference() : null);
    }

    /** One attempt with its deliveries and everything that happened. */
    @GetMapping("/attempts/{reference}")
    @Transactional(readOnly = true)
    public AttemptApi.AttemptDetail attempt(@PathVariable String reference) {
        var found = attempts.show(reference);
        return new AttemptApi.AttemptDetail(
                found.row(),
                found.reason(),
                attempts.limits(found.id()),
                deliveries.ofAttempt(found.id()),
                trail.ofAttempt(found.id(), found.row().reference()));
    }

    /** The same as a PDF for an incident's file, with the proofs of its events attached; that it was made is on record. */
    @GetMapping(value = "/attempts/{reference}/report", produces = MediaType.APPLICATION_PDF_VALUE)
    @Transactional
    public ResponseEntity<byte[]> report(
            @PathVariable String reference, @AuthenticationPrincipal String administrator) {
        var detail = attempt(reference);
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
                .body(report.of(detail, proven, administrator));
    }
}
