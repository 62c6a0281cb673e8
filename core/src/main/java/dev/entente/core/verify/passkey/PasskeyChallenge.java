package dev.entente.core.verify.passkey;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;

/**
 * What a device signs: a nonce that counts once, and the key of the attempt it is for. An assertion made for one attempt is worth
 * nothing in another, and whoever knows nonce and key can work the challenge out again.
 */
public final class PasskeyChallenge {
    private static final byte[] PURPOSE = "entente passkey v1".getBytes(StandardCharsets.US_ASCII);
    private static final int NONCE = 32;

    private PasskeyChallenge() {}

    /**
     * The challenge's 32 bytes: SHA-256 of the purpose, the nonce and the thumbprint, each of a fixed length.
     *
     * @param nonce 32 bytes
     * @param key thumbprint of the attempt's key (RFC 7638), base64url, 43 characters
     */
    public static byte[] of(byte[] nonce, String key) {
        if (nonce.length != NONCE || key.length() != 43) {
            throw new IllegalArgumentException("a nonce has 32 bytes and a thumbprint 43 characters");
        }
        try {
            var hash = MessageDigest.getInstance("SHA-256");
            hash.update(PURPOSE);
            hash.update(nonce);
            return hash.digest(key.getBytes(StandardCharsets.US_ASCII));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("the JDK has no SHA-256", e);
        }
    }
}
