package dev.entente.service.verify.staff;

import dev.entente.core.verify.AnsweredElsewhere;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.staff.StaffConfirmationMethod;
import dev.entente.service.verify.Awaited;
import java.security.SecureRandom;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

@Configuration
class StaffConfirmations {
    @Bean
    Verifier staffConfirmation(Awaited awaited, SecureRandom random) {
        return new AnsweredElsewhere(
                Method.of(StaffConfirmationMethod.LABEL), StaffConfirmationMethod.DIGITS, false, awaited, random);
    }
}
