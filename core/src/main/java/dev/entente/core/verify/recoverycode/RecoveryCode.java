package dev.entente.core.verify.recoverycode;

import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.verify.Typed;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.SecureRandom;
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

    private static final int LENGTH = 14;
    private static final int LENGTH_BEFORE = 10;

    /** Makes one, each with the same chance. */
    public static RecoveryCode random(SecureRandom random) {
        return new RecoveryCode(Typed.characters(random, LENGTH));
    }

    /** How hard what was typed is to guess. */
    public static GuessingSpace space(String typed) {
        var length = Typed.plain(typed).length() == LENGTH_BEFORE ? LENGTH_BEFORE : LENGTH;
        return new GuessingSpace(Math.pow(Typed.ALPHABET.length(), length), AT_ONCE);
    }

    /** Reads what a person typed; case, spaces and dashes do not matter. Empty if it cannot be a code. */
    public static Optional<RecoveryCode> parse(String typed) {
        var text = Typed.plain(typed);
        return Typed.holds(text, LENGTH) || Typed.holds(text, LENGTH_BEFORE)
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
