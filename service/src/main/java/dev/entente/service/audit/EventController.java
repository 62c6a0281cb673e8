package dev.entente.service.audit;

import dev.entente.wire.Page;
import dev.entente.wire.RecordApi.Event;
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

    EventController(AuditTrail trail) {
        this.trail = trail;
    }

    /** Newest first; {@code after} is the position below which the next page starts. */
    @GetMapping
    Page<Event> list(@RequestParam(required = false) Long after, @RequestParam(defaultValue = "50") int limit) {
        var size = Math.max(1, Math.min(limit, 200));
        var items = trail.before(after == null ? Long.MAX_VALUE : after, size);
        var next = items.size() < size
                ? null
                : String.valueOf(items.get(items.size() - 1).seq());
        return new Page<>(items, next);
    }

    /** Oldest first from a position on; ask again from one past the last to follow. */
    @GetMapping("/from/{seq}")
    Page<Event> from(@PathVariable long seq, @RequestParam(defaultValue = "200") int limit) {
        var items = trail.from(seq, Math.max(1, Math.min(limit, 200)));
        var next = items.isEmpty() ? seq : items.get(items.size() - 1).seq() + 1;
        return new Page<>(items, String.valueOf(next));
    }
}
