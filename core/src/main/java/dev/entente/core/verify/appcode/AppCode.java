package dev.entente.core.verify.appcode;

import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.verify.Typed;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.time.Instant;
import java.util.List;
import java.util.OptionalLong;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import org.apache.commons.codec.binary.Base32;

/**
 * The secret that an authenticator app shares, and the codes that follow from it and the time (RFC 6238): SHA-1, steps of 30
 * seconds, six digits, which is what every app can do.
 */
public final class AppCode {
    private static final int SECRET_BYTES = 20;
    /** No secret of a token is longer. */
    private static final int LONGEST_SECRET = 128;
    /** Clocks may differ by one step, before or after (RFC 6238 section 5.2). */
    private static final int DRIFT = 1;

    /** Apps that one person may have. */
    public static final int MOST_OF_ONE_PERSON = 5;

    /** One code of any of a person's apps. */
    public static final GuessingSpace ONE_SPACE = new GuessingSpace(1e6, (2 * DRIFT + 1) * MOST_OF_ONE_PERSON);

    /** Two codes that follow each other, of any of a person's apps. */
    public static final GuessingSpace TWO_SPACE = new GuessingSpace(1e12, (2 * DRIFT + 1) * MOST_OF_ONE_PERSON);

    /**
     * How codes are made of a secret: an app's as everybody agrees, a token's as its maker says.
     *
     * @param hash {@code SHA1}, {@code SHA256} or {@code SHA512} (RFC 6238 section 1.2)
     * @param digits 6 or 8
     * @param seconds of a time step, 30 or 60
     */
    public record Kind(String hash, int digits, int seconds) {
        /** As apps have it. */
        public static final Kind USUAL = new Kind("SHA1", 6, 30);

        /** @throws IllegalArgumentException if it is none of these; its message is a sentence */
        public Kind {
            if (!List.of("SHA1", "SHA256", "SHA512").contains(hash)) {
                throw new IllegalArgumentException("the algorithm has to be SHA1, SHA256 or SHA512, not " + hash);
            }
            if (digits != 6 && digits != 8) {
                throw new IllegalArgumentException("codes have to have 6 or 8 digits, not " + digits);
            }
            if (seconds != 30 && seconds != 60) {
                throw new IllegalArgumentException("a code has to last 30 or 60 seconds, not " + seconds);
            }
        }
    }

    private final byte[] secret;
    private final Kind kind;

    private AppCode(byte[] secret, Kind kind) {
        this.secret = secret.clone();
        this.kind = kind;
    }

    /**
     * A token that there is already.
     *
     * @param secret 10 to 128 bytes
     * @throws IllegalArgumentException if it is shorter or longer; its message is a sentence
     */
    public static AppCode of(byte[] secret, Kind kind) {
        if (secret.length < 10 || secret.length > LONGEST_SECRET) {
            throw new IllegalArgumentException(
                    "a secret has to have 10 to " + LONGEST_SECRET + " bytes, not " + secret.length);
        }
        return new AppCode(secret, kind);
    }

    /** Makes one of 160 bits, as RFC 4226 section 4 recommends. */
    public static AppCode random(SecureRandom random) {
        var secret = new byte[SECRET_BYTES];
        random.nextBytes(secret);
        return new AppCode(secret, Kind.USUAL);
    }

    /** Reads what {@link #kept} or {@link #base32} wrote. */
    public static AppCode parse(String kept) {
        var parts = kept.split(" ");
        return new AppCode(
                new Base32().decode(parts[0]),
                parts.length == 1
                        ? Kind.USUAL
                        : new Kind(parts[1], Integer.parseInt(parts[2]), Integer.parseInt(parts[3])));
    }

    /** All of it as text, to be kept encrypted. */
    public String kept() {
        return kind.equals(Kind.USUAL)
                ? base32()
                : base32() + " " + kind.hash() + " " + kind.digits() + " " + kind.seconds();
    }

    /** The secret as people type it into an app (RFC 4648 section 6), without padding. */
    public String base32() {
        return new Base32().encodeToString(secret).replace("=", "");
    }

    /** Whether what was typed can be two codes that follow each other. */
    public static boolean isTwo(String typed) {
        return Typed.plain(typed).matches("[0-9]{12}|[0-9]{16}");
    }

    /**
     * The step in which what was typed is the code; empty if it is in none that counts now. Whoever takes it has to remember
     * the step, and take none that is not later.
     *
     * @param drift how many steps its clock is ahead, as it was when it was used last
     */
    public OptionalLong step(String typed, Instant now, long drift) {
        return matching(typed, 1, now, drift);
    }

    /**
     * The step of the second of two codes that follow each other, the first typed first: what is asked for where six digits
     * alone could be guessed (as RFC 4226 section 7.4 has it for finding the counter again). The second may be the next one to
     * come.
     */
    public OptionalLong stepOfSecond(String typed, Instant now, long drift) {
        return matching(typed, 2, now, drift);
    }

    /** How many steps ahead of ours a clock is that shows this step now. */
    public long drift(long step, Instant now) {
        return step - now.getEpochSecond() / kind.seconds();
    }

    private OptionalLong matching(String typed, int codes, Instant now, long drift) {
        var digits = Typed.plain(typed);
        if (!digits.matches("[0-9]{" + kind.digits() * codes + "}")) {
            return OptionalLong.empty();
        }
        var current = now.getEpochSecond() / kind.seconds() + drift;
        var found = OptionalLong.empty();
        // Every step is compared, found or not, so that the time tells nothing.
        for (var last = current - DRIFT; last <= current + DRIFT; last++) {
            var right = codes == 1 ? at(last) : at(last - 1) + at(last);
            if (MessageDigest.isEqual(
                    digits.getBytes(StandardCharsets.US_ASCII), right.getBytes(StandardCharsets.US_ASCII))) {
                found = OptionalLong.of(last);
            }
        }
        return found;
    }

    /** The code of a step (RFC 4226 section 5.3). */
    public String at(long step) {
        try {
            var mac = Mac.getInstance("Hmac" + kind.hash());
            mac.init(new SecretKeySpec(secret, "Hmac" + kind.hash()));
            var hash = mac.doFinal(ByteBuffer.allocate(8).putLong(step).array());
            var offset = hash[hash.length - 1] & 0xf;
            var number = ByteBuffer.wrap(hash, offset, 4).getInt() & 0x7fffffff;
            return ("%0" + kind.digits() + "d").formatted(number % (kind.digits() == 6 ? 1_000_000 : 100_000_000));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no HMAC-SHA-1", e);
        }
    }

    /** What the square image holds, in the form that apps have agreed on. */
    public String uri(String issuer, String login) {
        return "otpauth://totp/" + escaped(issuer) + ":" + escaped(login) + "?secret=" + base32() + "&issuer="
                + escaped(issuer);
    }

    private static String escaped(String text) {
        // Percent-encoding as RFC 3986 section 2.1 has it, for everything but unreserved characters.
        var out = new StringBuilder();
        for (var octet : text.getBytes(StandardCharsets.UTF_8)) {
            var c = (char) (octet & 0xff);
            out.append(
                    c < 128 && (Character.isLetterOrDigit(c) || "-._~".indexOf(c) >= 0)
                            ? c
                            : "%%%02X".formatted((int) c));
        }
        return out.toString();
    }

    /** Shows nothing of the secret. */
    @Override
    public String toString() {
        return "AppCode[********]";
    }
}
