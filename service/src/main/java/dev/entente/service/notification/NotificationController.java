package dev.entente.service.notification;

import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Message;
import dev.entente.core.verify.Channel;
import dev.entente.service.audit.Readings;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Reads;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.NotificationApi;
import dev.entente.wire.OneOf;
import dev.entente.wire.Page;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Messages over HTTP. */
@RestController
@RequestMapping("/api/v1/notifications")
class NotificationController {
    private static final int MOST = 200;
    private static final List<String> STATES =
            List.of("queued", "sending", "sent", "failed", "uncertain", "expired", "bounced");

    private final Outbox outbox;
    private final Readings readings;

    NotificationController(Outbox outbox, Readings readings) {
        this.readings = readings;
        this.outbox = outbox;
    }

    /** Messages that wait, were sent or could not be, newest first. */
    @Fails({"filter-unknown", "not-a-reference"})
    @Reads("notifications")
    @GetMapping
    Page<NotificationApi.Notification> notifications(
            @RequestParam(required = false)
                    @OneOf(named = {"queued", "sending", "sent", "failed", "uncertain", "expired", "bounced"})
                    String state,
            @RequestParam(required = false) @OneOf(Message.class) String kind,
            @RequestParam(required = false) @OneOf(Channel.class) String channel,
            @RequestParam(required = false) UUID person,
            @RequestParam(required = false) String reference,
            @RequestParam(required = false) Instant since,
            @RequestParam(required = false) Instant until,
            @RequestParam(required = false) UUID after,
            @RequestParam(defaultValue = "50") int limit) {
        known("state", state, STATES);
        known("kind", kind, Arrays.stream(Message.values()).map(Message::label).toList());
        known(
                "channel",
                channel,
                Arrays.stream(Channel.values()).map(Channel::label).toList());
        var digits = reference == null || reference.isBlank()
                ? null
                : Reference.parse(reference)
                        .map(Reference::digits)
                        .orElseThrow(() -> Problem.of("not-a-reference/filter").with("reference", reference));
        var size = Math.max(1, Math.min(limit, MOST));
        var rows = outbox.list(new Outbox.Filter(state, kind, channel, person, digits, since, until), after, size + 1);
        var items = rows.stream().limit(size).toList();
        return new Page<>(items, rows.size() > size ? items.get(size - 1).id().toString() : null);
    }

    private static void known(String filter, String value, List<String> there) {
        if (value != null && !value.isEmpty() && !there.contains(value)) {
            throw Problem.of("filter-unknown/value")
                    .with("filter", filter)
                    .with("value", value)
                    .with("list", String.join(", ", there));
        }
    }

    /** One message, with what it says if that is kept. */
    @Fails("notification-not-found")
    @GetMapping("/{id}")
    NotificationApi.Notification notification(@PathVariable UUID id, @AuthenticationPrincipal String administrator) {
        var shown = outbox.show(id);
        readings.ofMessage(administrator, id);
        return shown;
    }

    /** Sends news again; the answer is the new message. */
    @Fails({"message-gone", "message-not-repeatable", "message-waits", "notification-not-found"})
    @Unconfirmed
    @PostMapping("/{id}/repetitions")
    @ResponseStatus(HttpStatus.CREATED)
    NotificationApi.Notification again(@PathVariable UUID id, @AuthenticationPrincipal String administrator) {
        return outbox.again(id, administrator);
    }
}
