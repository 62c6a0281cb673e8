package dev.entente.core.verify.emailcode;

import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.time.Duration;

/** A code that is sent to the address that the directories have. */
public final class EmailCodeMethod extends Method {
    public static final String LABEL = "email-code";

    public EmailCodeMethod() {
        super(new Facts(
                LABEL,
                10,
                Factor.POSSESSION,
                null,
                Duration.ofMinutes(10),
                5,
                true,
                Source.DIRECTORY,
                Channel.MAIL,
                Holding.MAILBOX));
    }
}
