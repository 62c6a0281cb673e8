package dev.entente.service.verify.voicecode;

import dev.entente.core.verify.Method;
import dev.entente.core.verify.SentCodeVerifier;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.voicecode.VoiceCodeMethod;
import dev.entente.service.platform.KeyRing;
import java.security.SecureRandom;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

@Configuration
class VoiceCodes {
    @Bean
    Verifier voiceCode(KeyRing keys, SecureRandom random) {
        return new SentCodeVerifier(Method.of(VoiceCodeMethod.LABEL), keys.derived("codes"), random);
    }
}
