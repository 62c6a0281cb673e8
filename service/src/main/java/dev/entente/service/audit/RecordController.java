package dev.entente.service.audit;

import dev.entente.core.audit.ProofFile;
import dev.entente.core.audit.RecordVerifier;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Reads;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.RecordApi;
import dev.entente.wire.RecordApi.SealedPart;
import java.util.List;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The record as it was sealed, so that others can prove it: {@link RecordVerifier} is all that is needed, and the public key. */
@RestController
@RequestMapping("/api/v1/record")
class RecordController {
    private static final int MOST = 5000;

    private final AuditTrail trail;
    private final Proofs proofs;

    RecordController(AuditTrail trail, Proofs proofs) {
        this.trail = trail;
        this.proofs = proofs;
    }

    /** At most 5,000 events from a position on. What is gone of an event is left out of it, and its hash is there still. */
    @Reads("record")
    @GetMapping
    SealedPart part(@RequestParam(defaultValue = "0") long from, @RequestParam(defaultValue = "5000") int limit) {
        return trail.part(Math.max(0, from), Math.max(1, Math.min(limit, MOST)));
    }

    /** That an event stands at its position: the proof can be checked without the record (RFC 9162 section 2.1.3). */
    @Fails({"event-not-found", "record-empty", "too-many-proofs"})
    @Reads("record")
    @GetMapping("/proofs/events/{seq}")
    ProofFile eventProof(@PathVariable long seq) {
        return proofs.ofEvent(seq);
    }

    /**
     * The same for several, at most 200, all by the latest checkpoint.
     *
     * @param positions of the events
     */
    @Fails({"event-not-found", "record-empty", "too-many-proofs"})
    @Reads("record")
    @GetMapping("/proofs/events")
    List<ProofFile> eventProofs(@RequestParam List<Long> positions) {
        return proofs.ofEvents(positions);
    }

    /** The same for everything that happened to an attempt, as far as it is sealed, and which of its events are gone. */
    @Fails({"attempt-not-found", "event-not-found", "record-empty"})
    @Reads("record")
    @GetMapping("/proofs/attempts/{reference}")
    RecordApi.AttemptProofs attemptProofs(@PathVariable String reference) {
        return proofs.ofAttempt(reference);
    }

    /** That the record continues a checkpoint that was kept (RFC 9162 section 2.1.4). */
    @Fails({"checkpoint-unknown", "record-empty", "record-shorter"})
    @Unconfirmed
    @PostMapping("/proofs/continuation")
    ProofFile continuationProof(@RequestBody RecordApi.KeptCheckpoint kept) {
        return proofs.continued(kept.statement());
    }
}
