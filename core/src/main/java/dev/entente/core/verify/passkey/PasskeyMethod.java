package dev.entente.core.verify.passkey;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.time.Duration;

/**
 * A passkey that the person's device or security key holds. It is unlocked where it is, by a PIN, a finger or a face, which is
 * asked for every time and counts as a second factor (NIST SP 800-63B section 3.1.6).
 */
public final class PasskeyMethod extends Method {
    public static final String LABEL = "passkey";

    public PasskeyMethod() {
        super(new Facts(
                LABEL,
                20,
                Factor.POSSESSION,
                Factor.KNOWLEDGE,
                Duration.ofMinutes(5),
                5,
                true,
                Source.PERSON,
                null,
                Holding.SECURITY_KEY));
    }
}
