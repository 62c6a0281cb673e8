package dev.entente.core.verify.smscode;

import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.time.Duration;

/** A code in a text message to the number that the directories have. */
public final class SmsCodeMethod extends Method {
    public static final String LABEL = "sms-code";

    public SmsCodeMethod() {
        super(new Facts(
                LABEL,
                12,
                Factor.POSSESSION,
                null,
                Duration.ofMinutes(10),
                5,
                true,
                Source.DIRECTORY,
                Channel.TEXT,
                Holding.PHONE_NUMBER));
    }

    @Override
    public String words() {
        return "text code";
    }
}
