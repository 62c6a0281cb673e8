package dev.entente.service.verify.emailcode;

import dev.entente.core.verify.Method;
import dev.entente.core.verify.SentCodeVerifier;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.emailcode.EmailCodeMethod;
import dev.entente.service.platform.KeyRing;
import java.security.SecureRandom;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

@Configuration
class EmailCodes {
    @Bean
    Verifier emailCode(KeyRing keys, SecureRandom random) {
        return new SentCodeVerifier(Method.of(EmailCodeMethod.LABEL), keys.derived("codes"), random);
    }
}
