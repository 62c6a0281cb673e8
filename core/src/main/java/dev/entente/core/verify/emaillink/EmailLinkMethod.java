package dev.entente.core.verify.emaillink;

import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.time.Duration;

/** A link that is mailed to the address that the directories have. */
public final class EmailLinkMethod extends Method {
    public static final String LABEL = "email-link";

    public EmailLinkMethod() {
        super(new Facts(
                LABEL,
                15,
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
