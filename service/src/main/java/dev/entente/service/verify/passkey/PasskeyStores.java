package dev.entente.service.verify.passkey;

import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.passkey.PasskeyMethod;
import dev.entente.core.verify.passkey.Passkeys;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.policy.Configurations;
import dev.entente.service.verify.EnrolmentTable;
import java.security.SecureRandom;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.annotation.Bean;
import org.springframework.stereotype.Component;

/** Makes the store of each method that has people's devices sign. */
@Component
public class PasskeyStores {
    private final Session database;
    private final EnrolmentTable enrolments;
    private final KeyRing keys;
    private final ApplicationEventPublisher publisher;
    private final ServiceSettings settings;
    private final Configurations configurations;
    private final SecureRandom random;

    PasskeyStores(
            Session database,
            EnrolmentTable enrolments,
            KeyRing keys,
            ApplicationEventPublisher publisher,
            ServiceSettings settings,
            Configurations configurations,
            SecureRandom random) {
        this.database = database;
        this.enrolments = enrolments;
        this.keys = keys;
        this.publisher = publisher;
        this.settings = settings;
        this.configurations = configurations;
        this.random = random;
    }

    /** One for this method. */
    public PasskeyStore of(PasskeyStore.Kind kind) {
        var url = settings.publicUrl();
        var passkeys = new Passkeys(url.getScheme() + "://" + url.getAuthority(), url.getHost());
        return new PasskeyStore(
                kind, database, enrolments, passkeys, keys, publisher, settings, configurations, random);
    }

    @Bean
    static PasskeyStore passkeyStore(PasskeyStores stores) {
        return stores.of(new PasskeyStore.Kind(PasskeyMethod.LABEL, "Passkey", true));
    }

    @Bean
    static Verifier passkey(PasskeyStore passkeyStore) {
        return passkeyStore.judge();
    }
}
