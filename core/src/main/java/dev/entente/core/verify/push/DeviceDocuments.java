package dev.entente.core.verify.push;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Jws;
import dev.entente.core.seal.SigningKey;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Duration;
import java.time.Instant;
import java.util.UUID;

/** What registered devices sign (RFC 7515, ES256), as {@code docs/methods/push.md} describes it. */
public final class DeviceDocuments {
    /** How far a device's clock may be off. */
    public static final Duration APART = Duration.ofMinutes(5);

    private static final String LOOK = "entente-device-look+jws";
    private static final String ANSWER = "entente-device-answer+jws";

    private DeviceDocuments() {}

    /**
     * A device asks what waits for it.
     *
     * @param v 1
     * @param at seconds since 1970
     */
    public record Look(int v, UUID device, long at) {}

    /**
     * A device's answer to a request.
     *
     * @param v 1
     * @param request the challenge
     * @param key thumbprint of the attempt's key (RFC 7638), as the request named it
     * @param verdict {@code approve} or {@code deny}
     * @param number that the person typed; null with {@code deny}
     * @param at seconds since 1970
     */
    public record Answer(int v, UUID device, UUID request, String key, String verdict, String number, long at) {}

    /** Signs a question. */
    public static String sign(SigningKey key, Look look) {
        return Jws.sign(key, LOOK, look);
    }

    /** Signs an answer. */
    public static String sign(SigningKey key, Answer answer) {
        return Jws.sign(key, ANSWER, answer);
    }

    /** @throws InvalidDocument if the device did not sign it just now */
    public static Look look(String signed, UUID device, EcKey key, Instant now) {
        var look = Jws.verify(signed, key, LOOK, Look.class);
        check(look.v(), look.device().equals(device), look.at(), now);
        return look;
    }

    /** @throws InvalidDocument if the device did not sign it just now */
    public static Answer answer(String signed, UUID device, EcKey key, Instant now) {
        var answer = Jws.verify(signed, key, ANSWER, Answer.class);
        check(answer.v(), answer.device().equals(device), answer.at(), now);
        return answer;
    }

    private static void check(int version, boolean same, long at, Instant now) {
        if (version != 1 || !same) {
            throw new InvalidDocument("device", "it is for another device or of another version");
        }
        if (Duration.between(Instant.ofEpochSecond(at), now).abs().compareTo(APART) > 0) {
            throw new InvalidDocument("clock", "the device's clock is off by more than five minutes");
        }
    }

    /**
     * Six digits that the device shows when it has registered, and the person types into the page: they tell that it is this
     * device's key, and no other's, that was registered.
     */
    public static String check(UUID device, EcKey key) {
        try {
            var hash = MessageDigest.getInstance("SHA-256")
                    .digest((device + " " + key.thumbprint()).getBytes(StandardCharsets.US_ASCII));
            var number =
                    ((hash[0] & 0x7f) << 24) | ((hash[1] & 0xff) << 16) | ((hash[2] & 0xff) << 8) | (hash[3] & 0xff);
            return "%06d".formatted(number % 1_000_000);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("the JDK has no SHA-256", e);
        }
    }
}
