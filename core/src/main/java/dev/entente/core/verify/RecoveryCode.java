package dev.entente.core.verify;

import dev.entente.core.guess.GuessingSpace;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.SecureRandom;
import java.util.Locale;
import java.util.Optional;
import java.util.UUID;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * One of several codes on paper, each good for one proof (a look-up secret, NIST SP 800-63B-4 section 3.1.2). Fourteen letters
 * and digits that nobody confuses: with ten of them on paper 66 bits, which nobody guesses. Those made before had ten, and
 * still count. Kept only as HMAC-SHA-256 under a key from outside the database.
 *
 * @param text fourteen characters in lower case, or ten
 */
public record RecoveryCode(String text) {
    /** How many are made at once. */
    public static final int AT_ONCE = 10;

    /** Letters and digits that nobody confuses. */
    static final String ALPHABET = "abcdefghjkmnpqrstuvwxyz23456789";

    private static final int LENGTH = 14;
    private static final int LENGTH_BEFORE = 10;

    /** Makes one, each with the same chance. */
    public static RecoveryCode random(SecureRandom random) {
        return new RecoveryCode(characters(random, LENGTH));
    }

    /** How hard what was typed is to guess. */
    public static GuessingSpace space(String typed) {
        var length = plain(typed).length() == LENGTH_BEFORE ? LENGTH_BEFORE : LENGTH;
        return new GuessingSpace(Math.pow(ALPHABET.length(), length), AT_ONCE);
    }

    /** So many characters of the alphabet. */
    static String characters(SecureRandom random, int length) {
        var text = new StringBuilder();
        for (var i = 0; i < length; i++) {
            text.append(ALPHABET.charAt(random.nextInt(ALPHABET.length())));
        }
        return text.toString();
    }

    /** What was typed without spaces and dashes, in lower case; nothing if it is too long to be a code. */
    static String plain(String typed) {
        return typed == null || typed.length() > 64
                ? ""
                : typed.replaceAll("[\\s\\-]", "").toLowerCase(Locale.ROOT);
    }

    /** Whether a text is made of so many characters of the alphabet. */
    static boolean holds(String text, int length) {
        return text.length() == length && text.chars().allMatch(c -> ALPHABET.indexOf(c) >= 0);
    }

    /** Reads what a person typed; case, spaces and dashes do not matter. Empty if it cannot be a code. */
    public static Optional<RecoveryCode> parse(String typed) {
        var text = plain(typed);
        return holds(text, LENGTH) || holds(text, LENGTH_BEFORE)
                ? Optional.of(new RecoveryCode(text))
                : Optional.empty();
    }

    /** Groups of five, as people are shown it. */
    public String spaced() {
        return text.replaceAll("(.{5})(?=.)", "$1-");
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
