package dev.entente.core.seal;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.time.Duration;
import java.time.Instant;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.function.Function;
import java.util.regex.Pattern;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * HTTP message signatures by a shared secret (RFC 9421 section 3.3.3, {@code hmac-sha256}), over method, target URI and the
 * digest of the content (RFC 9530).
 */
public final class HttpSignature {
    /** How far the clocks of both ends may be apart. */
    public static final Duration APART = Duration.ofMinutes(5);

    private static final String LABEL = "sig1";
    private static final String COVERED = "(\"@method\" \"@target-uri\" \"content-digest\")";
    private static final Pattern INPUT = Pattern.compile(LABEL + "=(" + Pattern.quote(COVERED)
            + ";created=([0-9]{1,12});keyid=\"([^\"\\\\]{1,100})\";alg=\"hmac-sha256\")");
    private static final Pattern SIGNATURE = Pattern.compile(LABEL + "=:([A-Za-z0-9+/=]{1,100}):");

    private HttpSignature() {}

    /**
     * The fields that go with a request: {@code Content-Digest}, {@code Signature-Input} and {@code Signature}.
     *
     * @param target URI, absolute
     * @param body of the request; empty if it has none
     * @param keyId how the other end calls the secret; without quotes and backslashes
     */
    public static Map<String, String> fields(
            String method, String target, byte[] body, byte[] secret, String keyId, Instant now) {
        return fields(
                method,
                target,
                body,
                ";created=" + now.getEpochSecond() + ";keyid=\"" + keyId + "\";alg=\"hmac-sha256\"",
                base -> mac(secret, base));
    }

    /**
     * The same fields with the signature of a key (section 3.3.4, {@code ecdsa-p256-sha256}), named by its thumbprint.
     *
     * @param target URI, absolute
     */
    public static Map<String, String> fields(String method, String target, byte[] body, SigningKey key, Instant now) {
        return fields(
                method,
                target,
                body,
                ";created=" + now.getEpochSecond() + ";keyid=\""
                        + key.publicKey().thumbprint() + "\";alg=\"ecdsa-p256-sha256\"",
                base -> key.sign(base.getBytes(StandardCharsets.US_ASCII)));
    }

    private static Map<String, String> fields(
            String method, String target, byte[] body, String about, Function<String, byte[]> signs) {
        var digest = digest(body);
        var parameters = COVERED + about;
        var fields = new LinkedHashMap<String, String>();
        fields.put("Content-Digest", digest);
        fields.put("Signature-Input", LABEL + "=" + parameters);
        fields.put(
                "Signature",
                LABEL + "=:"
                        + Base64.getEncoder().encodeToString(signs.apply(base(method, target, digest, parameters)))
                        + ":");
        return fields;
    }

    /**
     * Whether a request was signed with the secret just now. Compares in constant time.
     *
     * @param target as the sender addressed it
     * @param digest the field {@code Content-Digest}, or null; the same for the others
     */
    public static boolean verifies(
            String method,
            String target,
            byte[] body,
            String digest,
            String input,
            String signature,
            byte[] secret,
            String keyId,
            Instant now) {
        var said = INPUT.matcher(input == null ? "" : input);
        var signed = SIGNATURE.matcher(signature == null ? "" : signature);
        if (!said.matches()
                || !signed.matches()
                || digest == null
                || !said.group(3).equals(keyId)) {
            return false;
        }
        var created = Instant.ofEpochSecond(Long.parseLong(said.group(2)));
        if (Duration.between(created, now).abs().compareTo(APART) > 0 || !digest.equals(digest(body))) {
            return false;
        }
        try {
            return MessageDigest.isEqual(
                    Base64.getDecoder().decode(signed.group(1)),
                    mac(secret, base(method, target, digest, said.group(1))));
        } catch (IllegalArgumentException e) {
            return false;
        }
    }

    /** RFC 9421 section 2.5. */
    private static String base(String method, String target, String digest, String parameters) {
        return "\"@method\": " + method + "\n\"@target-uri\": " + target + "\n\"content-digest\": " + digest
                + "\n\"@signature-params\": " + parameters;
    }

    private static String digest(byte[] body) {
        try {
            return "sha-256=:"
                    + Base64.getEncoder()
                            .encodeToString(MessageDigest.getInstance("SHA-256").digest(body))
                    + ":";
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no SHA-256", e);
        }
    }

    private static byte[] mac(byte[] secret, String base) {
        try {
            var mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(secret, "HmacSHA256"));
            return mac.doFinal(base.getBytes(StandardCharsets.US_ASCII));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no HMAC-SHA-256", e);
        }
    }
}
