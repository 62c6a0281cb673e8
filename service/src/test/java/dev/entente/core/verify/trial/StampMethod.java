package dev.entente.core.verify.trial;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.time.Duration;

/** A method that lives only in the tests: a card with a stamp on it, whose number the person types. */
public final class StampMethod extends Method {
    public static final String LABEL = "trial-stamp";

    public StampMethod() {
        super(new Facts(
                LABEL,
                300,
                Factor.POSSESSION,
                null,
                Duration.ofMinutes(2),
                3,
                true,
                Source.PERSON,
                null,
                Holding.PAPER));
    }
}
