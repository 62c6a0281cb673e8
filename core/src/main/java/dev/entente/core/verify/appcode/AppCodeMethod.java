package dev.entente.core.verify.appcode;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;

/** A code that an authenticator app shows. */
public final class AppCodeMethod extends Method {
    public static final String LABEL = "app-code";

    public AppCodeMethod() {
        super(new Facts(
                LABEL, 40, Factor.POSSESSION, null, null, 5, true, Source.PERSON, null, Holding.UNLOCKED_PHONE));
    }
}
