package dev.entente.service.outlet;

import dev.entente.wire.OutletApi;
import org.springframework.stereotype.Component;

/** Tries an outlet out, outside any transaction: a receiver may take its time. */
@Component
class OutletTests {
    private final Outlets outlets;

    OutletTests(Outlets outlets) {
        this.outlets = outlets;
    }

    OutletApi.Tried test(String name, String administrator) {
        var outlet = outlets.find(name);
        try {
            outlets.receiver(outlet.kind()).test(outlet);
            return outlets.tried(name, null, administrator);
        } catch (NotTaken e) {
            return outlets.tried(name, e, administrator);
        }
    }
}
