package dev.entente.core.verify;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.SecureRandom;
import java.util.Locale;
import java.util.Optional;
import java.util.UUID;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * One of several codes on paper, each good for one proof (a look-up secret, NIST SP 800-63B section 3.1.2). Ten letters and
 * digits that nobody confuses: 49 bits. Kept only as HMAC-SHA-256 under a key from outside the database.
 *
 * @param text ten characters in lower case
 */
public record RecoveryCode(String text) {
    /** How many are made at once. */
    public static final int AT_ONCE = 10;

    private static final String ALPHABET = "abcdefghjkmnpqrstuvwxyz23456789";
    private static final int LENGTH = 10;

    /** Makes one, each with the same chance. */
    public static RecoveryCode random(SecureRandom random) {
        var text = new StringBuilder();
        for (var i = 0; i < LENGTH; i++) {
            text.append(ALPHABET.charAt(random.nextInt(ALPHABET.length())));
        }
        return new RecoveryCode(text.toString());
    }

    /** Reads what a person typed; case, spaces and dashes do not matter. Empty if it cannot be a code. */
    public static Optional<RecoveryCode> parse(String typed) {
        var text = typed == null || typed.length() > 64
                ? ""
                : typed.replaceAll("[\\s\\-]", "").toLowerCase(Locale.ROOT);
        return text.length() == LENGTH && text.chars().allMatch(c -> ALPHABET.indexOf(c) >= 0)
                ? Optional.of(new RecoveryCode(text))
                : Optional.empty();
    }

    /** Two groups of five, as people are shown it. */
    public String spaced() {
        return text.substring(0, LENGTH / 2) + "-" + text.substring(LENGTH / 2);
    }

    /**
     * What is kept.
     *
     * @param key 32 bytes
     * @param enrolment whose code it is: the same code of another opens nothing
     */
    public byte[] hash(byte[] key, UUID enrolment) {
        try {
            var mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(key, "HmacSHA256"));
            mac.update(enrolment.toString().getBytes(StandardCharsets.US_ASCII));
            return mac.doFinal(text.getBytes(StandardCharsets.US_ASCII));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no HMAC-SHA-256", e);
        }
    }

    /** Shows nothing of the code. */
    @Override
    public String toString() {
        return "RecoveryCode[********]";
    }
}
