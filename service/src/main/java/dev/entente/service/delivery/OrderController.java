package dev.entente.service.delivery;

import dev.entente.service.directory.StewardCalls;
import dev.entente.service.directory.StewardPresence;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.wire.StewardApi;
import io.swagger.v3.oas.annotations.Hidden;
import jakarta.servlet.http.HttpServletRequest;
import java.time.Duration;
import java.util.List;
import org.springframework.http.ResponseEntity;
import org.springframework.transaction.support.TransactionTemplate;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.context.request.async.DeferredResult;
import tools.jackson.databind.json.JsonMapper;

/** Orders over HTTP, for stewards. */
@Hidden
@RestController
@RequestMapping("/api/v1/steward")
class OrderController {
    private final Leases leases;
    private final Receipts receipts;
    private final WorkBoard board;
    private final StewardCalls calls;
    private final StewardPresence presence;
    private final ServiceSettings settings;
    private final TransactionTemplate transaction;
    private final JsonMapper json;

    OrderController(
            Leases leases,
            Receipts receipts,
            WorkBoard board,
            StewardCalls calls,
            StewardPresence presence,
            ServiceSettings settings,
            TransactionTemplate transaction,
            JsonMapper json) {
        this.leases = leases;
        this.receipts = receipts;
        this.board = board;
        this.calls = calls;
        this.presence = presence;
        this.settings = settings;
        this.transaction = transaction;
        this.json = json;
    }

    /** Waits for work. */
    @PostMapping("/work")
    DeferredResult<ResponseEntity<StewardApi.Work>> work(HttpServletRequest request, @RequestBody String body) {
        var asked = json.readValue(body, StewardApi.AskForWork.class);
        var caller = presence.seen(request, body, asked);
        var wait = Duration.ofSeconds(Math.max(0, asked.waitSeconds()));
        return board.ask(
                caller, asked.room(), wait.compareTo(settings.longestWait()) < 0 ? wait : settings.longestWait());
    }

    /** Noted before the write; what is not answered as begun must not be written. */
    @PostMapping("/orders/begin")
    StewardApi.Begun begin(HttpServletRequest request, @RequestBody String body) {
        var begins = bounded(json.readValue(body, StewardApi.Begins.class).begins());
        return transaction.execute(status -> new StewardApi.Begun(leases.begin(calls.check(request, body), begins)));
    }

    /** What came of orders. */
    @PostMapping("/orders/receipts")
    StewardApi.ReceiptsTaken receipts(HttpServletRequest request, @RequestBody String body) {
        var told = bounded(json.readValue(body, StewardApi.Receipts.class).receipts());
        return transaction.execute(
                status -> new StewardApi.ReceiptsTaken(receipts.receive(calls.check(request, body), told)));
    }

    private static <T> List<T> bounded(List<T> statements) {
        if (statements == null || statements.size() > 64) {
            throw Problem.of("too-many-at-once");
        }
        return statements;
    }
}
