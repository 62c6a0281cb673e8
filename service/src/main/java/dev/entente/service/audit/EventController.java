package dev.entente.service.audit;

import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind.Retention;
import dev.entente.core.audit.EventKind.Severity;
import dev.entente.wire.OneOf;
import dev.entente.wire.Page;
import dev.entente.wire.RecordApi;
import dev.entente.wire.RecordApi.Event;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Objects;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The record over HTTP: newest first to look, oldest first to follow. */
@RestController
@RequestMapping("/api/v1/events")
class EventController {
    private final AuditTrail trail;
    private final EventSearch search;

    EventController(AuditTrail trail, EventSearch search) {
        this.trail = trail;
        this.search = search;
    }

    /**
     * Newest first. Without any filter the sealed ones, by their positions; with some, those that meet all of them, sealed or not
     * yet. A page may hold fewer than were asked for, even none, and still have one after it.
     *
     * @param person a name by which somebody signs in: everything that concerned them, with their attempts
     * @param severity the least: info, notice, warning or alert
     * @param since the first moment, RFC 3339
     * @param until the moment after the last, RFC 3339
     */
    @GetMapping
    Page<Event> list(
            @RequestParam(required = false) String after,
            @RequestParam(defaultValue = "50") int limit,
            @RequestParam(required = false) String kind,
            @RequestParam(required = false) String part,
            @RequestParam(required = false) String person,
            @RequestParam(required = false) String reference,
            @RequestParam(required = false) String administrator,
            @RequestParam(required = false) String directory,
            @RequestParam(required = false) String steward,
            @RequestParam(required = false) String method,
            @RequestParam(required = false) String policy,
            @RequestParam(required = false) String network,
            @RequestParam(required = false) String cause,
            @RequestParam(required = false) String state,
            @RequestParam(required = false) String message,
            @RequestParam(required = false) @OneOf(Severity.class) String severity,
            @RequestParam(required = false) String since,
            @RequestParam(required = false) String until) {
        var size = Math.max(1, Math.min(limit, 200));
        var fields = new LinkedHashMap<String, String>();
        fields.put("kind", said(kind));
        fields.put("administrator", said(administrator));
        fields.put("directory", said(directory));
        fields.put("steward", said(steward));
        fields.put("method", said(method));
        fields.put("policy", said(policy));
        fields.put("network", said(network));
        fields.put("cause", said(cause));
        fields.put("state", said(state));
        fields.put("message", said(message));
        fields.values().removeIf(Objects::isNull);
        var wanted = new EventSearch.Wanted(
                fields, said(part), said(severity), said(person), said(reference), said(since), said(until));
        if (!wanted.nothing()) {
            return search.find(wanted, said(after), size);
        }
        var items = trail.before(position(after), size);
        var next = items.size() < size
                ? null
                : String.valueOf(items.get(items.size() - 1).seq());
        return new Page<>(items, next);
    }

    private static String said(String text) {
        return text == null || text.isBlank() ? null : text.strip();
    }

    private static long position(String after) {
        try {
            return after == null ? Long.MAX_VALUE : Long.parseLong(after);
        } catch (NumberFormatException e) {
            throw EventSearch.noPage();
        }
    }

    /** Every kind that there is or was, with its fields. */
    @GetMapping("/kinds")
    List<RecordApi.EventKind> kinds() {
        return EventCatalogue.all().stream()
                .map(kind -> new RecordApi.EventKind(
                        kind.name(),
                        kind.part(),
                        kind.severity().label(),
                        kind.written(),
                        kind.classes().stream().map(Retention::label).sorted().toList(),
                        kind.fields().entrySet().stream()
                                .map(f -> new RecordApi.EventField(
                                        f.getKey(),
                                        f.getValue().type().label(),
                                        f.getValue().optional()))
                                .toList()))
                .toList();
    }

    /** Oldest first from a position on; ask again from one past the last to follow. */
    @GetMapping("/from/{seq}")
    Page<Event> from(@PathVariable long seq, @RequestParam(defaultValue = "200") int limit) {
        var items = trail.from(seq, Math.max(1, Math.min(limit, 200)));
        var next = items.isEmpty() ? seq : items.get(items.size() - 1).seq() + 1;
        return new Page<>(items, String.valueOf(next));
    }
}
