package dev.entente.core.verify;

import dev.entente.core.guess.GuessingSpace;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.util.Locale;
import java.util.Optional;
import java.util.UUID;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * A code for one challenge: eight digits, or sixteen letters and digits where eight digits could be guessed by now. Kept only as
 * HMAC-SHA-256 under a key from outside the database and bound to its challenge, so that a code opens no other.
 *
 * @param text eight digits, or sixteen characters in lower case
 */
public record OneTimeCode(String text) {
    private static final int DIGITS = 8;
    private static final int LONG = 16;

    /** Eight digits: what is sent while nobody guesses. */
    public static final GuessingSpace SHORT_SPACE = new GuessingSpace(1e8, 1);

    /** Sixteen letters and digits: 79 bits, which nobody guesses. */
    public static final GuessingSpace LONG_SPACE = new GuessingSpace(Math.pow(Typed.ALPHABET.length(), LONG), 1);

    /** Makes one of eight digits, each with the same chance. */
    public static OneTimeCode random(SecureRandom random) {
        return new OneTimeCode("%08d".formatted(random.nextInt(100_000_000)));
    }

    /** Makes one that nobody guesses, each with the same chance. */
    public static OneTimeCode beyondGuessing(SecureRandom random) {
        return new OneTimeCode(Typed.characters(random, LONG));
    }

    /** Reads what a person typed; case, spaces and dashes do not matter. Empty if it cannot be a code. */
    public static Optional<OneTimeCode> parse(String typed) {
        var text = Typed.plain(typed);
        return text.matches("[0-9]{" + DIGITS + "}") || Typed.holds(text, LONG)
                ? Optional.of(new OneTimeCode(text))
                : Optional.empty();
    }

    /** Whether what was typed can only be one of sixteen characters. */
    public static boolean isLong(String typed) {
        return Typed.holds(Typed.plain(typed), LONG);
    }

    /** Groups of four, as people are shown it. */
    public String spaced() {
        return text.replaceAll("(.{4})(?=.)", text.length() == DIGITS ? "$1 " : "$1-");
    }

    /** One by one, as a voice reads it. */
    public String spoken() {
        return String.join(", ", text.toUpperCase(Locale.ROOT).split(""));
    }

    /**
     * What is kept.
     *
     * @param key 32 bytes
     * @param challenge what it is bound to
     */
    public byte[] hash(byte[] key, UUID challenge) {
        try {
            var mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(key, "HmacSHA256"));
            mac.update(challenge.toString().getBytes(StandardCharsets.US_ASCII));
            return mac.doFinal(text.getBytes(StandardCharsets.US_ASCII));
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
