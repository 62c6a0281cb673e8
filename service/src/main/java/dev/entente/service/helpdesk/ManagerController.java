package dev.entente.service.helpdesk;

import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.wire.HelpDeskApi;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** What the page calls that a manager's link opens. Whoever has the link may call it; it changes nothing without the number. */
@RestController
@RequestMapping("/api/v1/portal/confirmations")
class ManagerController {
    private final HelpDesk desk;

    ManagerController(HelpDesk desk) {
        this.desk = desk;
    }

    /** What is asked. */
    @Fails("request-over")
    @PostMapping("/find")
    HelpDeskApi.HelpRequest find(@RequestBody HelpDeskApi.ManagerLink link) {
        return desk.asked(link.token());
    }

    /** Confirms who it is. */
    @Fails({"note-too-long", "number-wrong", "request-over", "second-member-wanted", "unchecked"})
    @PostMapping
    HelpDeskApi.Confirmed confirm(@RequestBody HelpDeskApi.ManagerConfirmation confirmation) {
        return new HelpDeskApi.Confirmed(desk.confirm(confirmation).orElseThrow(() -> Problem.of("number-wrong")));
    }

    /** Denies it: the person and administrators are told. */
    @Fails("request-over")
    @PostMapping("/denial")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void deny(@RequestBody HelpDeskApi.ManagerLink link) {
        desk.deny(link.token());
    }
}
