package dev.entente.service.outlet;

import dev.entente.service.platform.Answers;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.OutletApi;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Outlets over HTTP: for administrators, and for those who fetch. */
@RestController
@RequestMapping("/api/v1")
class OutletController {
    private static final String BEARER = "Bearer ";

    private final Outlets outlets;
    private final OutletTests tests;
    private final OutletKeys keys;
    private final FetchedStreams streams;

    OutletController(Outlets outlets, OutletTests tests, OutletKeys keys, FetchedStreams streams) {
        this.outlets = outlets;
        this.tests = tests;
        this.keys = keys;
        this.streams = streams;
    }

    /** All of them, and where the operator lets them lead. */
    @GetMapping("/outlets")
    OutletApi.Outlets outlets() {
        return outlets.shown();
    }

    /** One of them. */
    @Fails("outlet-not-found")
    @GetMapping("/outlets/{name}")
    OutletApi.Outlet outlet(@PathVariable String name) {
        return outlets.shown(name);
    }

    /** Makes an outlet, or changes the one with this name. */
    @Fails({
        "outlet-address",
        "outlet-audience",
        "outlet-authority",
        "outlet-credential",
        "outlet-event-unknown",
        "outlet-file-taken",
        "outlet-kind",
        "outlet-kind-changed",
        "outlet-name",
        "outlet-not-allowed",
        "outlet-not-found",
        "outlet-part-unknown",
        "outlet-position",
        "outlets-many",
        "severity-unknown"
    })
    @Answers(
            value = {200, 202},
            empty = 202)
    @PutMapping("/outlets/{name}")
    ResponseEntity<OutletApi.Made> setOutlet(
            @PathVariable String name,
            @RequestBody OutletApi.NewOutlet wanted,
            @AuthenticationPrincipal String administrator) {
        return outlets.set(name, wanted, administrator)
                .map(ResponseEntity::ok)
                .orElseGet(() -> ResponseEntity.accepted().build());
    }

    /** Removes one; it is told nothing any more. */
    @Fails("outlet-not-found")
    @Answers({202, 204})
    @DeleteMapping("/outlets/{name}")
    ResponseEntity<Void> removeOutlet(@PathVariable String name, @AuthenticationPrincipal String administrator) {
        return outlets.remove(name, administrator)
                ? ResponseEntity.noContent().build()
                : ResponseEntity.accepted().build();
    }

    /** Sends something that is no event, to see whether it is taken. */
    @Fails({"outlet-address", "outlet-not-allowed", "outlet-not-found"})
    @PostMapping("/outlets/{name}/test")
    OutletApi.Tried testOutlet(@PathVariable String name, @AuthenticationPrincipal String administrator) {
        return tests.test(name, administrator);
    }

    /** Makes one wait; nothing is lost meanwhile. */
    @Fails("outlet-not-found")
    @PostMapping("/outlets/{name}/pause")
    OutletApi.Outlet pauseOutlet(@PathVariable String name, @AuthenticationPrincipal String administrator) {
        return outlets.pause(name, administrator);
    }

    /** Goes on: where it is, behind an event that the receiver would not take, or from any event, which tells everything since again. */
    @Fails({"outlet-goes", "outlet-not-found", "outlet-position"})
    @Answers(
            value = {200, 202},
            empty = 202)
    @PostMapping("/outlets/{name}/resume")
    ResponseEntity<OutletApi.Outlet> resumeOutlet(
            @PathVariable String name,
            @RequestBody OutletApi.GoOn wanted,
            @AuthenticationPrincipal String administrator) {
        return outlets.goOn(name, wanted, administrator)
                .map(ResponseEntity::ok)
                .orElseGet(() -> ResponseEntity.accepted().build());
    }

    /** The keys by which receivers prove that it was us (RFC 7517). For anybody. */
    @GetMapping("/outlet-keys")
    OutletApi.Keys outletKeys() {
        return keys.shown();
    }

    /** Signs with a new key from now on; the one before stays among the public ones until the next time. */
    @PostMapping("/outlets/keys")
    OutletApi.Keys rotateOutletKey(@AuthenticationPrincipal String administrator) {
        return keys.rotate(administrator);
    }

    /** Security event tokens for the receiver that an outlet is for (RFC 8936), by the token that was shown when it was made. */
    @Fails({"outlet-not-found", "stream-acknowledged", "stream-token"})
    @Unconfirmed
    @PostMapping("/event-streams/{name}")
    OutletApi.Polled poll(
            @PathVariable String name,
            @RequestBody OutletApi.Poll asked,
            @RequestHeader(name = "Authorization", required = false) String authorization) {
        return streams.poll(
                name,
                authorization != null && authorization.startsWith(BEARER)
                        ? authorization.substring(BEARER.length()).strip()
                        : null,
                asked);
    }
}
