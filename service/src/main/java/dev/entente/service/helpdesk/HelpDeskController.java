package dev.entente.service.helpdesk;

import dev.entente.core.guess.Charge;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.ForStaff;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.HelpDeskApi;
import java.time.Duration;
import java.util.List;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** What staff call. Wrong numbers are counted for whoever types them, and nobody else. */
@ForStaff
@RestController
@RequestMapping("/api/v1/help-desk/requests")
class HelpDeskController {
    private static final int WRONG_NUMBERS = 20;
    private static final Duration WRONG_PER = Duration.ofHours(1);

    private final HelpDesk desk;
    private final Limits limits;

    HelpDeskController(HelpDesk desk, Limits limits) {
        this.desk = desk;
        this.limits = limits;
    }

    /** Finds what a caller asks for, by their sign-in name and the number on their screen. */
    @Fails({
        "administrator-not-found",
        "name-missing",
        "number-missing",
        "outside-scopes",
        "own-request",
        "request-missing",
        "too-many-numbers"
    })
    @Unconfirmed
    @PostMapping("/find")
    HelpDeskApi.HelpRequest find(@RequestBody HelpDeskApi.Caller caller, @AuthenticationPrincipal String by) {
        if (caller.login() == null || caller.login().isBlank() || caller.login().length() > 256) {
            throw Problem.of("name-missing");
        }
        if (caller.number() == null || !caller.number().strip().matches("[0-9]{6}")) {
            throw Problem.of("number-missing");
        }
        var charge = List.of(new Charge("staff-numbers", by, WRONG_PER, 1, WRONG_NUMBERS));
        if (!limits.charge(charge).taken()) {
            throw Problem.of("too-many-numbers").with("retryAfter", WRONG_PER.toSeconds());
        }
        var found = desk.find(caller.login().strip(), caller.number(), by)
                .orElseThrow(() -> Problem.of("request-missing")
                        .with("login", caller.login().strip()));
        limits.giveBack(charge);
        return found;
    }

    /** Confirms who it is. */
    @Fails({
        "administrator-not-found",
        "answers-wrong",
        "confirmer-unknown",
        "note-too-long",
        "outside-scopes",
        "own-request",
        "request-over",
        "second-member-wanted",
        "unchecked"
    })
    @PostMapping("/{id}/confirmation")
    HelpDeskApi.Confirmed confirm(
            @PathVariable UUID id,
            @RequestBody HelpDeskApi.StaffConfirmation confirmation,
            @AuthenticationPrincipal String by) {
        return new HelpDeskApi.Confirmed(
                desk.confirm(id, confirmation, by).orElseThrow(() -> Problem.of("answers-wrong")));
    }

    /** Denies it: the person and administrators are told. */
    @Fails({"administrator-not-found", "note-too-long", "outside-scopes", "own-request", "request-over"})
    @Unconfirmed
    @PostMapping("/{id}/denial")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void deny(@PathVariable UUID id, @RequestBody HelpDeskApi.Denial denial, @AuthenticationPrincipal String by) {
        desk.deny(id, denial.note(), by);
    }
}
