package dev.entente.core.verify.passkey;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.time.Duration;
import java.util.List;
import java.util.function.Predicate;
import java.util.regex.Pattern;

/**
 * A passkey that the person's device or security key holds. It is unlocked where it is, by a PIN, a finger or a face, which is
 * asked for every time and counts as a second factor (NIST SP 800-63B section 3.1.6).
 */
public final class PasskeyMethod extends Method {
    public static final String LABEL = "passkey";

    /** Name of the setting that lists which authenticators are taken. */
    public static final String AUTHENTICATORS = "authenticators";

    /** Name of the setting that lists who vouches for authenticators. */
    public static final String ROOTS = "roots";

    private static final Predicate<String> MODEL =
            Pattern.compile("[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}").asMatchPredicate();

    public PasskeyMethod() {
        super(new Facts(
                LABEL,
                20,
                Factor.POSSESSION,
                Factor.KNOWLEDGE,
                Duration.ofMinutes(5),
                5,
                true,
                Source.PERSON,
                null,
                Holding.SECURITY_KEY));
    }

    /**
     * Only authenticators of these models are taken (AAGUID, WebAuthn level 2 section 6.1), and only those that one of these
     * certificates vouches for (section 6.5); without certificates, what an authenticator says of its model is believed.
     */
    @Override
    public List<OwnSetting> ownSettings() {
        return List.of(
                new OwnSetting(
                        AUTHENTICATORS,
                        MODEL,
                        "an AAGUID is expected, such as 2fc0579f-8113-47ea-b116-bb5a8db9202a",
                        100),
                new OwnSetting(
                        ROOTS,
                        text -> AuthenticatorModels.certificate(text).isPresent(),
                        "a certificate in PEM is expected, which begins with -----BEGIN CERTIFICATE-----",
                        20));
    }
}
