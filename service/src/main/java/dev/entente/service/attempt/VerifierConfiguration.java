package dev.entente.service.attempt;

import dev.entente.core.verify.Verifier;
import dev.entente.service.enrolment.Enrolments;
import dev.entente.service.platform.KeyRing;
import java.security.SecureRandom;
import java.time.InstantSource;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** The methods that attempts can ask for. */
@Configuration
class VerifierConfiguration {
    @Bean
    Verifier emailCode(KeyRing keys, SecureRandom random) {
        return Verifier.emailCode(keys.derived("codes"), random);
    }

    @Bean
    Verifier appCode(Enrolments enrolments, InstantSource clock) {
        return Verifier.appCode(enrolments, clock);
    }

    @Bean
    Verifier recoveryCode(Enrolments enrolments) {
        return Verifier.recoveryCode(enrolments);
    }
}
