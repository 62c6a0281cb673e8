package dev.entente.service.audit;

import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Reads;
import dev.entente.wire.RetentionApi;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** What is kept, and what goes, over HTTP. */
@RestController
@RequestMapping("/api/v1/retention")
class RetentionController {
    private final Holds holds;

    RetentionController(Holds holds) {
        this.holds = holds;
    }

    /** How long what is kept, what is on hold, and what was erased and cut off. */
    @Reads("retention")
    @GetMapping
    RetentionApi.Retention retention() {
        return holds.shown();
    }

    /** Places a hold on a person, an attempt or a span: nothing of it goes until it is lifted. */
    @Fails({"attempt-not-found", "hold-of", "hold-span", "name-ambiguous", "name-not-found", "reason-needed"})
    @PostMapping("/holds")
    @ResponseStatus(HttpStatus.CREATED)
    RetentionApi.Hold placeHold(
            @RequestBody RetentionApi.NewHold wanted, @AuthenticationPrincipal String administrator) {
        return holds.place(wanted, administrator);
    }

    /** Lifts a hold. */
    @Fails("hold-not-found")
    @PostMapping("/holds/{id}/lift")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void liftHold(@PathVariable UUID id, @AuthenticationPrincipal String administrator) {
        holds.lift(id, administrator);
    }

    /** Asks for the values that name a person to be erased from the record; done by the next run of the retention step. */
    @Fails({"erasure-of", "erasure-waits", "name-ambiguous", "name-not-found", "reason-needed"})
    @PostMapping("/erasures")
    @ResponseStatus(HttpStatus.CREATED)
    RetentionApi.Erasure requestErasure(
            @RequestBody RetentionApi.NewErasure wanted, @AuthenticationPrincipal String administrator) {
        return holds.erase(wanted, administrator);
    }
}
