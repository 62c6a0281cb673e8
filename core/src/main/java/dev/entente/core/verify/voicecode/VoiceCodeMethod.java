package dev.entente.core.verify.voicecode;

import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.time.Duration;

/** A code that a voice reads in a call to the number that the directories have. */
public final class VoiceCodeMethod extends Method {
    public static final String LABEL = "voice-code";

    public VoiceCodeMethod() {
        super(new Facts(
                LABEL,
                14,
                Factor.POSSESSION,
                null,
                Duration.ofMinutes(10),
                5,
                true,
                Source.DIRECTORY,
                Channel.VOICE,
                Holding.PHONE_NUMBER));
    }
}
