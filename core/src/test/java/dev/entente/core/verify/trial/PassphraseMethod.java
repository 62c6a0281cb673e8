package dev.entente.core.verify.trial;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;

/** One that lives only in the tests: what somebody knows. */
public final class PassphraseMethod extends Method {
    public PassphraseMethod() {
        super(new Facts(
                "trial-passphrase", 200, Factor.KNOWLEDGE, null, null, 3, true, Source.STAFF, null, Holding.PAPER));
    }
}
