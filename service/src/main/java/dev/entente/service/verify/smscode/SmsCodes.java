package dev.entente.service.verify.smscode;

import dev.entente.core.verify.Method;
import dev.entente.core.verify.SentCodeVerifier;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.smscode.SmsCodeMethod;
import dev.entente.service.platform.KeyRing;
import java.security.SecureRandom;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

@Configuration
class SmsCodes {
    @Bean
    Verifier smsCode(KeyRing keys, SecureRandom random) {
        return new SentCodeVerifier(Method.of(SmsCodeMethod.LABEL), keys.derived("codes"), random);
    }
}
