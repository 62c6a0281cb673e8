package dev.entente.core.seal;

import java.security.GeneralSecurityException;
import java.security.KeyFactory;
import java.security.KeyPairGenerator;
import java.security.PrivateKey;
import java.security.SecureRandom;
import java.security.spec.ECGenParameterSpec;
import java.security.spec.PKCS8EncodedKeySpec;
import java.util.Base64;

/**
 * A private key that signs with ES256 (RFC 7518 section 3.4), together with its public half. It cannot decrypt or agree on
 * keys: it offers signing only. {@link #toString()} shows the thumbprint and nothing of the private half.
 */
public final class SigningKey {
    private final EcKey publicKey;
    private final PrivateKey privateKey;

    private SigningKey(EcKey publicKey, PrivateKey privateKey) {
        this.publicKey = publicKey;
        this.privateKey = privateKey;
    }

    /** Makes a new key. */
    public static SigningKey generate(SecureRandom random) {
        try {
            var generator = KeyPairGenerator.getInstance("EC");
            generator.initialize(new ECGenParameterSpec("secp256r1"), random);
            var pair = generator.generateKeyPair();
            return new SigningKey(EcKey.of(pair.getPublic()), pair.getPrivate());
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no P-256", e);
        }
    }

    /**
     * Reads what {@link #encoded()} wrote.
     *
     * @throws InvalidDocument if it is anything else
     */
    public static SigningKey decode(String encoded) {
        var parts = encoded.strip().split("\\.", -1);
        if (parts.length != 3) {
            throw new InvalidDocument("key", "this is not a signing key");
        }
        try {
            var key = KeyFactory.getInstance("EC")
                    .generatePrivate(
                            new PKCS8EncodedKeySpec(Base64.getUrlDecoder().decode(parts[2])));
            return new SigningKey(new EcKey("EC", "P-256", parts[0], parts[1]), key);
        } catch (GeneralSecurityException | IllegalArgumentException e) {
            throw new InvalidDocument("key", "this is not a signing key", e);
        }
    }

    /** The whole key as text: both coordinates and the PKCS #8 private half, each base64url, joined by dots. A secret. */
    public String encoded() {
        return publicKey.x() + "." + publicKey.y() + "."
                + Base64.getUrlEncoder().withoutPadding().encodeToString(privateKey.getEncoded());
    }

    /** The public half. */
    public EcKey publicKey() {
        return publicKey;
    }

    byte[] sign(byte[] input) {
        try {
            return Es256.sign(privateKey, input);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("signing failed", e);
        }
    }

    @Override
    public String toString() {
        return "SigningKey[" + publicKey.thumbprint() + "]";
    }
}
