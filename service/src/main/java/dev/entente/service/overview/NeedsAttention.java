package dev.entente.service.overview;

import dev.entente.core.attempt.Reference;
import dev.entente.core.notice.Concern;
import dev.entente.core.notice.Finding;
import dev.entente.core.policy.Stop;
import dev.entente.service.approval.Approvals;
import dev.entente.service.attempt.ClosedPeople;
import dev.entente.service.attempt.Pressure;
import dev.entente.service.audit.AuditTrail;
import dev.entente.service.audit.Holds;
import dev.entente.service.delivery.DeliveryList;
import dev.entente.service.directory.DirectoryList;
import dev.entente.service.notice.Notices;
import dev.entente.service.notification.Bounces;
import dev.entente.service.notification.MailChannel;
import dev.entente.service.notification.Notifications;
import dev.entente.service.outlet.Outlets;
import dev.entente.service.people.AccountPasswords;
import dev.entente.service.people.People;
import dev.entente.service.policy.Configurations;
import dev.entente.service.policy.Stops;
import dev.entente.service.policy.Ways;
import dev.entente.wire.RecordApi.Attention;
import java.time.Duration;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** What needs attention now. */
@Component
public class NeedsAttention {
    private static final int FEW = 5;
    /** The retention step runs once a day. */
    private static final Duration ERASED_WITHIN = Duration.ofDays(2);

    private final Configurations configurations;
    private final DirectoryList directories;
    private final MailChannel mail;
    private final Bounces bounces;
    private final Stops stops;
    private final People people;
    private final DeliveryList deliveries;
    private final Notifications notifications;
    private final AuditTrail trail;
    private final Pressure pressure;
    private final Approvals approvals;
    private final AccountPasswords passwords;
    private final Ways ways;
    private final Outlets outlets;
    private final Holds holds;
    private final ClosedPeople closed;
    private final Notices notices;
    private final InstantSource clock;

    NeedsAttention(
            Configurations configurations,
            DirectoryList directories,
            MailChannel mail,
            Bounces bounces,
            Stops stops,
            People people,
            DeliveryList deliveries,
            Notifications notifications,
            AuditTrail trail,
            Pressure pressure,
            Approvals approvals,
            AccountPasswords passwords,
            Ways ways,
            Outlets outlets,
            Holds holds,
            ClosedPeople closed,
            Notices notices,
            InstantSource clock) {
        this.configurations = configurations;
        this.directories = directories;
        this.mail = mail;
        this.bounces = bounces;
        this.stops = stops;
        this.people = people;
        this.deliveries = deliveries;
        this.notifications = notifications;
        this.trail = trail;
        this.pressure = pressure;
        this.approvals = approvals;
        this.passwords = passwords;
        this.ways = ways;
        this.outlets = outlets;
        this.holds = holds;
        this.closed = closed;
        this.notices = notices;
        this.clock = clock;
    }

    /**
     * Something that needs attention.
     *
     * @param key tells it from others of the same finding; stays the same while numbers in its text change
     * @param about a directory's name; null if it is about none
     */
    public record Need(Finding what, String key, String about, Attention shown) {
        String id() {
            return (what.label() + " " + key).strip();
        }
    }

    private static Need need(Finding what, String key, String severity, String text, String page, String stop) {
        return new Need(what, key, null, new Attention(severity, text, page, stop));
    }

    /** All of it, in no order of importance. */
    @Transactional(readOnly = true)
    public List<Need> now() {
        var since = clock.instant().minus(Duration.ofDays(1));
        var needs = new ArrayList<Need>();
        for (var reference : notifications.alarms(since)) {
            needs.add(need(
                    Finding.ALARM,
                    reference,
                    "error",
                    "Someone said that a reset was not theirs: " + new Reference(reference) + ".",
                    "audit/attempts/" + reference,
                    null));
        }
        var shown = directories.looked();
        if (shown.isEmpty()) {
            needs.add(need(
                    Finding.NO_DIRECTORY,
                    "",
                    "warning",
                    "No directory is connected yet. Start with entente directory add.",
                    "directories",
                    null));
        }
        for (var looked : shown) {
            for (var one : looked.needs()) {
                needs.add(new Need(
                        one.what(),
                        looked.name() + " " + one.key(),
                        looked.name(),
                        new Attention(
                                "warning", looked.title() + ": " + one.text(), "directories/" + looked.name(), null)));
            }
        }
        if (!mail.works()) {
            needs.add(need(
                    Finding.MAIL,
                    "",
                    "error",
                    "Mail cannot be sent, so no code reaches anybody. Look at the conversation: entente mail test ADDRESS",
                    "settings",
                    null));
        }
        bounces.trouble()
                .ifPresent(why -> needs.add(need(
                        Finding.BOUNCES,
                        "",
                        "warning",
                        "What comes back can't be read from its mailbox: " + why + ". Check it: entente mail bounces",
                        "settings",
                        null)));
        if (!notices.anybody(Concern.PRIVILEGED_ACCOUNTS)
                && configurations.current().policies().stream()
                        .anyMatch(p -> p.tellAdministrators().value())) {
            needs.add(need(
                    Finding.NOBODY_TO_TELL,
                    "",
                    "warning",
                    "A policy tells administrators of privileged accounts, but no address for them is set.",
                    "settings",
                    null));
        }
        for (var stop : stops.inForce()) {
            // A stopped directory says so itself.
            if (stop.kind() != Stop.Kind.DIRECTORY) {
                needs.add(need(
                        Finding.STOPPED,
                        stop.what(),
                        "error",
                        "Stopped: " + stop.what() + ", because " + stop.reason() + ".",
                        "stops",
                        null));
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
                needs.add(need(
                        Finding.UNUSUAL,
                        level.kind().label(),
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
            needs.add(need(
                    Finding.NAMES_WHAT_IS_GONE,
                    gone,
                    "error",
                    "The configuration in force names something that isn't there: " + gone + ".",
                    "policies/files",
                    null));
        }
        for (var found : ways.singleThingsToPrivileged()) {
            needs.add(need(
                    Finding.ONE_THING_IS_ENOUGH, found.replaceAll("[0-9]+", ""), "warning", found, "policies", null));
        }
        trail.doubt()
                .ifPresent(why -> needs.add(need(
                        Finding.RECORD_IN_DOUBT,
                        "",
                        "error",
                        "The record isn't continued, because " + why + ". Look at the service's log.",
                        "audit",
                        null)));
        for (var outlet : outlets.shown().outlets()) {
            var stopped = outlet.state().equals("stopped");
            if (stopped || outlet.failures() >= Outlets.TOLD_AFTER) {
                needs.add(need(
                        Finding.OUTLET,
                        outlet.name(),
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
            needs.add(need(
                    Finding.ERASURE_LATE,
                    "",
                    "warning",
                    (waiting == 1 ? "An erasure has" : waiting + " erasures have")
                            + " waited for more than two days. Have the operator of the service run the retention step.",
                    "audit/retention",
                    null));
        }
        for (var change : approvals.open()) {
            needs.add(need(
                    Finding.APPROVAL_WAITS,
                    change.id().toString(),
                    "warning",
                    "A change of " + change.author() + " waits for someone else's approval: "
                            + String.join(" ", change.says()),
                    "settings",
                    null));
        }
        var outOfStep = passwords.outOfStep();
        if (outOfStep > 0) {
            needs.add(need(
                    Finding.OUT_OF_STEP,
                    "",
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
            needs.add(need(
                    Finding.DELIVERIES_FAIL,
                    "",
                    "error",
                    failures.failed() + " of " + failures.ended()
                            + " deliveries of the last hour failed, far more than usual. Look at their causes.",
                    "directories/deliveries",
                    null));
        }
        if (configurations.current().revision() == 0) {
            needs.add(need(
                    Finding.NOTHING_PUBLISHED,
                    "",
                    "warning",
                    "Nothing is published yet, so nobody can recover anything. Start a draft.",
                    "policies",
                    null));
        }
        var closedFor = closed.count();
        if (closedFor > 0) {
            needs.add(need(
                    Finding.SELF_SERVICE_CLOSED,
                    "",
                    "error",
                    "Self-service is closed for " + closedFor + (closedFor == 1 ? " person who" : " people who")
                            + " said that something wasn't them. Talk to them, and open it again on their page.",
                    "audit/events?kind=selfservice.closed",
                    null));
        }
        return needs;
    }
}
