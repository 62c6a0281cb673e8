package dev.entente.core.verify;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.time.Instant;
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
    private static final int STEP_SECONDS = 30;
    /** Clocks may differ by one step, before or after (RFC 6238 section 5.2). */
    private static final int DRIFT = 1;

    private final byte[] secret;

    private AppCode(byte[] secret) {
        this.secret = secret.clone();
    }

    /** Makes one of 160 bits, as RFC 4226 section 4 recommends. */
    public static AppCode random(SecureRandom random) {
        var secret = new byte[SECRET_BYTES];
        random.nextBytes(secret);
        return new AppCode(secret);
    }

    /** Reads what {@link #base32} wrote. */
    public static AppCode parse(String base32) {
        return new AppCode(new Base32().decode(base32));
    }

    /** The secret as people type it into an app (RFC 4648 section 6), without padding. */
    public String base32() {
        return new Base32().encodeToString(secret).replace("=", "");
    }

    /**
     * The step in which what was typed is the code; empty if it is in none that counts now. Whoever takes it has to remember
     * the step, and take none that is not later.
     */
    public OptionalLong step(String typed, Instant now) {
        var digits = typed == null || typed.length() > 64 ? "" : typed.replaceAll("[\\s\\-]", "");
        if (!digits.matches("[0-9]{6}")) {
            return OptionalLong.empty();
        }
        var current = now.getEpochSecond() / STEP_SECONDS;
        var found = OptionalLong.empty();
        // Every step is compared, found or not, so that the time tells nothing.
        for (var step = current - DRIFT; step <= current + DRIFT; step++) {
            if (MessageDigest.isEqual(
                    digits.getBytes(StandardCharsets.US_ASCII), at(step).getBytes(StandardCharsets.US_ASCII))) {
                found = OptionalLong.of(step);
            }
        }
        return found;
    }

    /** The code of a step (RFC 4226 section 5.3). */
    public String at(long step) {
        try {
            var mac = Mac.getInstance("HmacSHA1");
            mac.init(new SecretKeySpec(secret, "HmacSHA1"));
            var hash = mac.doFinal(ByteBuffer.allocate(8).putLong(step).array());
            var offset = hash[hash.length - 1] & 0xf;
            var number = ByteBuffer.wrap(hash, offset, 4).getInt() & 0x7fffffff;
            return "%06d".formatted(number % 1_000_000);
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
