package dev.entente.core.verify.push;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.time.Duration;

/** A device that the person registered shows what is asked; the person types the number from the page into it. */
public final class PushMethod extends Method {
    public static final String LABEL = "push";

    public PushMethod() {
        super(new Facts(
                LABEL,
                30,
                Factor.POSSESSION,
                null,
                Duration.ofMinutes(3),
                5,
                true,
                Source.PERSON,
                null,
                Holding.UNLOCKED_PHONE));
    }

    @Override
    public String words() {
        return "push approval";
    }
}
