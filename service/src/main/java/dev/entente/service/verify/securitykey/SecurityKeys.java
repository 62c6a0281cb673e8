package dev.entente.service.verify.securitykey;

import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.securitykey.SecurityKeyMethod;
import dev.entente.core.verify.securitykey.SecurityKeyVerifier;
import dev.entente.service.verify.passkey.PasskeyStore;
import dev.entente.service.verify.passkey.PasskeyStores;
import org.springframework.context.annotation.Bean;
import org.springframework.stereotype.Component;

/** Where security keys are kept, and who judges them. */
@Component
class SecurityKeys {
    @Bean
    static PasskeyStore securityKeyStore(PasskeyStores stores) {
        return stores.of(new PasskeyStore.Kind(SecurityKeyMethod.LABEL, "Security key", false));
    }

    @Bean
    static Verifier securityKey(PasskeyStore securityKeyStore) {
        return new SecurityKeyVerifier(securityKeyStore.judge(), securityKeyStore::of);
    }
}
