package dev.entente.service.outlet;

import dev.entente.core.audit.OutletKind;
import dev.entente.service.platform.KeyRing;
import dev.entente.wire.RecordApi.Event;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/** Security event tokens pushed one by one (RFC 8935). */
@Component
class SecurityEventReceiver extends WebReceiver {
    /** Section 2.4: what is wrong with the token itself. */
    private static final Set<String> OF_THE_TOKEN =
            Set.of("invalid_request", "invalid_key", "invalid_issuer", "invalid_audience");
    /** And with whoever sends it. */
    private static final Set<String> OF_THE_CALLER = Set.of("authentication_failed", "access_denied");

    /** Shorter than a turn, so that no other node starts on the same events meanwhile. */
    private static final Duration LONGEST_LOT = Duration.ofSeconds(20);

    private final SecurityEvents tokens;
    private final JsonMapper json;

    SecurityEventReceiver(AllowedReceivers allowed, KeyRing keys, SecurityEvents tokens, JsonMapper json) {
        super(allowed, keys);
        this.tokens = tokens;
        this.json = json;
    }

    @Override
    public OutletKind kind() {
        return OutletKind.SECURITY_EVENTS;
    }

    @Override
    public void send(Outlet outlet, List<Event> events) throws NotTaken {
        var end = System.nanoTime() + LONGEST_LOT.toNanos();
        for (var i = 0; i < events.size(); i++) {
            if (System.nanoTime() > end) {
                throw NotTaken.now("it answered too slowly").after(i);
            }
            try {
                var token = tokens.token(outlet, events.get(i));
                if (token.isPresent()) {
                    push(outlet, token.get());
                }
            } catch (NotTaken e) {
                throw e.after(i);
            }
        }
    }

    @Override
    public void test(Outlet outlet) throws NotTaken {
        push(outlet, tokens.test(outlet));
    }

    private void push(Outlet outlet, String token) throws NotTaken {
        var answer = post(outlet, "application/secevent+jwt", token.getBytes(StandardCharsets.US_ASCII), Map.of());
        if (answer.status() == 400) {
            var error = error(answer.body());
            var why = "it refused the token"
                    + (OF_THE_TOKEN.contains(error) || OF_THE_CALLER.contains(error) ? " (" + error + ")" : "");
            throw OF_THE_CALLER.contains(error) ? NotTaken.now(why) : NotTaken.forGood(why);
        }
        if (answer.status() / 100 != 2) {
            throw refused(answer.status());
        }
    }

    /** Section 2.3; a receiver's own words go nowhere. */
    private String error(byte[] body) {
        try {
            return json.readTree(body).path("err").asString("");
        } catch (JacksonException e) {
            return "";
        }
    }
}
