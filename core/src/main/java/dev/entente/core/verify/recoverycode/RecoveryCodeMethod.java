package dev.entente.core.verify.recoverycode;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;

/** One of several codes on paper. */
public final class RecoveryCodeMethod extends Method {
    public static final String LABEL = "recovery-code";

    public RecoveryCodeMethod() {
        super(new Facts(LABEL, 90, Factor.POSSESSION, null, null, 5, false, Source.PERSON, null, Holding.PAPER));
    }
}
