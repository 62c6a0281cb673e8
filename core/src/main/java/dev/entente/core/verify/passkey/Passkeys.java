package dev.entente.core.verify.passkey;

import com.webauthn4j.WebAuthnManager;
import com.webauthn4j.converter.AttestedCredentialDataConverter;
import com.webauthn4j.converter.util.ObjectConverter;
import com.webauthn4j.credential.CredentialRecordImpl;
import com.webauthn4j.data.AuthenticationParameters;
import com.webauthn4j.data.PublicKeyCredentialParameters;
import com.webauthn4j.data.PublicKeyCredentialType;
import com.webauthn4j.data.RegistrationParameters;
import com.webauthn4j.data.attestation.authenticator.AAGUID;
import com.webauthn4j.data.attestation.authenticator.AttestedCredentialData;
import com.webauthn4j.data.attestation.authenticator.EC2COSEKey;
import com.webauthn4j.data.attestation.statement.COSEAlgorithmIdentifier;
import com.webauthn4j.data.attestation.statement.NoneAttestationStatement;
import com.webauthn4j.data.client.Origin;
import com.webauthn4j.data.client.challenge.DefaultChallenge;
import com.webauthn4j.server.ServerProperty;
import com.webauthn4j.verifier.exception.MaliciousCounterValueException;
import java.security.GeneralSecurityException;
import java.security.KeyPairGenerator;
import java.security.interfaces.ECPublicKey;
import java.security.spec.ECGenParameterSpec;
import java.util.List;
import java.util.Optional;
import tools.jackson.databind.json.JsonMapper;

/**
 * Registrations and assertions (WebAuthn level 2, sections 7.1 and 7.2), verified by webauthn4j: origin, relying party, challenge,
 * presence and, unless {@link #touched} says otherwise, verification of the user, signature, and the signature counter.
 */
public final class Passkeys {
    /** Those that every authenticator of today knows, best first: ES256, EdDSA, RS256 (COSE, RFC 9053). */
    private static final List<COSEAlgorithmIdentifier> ALGORITHMS =
            List.of(COSEAlgorithmIdentifier.ES256, COSEAlgorithmIdentifier.EdDSA, COSEAlgorithmIdentifier.RS256);

    private final ObjectConverter objects;
    private final WebAuthnManager manager;
    private final AttestedCredentialDataConverter converter;
    private final Origin origin;
    private final String relyingParty;
    private final boolean unlocked;

    /**
     * @param origin of the pages (RFC 6454): scheme, host, and port if it is not the usual one
     * @param relyingParty a host, the origin's own or one it belongs to
     */
    public Passkeys(String origin, String relyingParty) {
        this(Origin.create(origin), relyingParty, true);
    }

    private Passkeys(Origin origin, String relyingParty, boolean unlocked) {
        this.objects = new ObjectConverter();
        this.manager = WebAuthnManager.createNonStrictWebAuthnManager(objects);
        this.converter = new AttestedCredentialDataConverter(objects);
        this.origin = origin;
        this.relyingParty = relyingParty;
        this.unlocked = unlocked;
    }

    /** The same for authenticators that show that somebody touches them, and not who. */
    public Passkeys touched() {
        return new Passkeys(origin, relyingParty, false);
    }

    /** The relying party's name (section 5.1.2): a host. */
    public String relyingParty() {
        return relyingParty;
    }

    /** Numbers of the algorithms that are taken, best first. */
    public static List<Long> algorithms() {
        return ALGORITHMS.stream().map(COSEAlgorithmIdentifier::getValue).toList();
    }

    /**
     * A passkey as it is kept.
     *
     * @param id as its authenticator calls it
     * @param data attested credential data (section 6.5.2): authenticator, id, public key
     * @param counter the last signature counter that was seen
     * @param synced whether it may be on more than one device
     */
    public record Passkey(byte[] id, byte[] data, long counter, boolean synced) {}

    /** One that nobody can sign with, for judging answers of nobody. */
    public Passkey nobodys() {
        try {
            var generator = KeyPairGenerator.getInstance("EC");
            generator.initialize(new ECGenParameterSpec("secp256r1"));
            var key = (ECPublicKey) generator.generateKeyPair().getPublic();
            var id = new byte[32];
            return new Passkey(
                    id,
                    converter.convert(new AttestedCredentialData(
                            AAGUID.ZERO, id, EC2COSEKey.create(key, COSEAlgorithmIdentifier.ES256))),
                    0,
                    false);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no P-256", e);
        }
    }

    /** Why something was refused. */
    public static final class Refused extends Exception {
        private final boolean cloned;
        private final boolean otherModel;

        Refused(String message, boolean cloned) {
            this(message, cloned, false);
        }

        private Refused(String message, boolean cloned, boolean otherModel) {
            super(message, null, false, false);
            this.cloned = cloned;
            this.otherModel = otherModel;
        }

        /** Whether it is by an authenticator that isn't taken. */
        public boolean otherModel() {
            return otherModel;
        }

        /** Whether the signature counter went back: somebody may hold a copy. */
        public boolean cloned() {
            return cloned;
        }
    }

    /**
     * Verifies a registration.
     *
     * @param response RegistrationResponseJSON (WebAuthn level 3, section 5.1), as browsers make it
     * @throws Refused if it is not right; {@link Refused#otherModel} if it is by an authenticator that isn't taken
     */
    public Passkey register(String response, byte[] challenge, AuthenticatorModels taken) throws Refused {
        var made = register(manager, response, challenge);
        if (!taken.has(converter.convert(made.data()).getAaguid().toString())) {
            throw new Refused("the authenticator isn't one of those that are taken", false, true);
        }
        if (!taken.roots().isEmpty()) {
            try {
                register(taken.vouchedFor(objects), response, challenge);
            } catch (Refused e) {
                throw new Refused(
                        "nobody who is believed vouches for the authenticator: " + e.getMessage(), false, true);
            }
        }
        return made;
    }

    /** Both name the credential, and have to be one (WebAuthn level 3, section 5.1: rawId is id, decoded). */
    private static void oneId(String response) {
        var said = JsonMapper.shared().readTree(response);
        if (!said.path("id").isString() || !said.path("id").equals(said.path("rawId"))) {
            throw new IllegalArgumentException("id and rawId differ");
        }
    }

    private Passkey register(WebAuthnManager by, String response, byte[] challenge) throws Refused {
        try {
            oneId(response);
            var parameters = ALGORITHMS.stream()
                    .map(a -> new PublicKeyCredentialParameters(PublicKeyCredentialType.PUBLIC_KEY, a))
                    .toList();
            var made = by.verifyRegistrationResponseJSON(
                    response, new RegistrationParameters(server(challenge), parameters, unlocked, true));
            var authenticator = made.getAttestationObject().getAuthenticatorData();
            var data = authenticator.getAttestedCredentialData();
            return new Passkey(
                    data.getCredentialId(),
                    converter.convert(data),
                    authenticator.getSignCount(),
                    authenticator.isFlagBE());
        } catch (RuntimeException e) {
            // What a stranger sends can break a parser in more ways than it names; none of them is right.
            throw new Refused(e.getClass().getSimpleName(), false);
        }
    }

    /** The id of the passkey that an assertion says it is by, and the person's handle in it; empty if it is no assertion. */
    public Optional<Claimed> claimed(String response) {
        try {
            oneId(response);
            var said = manager.parseAuthenticationResponseJSON(response);
            return Optional.of(new Claimed(said.getCredentialId(), said.getUserHandle()));
        } catch (RuntimeException e) {
            // As with a registration.
            return Optional.empty();
        }
    }

    /**
     * @param id of the passkey
     * @param handle whom it was made for, as its authenticator remembers; null if it does not
     */
    public record Claimed(byte[] id, byte[] handle) {}

    /**
     * Verifies an assertion.
     *
     * @param response AuthenticationResponseJSON, as browsers make it
     * @return the counter to remember
     */
    public long verify(String response, Passkey passkey, byte[] challenge) throws Refused {
        try {
            oneId(response);
            var record = new CredentialRecordImpl(
                    new NoneAttestationStatement(),
                    true,
                    passkey.synced(),
                    null,
                    passkey.counter(),
                    converter.convert(passkey.data()),
                    null,
                    null,
                    null,
                    null);
            var said = manager.verifyAuthenticationResponseJSON(
                    response,
                    new AuthenticationParameters(server(challenge), record, List.of(passkey.id()), unlocked, true));
            return said.getAuthenticatorData().getSignCount();
        } catch (MaliciousCounterValueException e) {
            throw new Refused("the signature counter went back", true);
        } catch (RuntimeException e) {
            // What a stranger sends can break a parser in more ways than it names; none of them is right.
            throw new Refused(e.getClass().getSimpleName(), false);
        }
    }

    private ServerProperty server(byte[] challenge) {
        return new ServerProperty(origin, relyingParty, new DefaultChallenge(challenge));
    }
}
