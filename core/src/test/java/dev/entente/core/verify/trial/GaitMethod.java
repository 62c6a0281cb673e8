package dev.entente.core.verify.trial;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;

/** One that lives only in the tests: what somebody is. */
public final class GaitMethod extends Method {
    public GaitMethod() {
        super(new Facts("trial-gait", 210, Factor.INHERENCE, null, null, 3, true, Source.STAFF, null, Holding.PAPER));
    }
}
