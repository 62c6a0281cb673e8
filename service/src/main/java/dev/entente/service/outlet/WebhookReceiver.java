package dev.entente.service.outlet;

import dev.entente.core.audit.OutletKind;
import dev.entente.core.seal.HttpSignature;
import dev.entente.service.platform.KeyRing;
import dev.entente.wire.RecordApi.Event;
import java.time.InstantSource;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Events as JSON, signed with the outlets' key (RFC 9421); what was told again can be recognised by its id. */
@Component
class WebhookReceiver extends WebReceiver {
    private final OutletKeys keys;
    private final JsonMapper json;
    private final InstantSource clock;

    WebhookReceiver(AllowedReceivers allowed, KeyRing secrets, OutletKeys keys, JsonMapper json, InstantSource clock) {
        super(allowed, secrets);
        this.keys = keys;
        this.json = json;
        this.clock = clock;
    }

    @Override
    public OutletKind kind() {
        return OutletKind.WEBHOOK;
    }

    @Override
    public void send(Outlet outlet, List<Event> events) throws NotTaken {
        try {
            tell(outlet, Map.of("outlet", outlet.name(), "events", events));
        } catch (NotTaken e) {
            if (!e.isForGood() || events.size() == 1) {
                throw e;
            }
            // One of them is at fault, and the others are good: halved until it is found.
            var half = events.size() / 2;
            send(outlet, events.subList(0, half));
            try {
                send(outlet, events.subList(half, events.size()));
            } catch (NotTaken rest) {
                throw rest.after(half + rest.taken());
            }
        }
    }

    @Override
    public void test(Outlet outlet) throws NotTaken {
        tell(outlet, Map.of("outlet", outlet.name(), "test", true, "events", List.of()));
    }

    private void tell(Outlet outlet, Map<String, Object> what) throws NotTaken {
        var body = json.writeValueAsBytes(new LinkedHashMap<>(what));
        var fields = HttpSignature.fields("POST", outlet.goesTo(), body, keys.current(), clock.instant());
        var answer = post(outlet, "application/json", body, fields);
        if (answer.status() / 100 != 2) {
            throw refused(answer.status());
        }
    }
}
