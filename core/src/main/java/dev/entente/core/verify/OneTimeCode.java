package dev.entente.core.verify;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.util.Optional;
import java.util.UUID;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * An eight-digit code for one challenge. Kept only as HMAC-SHA-256 under a key from outside the database and bound to its
 * challenge, so that a code opens no other. With five tries a guess succeeds once in twenty million challenges.
 *
 * @param digits eight digits
 */
public record OneTimeCode(String digits) {
    /** Makes one, each with the same chance. */
    public static OneTimeCode random(SecureRandom random) {
        return new OneTimeCode("%08d".formatted(random.nextInt(100_000_000)));
    }

    /** Reads what a person typed; spaces and dashes do not matter. Empty if it cannot be a code. */
    public static Optional<OneTimeCode> parse(String typed) {
        var digits = typed == null || typed.length() > 64 ? "" : typed.replaceAll("[\\s\\-]", "");
        return digits.matches("[0-9]{8}") ? Optional.of(new OneTimeCode(digits)) : Optional.empty();
    }

    /** Two groups of four, as people are shown it. */
    public String spaced() {
        return digits.substring(0, 4) + " " + digits.substring(4);
    }

    /**
     * What is kept.
     *
     * @param key 32 bytes
     */
    public byte[] hash(byte[] key, UUID challenge) {
        try {
            var mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(key, "HmacSHA256"));
            mac.update(challenge.toString().getBytes(StandardCharsets.US_ASCII));
            return mac.doFinal(digits.getBytes(StandardCharsets.US_ASCII));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no HMAC-SHA-256", e);
        }
    }

    /** Compares in constant time. */
    public boolean matches(byte[] kept, byte[] key, UUID challenge) {
        return MessageDigest.isEqual(kept, hash(key, challenge));
    }

    /** Shows nothing of the code. */
    @Override
    public String toString() {
        return "OneTimeCode[********]";
    }
}
