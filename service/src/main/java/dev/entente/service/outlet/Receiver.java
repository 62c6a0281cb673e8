package dev.entente.service.outlet;

import dev.entente.core.audit.OutletKind;
import dev.entente.service.platform.Problem;
import dev.entente.wire.OutletApi;
import dev.entente.wire.RecordApi.Event;
import java.util.List;

/** How events reach one kind of outlet. One component for each {@link OutletKind}; nothing else knows how many there are. */
interface Receiver {
    /** Whom this one speaks with. */
    OutletKind kind();

    /**
     * Refuses what it could not reach.
     *
     * @throws Problem with a sentence that says what to name instead
     */
    void check(OutletApi.NewOutlet wanted);

    /**
     * Hands events over, in their order.
     *
     * @throws NotTaken if not all of them were taken
     */
    void send(Outlet outlet, List<Event> events) throws NotTaken;

    /** Sends something that is no event, so that somebody can see whether it arrives. */
    void test(Outlet outlet) throws NotTaken;

    /** Whether events are handed over; of others they are fetched. */
    default boolean sends() {
        return true;
    }
}
