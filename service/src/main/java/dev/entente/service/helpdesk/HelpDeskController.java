package dev.entente.service.helpdesk;

import dev.entente.core.guess.Charge;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.Problem;
import dev.entente.wire.HelpDeskApi;
import java.time.Duration;
import java.util.List;
import java.util.Map;
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
    @PostMapping("/find")
    HelpDeskApi.HelpRequest find(@RequestBody HelpDeskApi.Caller caller, @AuthenticationPrincipal String by) {
        if (caller.login() == null || caller.login().isBlank() || caller.login().length() > 256) {
            throw Problem.invalid("name-missing", "Type the name the caller signs in with.");
        }
        if (caller.number() == null || !caller.number().strip().matches("[0-9]{6}")) {
            throw Problem.invalid("number-missing", "Type the six digits that the caller reads from their screen.");
        }
        var charge = List.of(new Charge("staff-numbers", by, WRONG_PER, 1, WRONG_NUMBERS));
        if (!limits.charge(charge).taken()) {
            throw Problem.of(
                    HttpStatus.TOO_MANY_REQUESTS,
                    "too-many-numbers",
                    "You've typed too many wrong numbers. Try again in an hour.",
                    Map.of("retryAfter", WRONG_PER.toSeconds()));
        }
        var found = desk.find(caller.login().strip(), caller.number(), by)
                .orElseThrow(() -> Problem.of(
                        HttpStatus.NOT_FOUND,
                        "request-missing",
                        "There's no request with this number for "
                                + caller.login().strip()
                                + ". Ask the caller to read it again; it expires after a few minutes."));
        limits.giveBack(charge);
        return found;
    }

    /** Confirms who it is. */
    @PostMapping("/{id}/confirmation")
    HelpDeskApi.Confirmed confirm(
            @PathVariable UUID id,
            @RequestBody HelpDeskApi.StaffConfirmation confirmation,
            @AuthenticationPrincipal String by) {
        return new HelpDeskApi.Confirmed(
                desk.confirm(id, confirmation, by)
                        .orElseThrow(
                                () -> Problem.invalid(
                                        "answers-wrong",
                                        "What you heard isn't right. Ask again and type it as it sounds; after three wrong tries the request ends.")));
    }

    /** Denies it: the person and administrators are told. */
    @PostMapping("/{id}/denial")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void deny(@PathVariable UUID id, @RequestBody HelpDeskApi.Denial denial, @AuthenticationPrincipal String by) {
        desk.deny(id, denial.note(), by);
    }
}
