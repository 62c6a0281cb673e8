package dev.entente.core.verify.securitykey;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.time.Duration;

/**
 * A security key that is touched and not unlocked, and does not remember whom it is for (WebAuthn level 2: a server-side
 * credential). It can be asked for only by naming it, so never before something else was proved; then it shows that it is there.
 */
public final class SecurityKeyMethod extends Method {
    public static final String LABEL = "security-key";

    public SecurityKeyMethod() {
        super(new Facts(
                LABEL,
                22,
                Factor.POSSESSION,
                null,
                Duration.ofMinutes(5),
                5,
                false,
                Source.PERSON,
                null,
                Holding.TOUCHED_KEY));
    }

    /** Which keys it may be depends on the person. */
    @Override
    public boolean mayComeFirst() {
        return false;
    }

    @Override
    public boolean mayStandAlone() {
        return false;
    }
}
