package dev.entente.core.verify.knowndevice;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;

/** A browser on which the person got a new password before. Whoever sits at it has it, so it never suffices alone. */
public final class KnownDeviceMethod extends Method {
    public static final String LABEL = "known-device";

    public KnownDeviceMethod() {
        super(new Facts(
                LABEL, 70, Factor.POSSESSION, null, null, 3, false, Source.USE, null, Holding.SIGNED_IN_COMPUTER));
    }

    /** Whether a browser is known to a person depends on the person. */
    @Override
    public boolean mayComeFirst() {
        return false;
    }

    @Override
    public boolean mayStandAlone() {
        return false;
    }
}
