package dev.entente.core.verify.staff;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.time.Duration;

/** Somebody of the help desk confirms who it is. */
public final class StaffConfirmationMethod extends Method {
    public static final String LABEL = "staff-confirmation";

    /** How many digits the number has that is read from the person's screen. */
    public static final int DIGITS = 6;

    public StaffConfirmationMethod() {
        super(new Facts(
                LABEL,
                80,
                Factor.KNOWLEDGE,
                null,
                Duration.ofMinutes(20),
                5,
                false,
                Source.STAFF,
                null,
                Holding.DECEIVED_STAFF));
    }

    @Override
    public String words() {
        return "confirmation by the help desk";
    }

    /** Questions that the help desk asks, for whoever wants to be asked. */
    @Override
    public boolean prepared() {
        return true;
    }
}
