package dev.entente.core.verify.passkey;

import com.webauthn4j.WebAuthnManager;
import com.webauthn4j.anchor.TrustAnchorRepository;
import com.webauthn4j.converter.util.ObjectConverter;
import com.webauthn4j.data.attestation.authenticator.AAGUID;
import com.webauthn4j.verifier.attestation.statement.androidkey.AndroidKeyAttestationStatementVerifier;
import com.webauthn4j.verifier.attestation.statement.apple.AppleAnonymousAttestationStatementVerifier;
import com.webauthn4j.verifier.attestation.statement.packed.PackedAttestationStatementVerifier;
import com.webauthn4j.verifier.attestation.statement.tpm.TPMAttestationStatementVerifier;
import com.webauthn4j.verifier.attestation.statement.u2f.FIDOU2FAttestationStatementVerifier;
import com.webauthn4j.verifier.attestation.trustworthiness.certpath.DefaultCertPathTrustworthinessVerifier;
import com.webauthn4j.verifier.attestation.trustworthiness.self.DefaultSelfAttestationTrustworthinessVerifier;
import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.security.cert.CertificateException;
import java.security.cert.CertificateFactory;
import java.security.cert.TrustAnchor;
import java.security.cert.X509Certificate;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Which authenticators are taken.
 *
 * @param models AAGUIDs; empty for any
 * @param roots certificates in PEM of those who vouch for authenticators; empty to believe what they say of themselves
 */
public record AuthenticatorModels(Collection<String> models, Collection<String> roots) {
    public static final AuthenticatorModels ANY = new AuthenticatorModels(List.of(), List.of());

    /** Whether an authenticator has to say what it is. */
    public boolean asked() {
        return !models.isEmpty() || !roots.isEmpty();
    }

    boolean has(String model) {
        return models.isEmpty() || models.contains(model);
    }

    /**
     * Verifies attestation statements (WebAuthn level 2, section 8: packed, TPM, Android key, FIDO U2F and Apple) up to one of the
     * certificates. An authenticator that vouches for itself, or says nothing, is not taken.
     */
    WebAuthnManager vouchedFor(ObjectConverter objects) {
        var anchors = roots.stream()
                .flatMap(root -> certificate(root).stream())
                .map(root -> new TrustAnchor(root, null))
                .collect(Collectors.toSet());
        var repository = new TrustAnchorRepository() {
            @Override
            public Set<TrustAnchor> find(AAGUID model) {
                return anchors;
            }

            @Override
            public Set<TrustAnchor> find(byte[] keyIdentifier) {
                return anchors;
            }
        };
        return new WebAuthnManager(
                List.of(
                        new PackedAttestationStatementVerifier(),
                        new TPMAttestationStatementVerifier(),
                        new AndroidKeyAttestationStatementVerifier(),
                        new FIDOU2FAttestationStatementVerifier(),
                        new AppleAnonymousAttestationStatementVerifier()),
                new DefaultCertPathTrustworthinessVerifier(repository),
                new DefaultSelfAttestationTrustworthinessVerifier(false),
                objects);
    }

    /** One certificate in PEM (RFC 7468); empty if it is none. */
    static Optional<X509Certificate> certificate(String pem) {
        try {
            var in = new ByteArrayInputStream(pem.getBytes(StandardCharsets.US_ASCII));
            var certificate = CertificateFactory.getInstance("X.509").generateCertificate(in);
            return in.available() == 0 ? Optional.of((X509Certificate) certificate) : Optional.empty();
        } catch (CertificateException e) {
            return Optional.empty();
        }
    }
}
