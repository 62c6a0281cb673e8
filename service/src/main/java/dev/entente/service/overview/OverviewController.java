package dev.entente.service.overview;

import dev.entente.service.attempt.AttemptList;
import dev.entente.service.audit.AuditTrail;
import dev.entente.service.delivery.Deliveries;
import dev.entente.service.directory.DirectoryList;
import dev.entente.service.notification.Notifications;
import dev.entente.service.policy.Configurations;
import dev.entente.wire.AdminApi;
import dev.entente.wire.AdminApi.Attention;
import java.time.Duration;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.UUID;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Today, and attempts. */
@RestController
@RequestMapping("/api/v1")
class OverviewController {
    private final Configurations configurations;
    private final DirectoryList directories;
    private final AttemptList attempts;
    private final Deliveries deliveries;
    private final Notifications notifications;
    private final AuditTrail trail;
    private final InstantSource clock;

    OverviewController(
            Configurations configurations,
            DirectoryList directories,
            AttemptList attempts,
            Deliveries deliveries,
            Notifications notifications,
            AuditTrail trail,
            InstantSource clock) {
        this.configurations = configurations;
        this.directories = directories;
        this.attempts = attempts;
        this.deliveries = deliveries;
        this.notifications = notifications;
        this.trail = trail;
        this.clock = clock;
    }

    /** What needs attention, and how the last 24 hours went. */
    @GetMapping("/today")
    @Transactional(readOnly = true)
    public AdminApi.Today today() {
        var since = clock.instant().minus(Duration.ofDays(1));
        var attention = new ArrayList<Attention>();
        for (var reference : notifications.alarms(since)) {
            attention.add(new Attention(
                    "error",
                    "Somebody said that a reset was not theirs: " + reference.substring(0, 4) + " "
                            + reference.substring(4) + ".",
                    "audit/attempts/" + reference));
        }
        var shown = directories.all();
        if (shown.isEmpty()) {
            attention.add(new Attention(
                    "warning", "No directory is connected yet. Start with entente directory add.", "directories"));
        }
        for (var directory : shown) {
            for (var text : directory.attention()) {
                attention.add(
                        new Attention("warning", directory.title() + ": " + text, "directories/" + directory.name()));
            }
        }
        var revision = configurations.current().revision();
        if (revision == 0) {
            attention.add(new Attention(
                    "warning", "Nothing is published yet, so nobody can recover anything. Start a draft.", "policies"));
        }
        var covered = configurations.covered();
        var extent = trail.extent();
        return new AdminApi.Today(
                revision,
                covered[1],
                covered[0],
                attempts.outcomes(since),
                attention,
                extent.map(e -> e[0]).orElse(0L),
                extent.map(e -> e[1]).orElse(null));
    }

    /** Attempts, newest first. */
    @GetMapping("/attempts")
    AdminApi.Page<AdminApi.AttemptRow> attempts(
            @RequestParam(required = false) String state,
            @RequestParam(required = false) UUID person,
            @RequestParam(required = false) String after,
            @RequestParam(defaultValue = "50") int limit) {
        var size = Math.max(1, Math.min(limit, 200));
        var rows = attempts.list(state, person, after, size + 1);
        var items = rows.stream().limit(size).toList();
        return new AdminApi.Page<>(
                items, rows.size() > size ? items.get(size - 1).reference() : null);
    }

    /** One attempt with its deliveries and everything that happened. */
    @GetMapping("/attempts/{reference}")
    @Transactional(readOnly = true)
    public AdminApi.AttemptDetail attempt(@PathVariable String reference) {
        var found = attempts.show(reference);
        return new AdminApi.AttemptDetail(
                found.row(),
                found.reason(),
                deliveries.shown(found.id()),
                trail.ofAttempt(found.id(), found.row().reference()));
    }
}
