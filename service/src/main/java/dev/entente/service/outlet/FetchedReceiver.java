package dev.entente.service.outlet;

import dev.entente.core.audit.OutletKind;
import dev.entente.service.platform.Problem;
import dev.entente.wire.OutletApi;
import dev.entente.wire.RecordApi.Event;
import java.util.List;
import org.springframework.stereotype.Component;

/** Whoever fetches: nothing is handed over, see {@link FetchedStreams}. */
@Component
class FetchedReceiver implements Receiver {
    @Override
    public OutletKind kind() {
        return OutletKind.SECURITY_EVENTS_FETCHED;
    }

    @Override
    public boolean sends() {
        return false;
    }

    @Override
    public void check(OutletApi.NewOutlet wanted) {
        if (wanted.to() != null) {
            throw Problem.of("outlet-address/fetched");
        }
    }

    @Override
    public void send(Outlet outlet, List<Event> events) {
        throw new IllegalStateException("events of " + outlet.name() + " are fetched");
    }

    @Override
    public void test(Outlet outlet) throws NotTaken {
        throw NotTaken.now("its receiver fetches events by itself; there is nothing to send");
    }
}
