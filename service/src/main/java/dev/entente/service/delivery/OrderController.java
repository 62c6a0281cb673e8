package dev.entente.service.delivery;

import dev.entente.service.directory.StewardCalls;
import dev.entente.service.directory.StewardPresence;
import dev.entente.service.platform.Problem;
import dev.entente.wire.StewardApi;
import io.swagger.v3.oas.annotations.Hidden;
import jakarta.servlet.http.HttpServletRequest;
import java.time.Duration;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.context.request.async.DeferredResult;
import tools.jackson.databind.json.JsonMapper;

/** Orders over HTTP, for stewards. */
@Hidden
@RestController
@RequestMapping("/api/v1/steward")
class OrderController {
    private final Deliveries deliveries;
    private final WorkBoard board;
    private final StewardCalls calls;
    private final StewardPresence presence;
    private final JsonMapper json;

    OrderController(
            Deliveries deliveries, WorkBoard board, StewardCalls calls, StewardPresence presence, JsonMapper json) {
        this.deliveries = deliveries;
        this.board = board;
        this.calls = calls;
        this.presence = presence;
        this.json = json;
    }

    /** Waits for work. */
    @PostMapping("/work")
    DeferredResult<ResponseEntity<StewardApi.Work>> work(HttpServletRequest request, @RequestBody String body) {
        var caller = calls.check(request, body);
        var asked = json.readValue(body, StewardApi.AskForWork.class);
        presence.seen(caller, asked.version());
        return board.ask(caller, Duration.ofSeconds(Math.max(0, Math.min(25, asked.waitSeconds()))));
    }

    /** Noted before the write; refused when the lease is over. */
    @PostMapping("/orders/{id}/begin")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void begin(HttpServletRequest request, @PathVariable UUID id, @RequestBody String body) {
        var caller = calls.check(request, body);
        var begin = json.readValue(body, StewardApi.Begin.class);
        if (!deliveries.begin(id, caller.steward(), begin.epoch(), begin.server(), begin.version())) {
            throw Problem.conflict("The lease is over or the order is another's now; nothing may be written.");
        }
    }

    /** What came of it. */
    @PostMapping("/orders/{id}/receipt")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void receipt(HttpServletRequest request, @PathVariable UUID id, @RequestBody String body) {
        var caller = calls.check(request, body);
        deliveries.receive(
                id,
                caller.steward(),
                json.readValue(body, StewardApi.ReceiptStatement.class).receipt());
    }
}
