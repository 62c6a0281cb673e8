package dev.entente.service.policy;

import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.PolicyApi;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** The stop switch over HTTP. */
@RestController
@RequestMapping("/api/v1/stops")
class StopController {
    private final Stops stops;
    private final Configurations configurations;

    StopController(Stops stops, Configurations configurations) {
        this.stops = stops;
        this.configurations = configurations;
    }

    /** What is stopped, what was, and what can be. */
    @GetMapping
    @Transactional(readOnly = true)
    public PolicyApi.Stops all() {
        return new PolicyApi.Stops(
                stops.all(), stops.possible(configurations.current().policies()));
    }

    /** Stops something at once. */
    @Fails({"directory-not-found", "directory-suspended", "stop-end", "stop-reason", "stop-unknown"})
    @Unconfirmed
    @PostMapping
    @ResponseStatus(HttpStatus.CREATED)
    @Transactional
    public PolicyApi.Stops stop(@RequestBody PolicyApi.NewStop wanted, @AuthenticationPrincipal String administrator) {
        stops.stop(wanted, configurations.current().policies(), administrator);
        return all();
    }

    /** Lets something go on; its name stands in the query, for that of a network has a slash. */
    @Fails({"directory-not-found", "stop-not-found"})
    @DeleteMapping
    @Transactional
    public PolicyApi.Stops resume(@RequestParam String what, @AuthenticationPrincipal String administrator) {
        stops.resume(what, administrator);
        return all();
    }
}
