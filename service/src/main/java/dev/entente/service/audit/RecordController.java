package dev.entente.service.audit;

import dev.entente.core.audit.RecordVerifier;
import dev.entente.wire.RecordApi.SealedPart;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The record as it was sealed, so that others can prove it: {@link RecordVerifier} is all that is needed, and the public key. */
@RestController
@RequestMapping("/api/v1/record")
class RecordController {
    private static final int MOST = 1000;

    private final AuditTrail trail;

    RecordController(AuditTrail trail) {
        this.trail = trail;
    }

    /** At most 1,000 events from a position on. What is gone of an event is left out of it, and its hash is there still. */
    @GetMapping
    SealedPart part(@RequestParam(defaultValue = "0") long from, @RequestParam(defaultValue = "1000") int limit) {
        return trail.part(Math.max(0, from), Math.max(1, Math.min(limit, MOST)));
    }
}
