package dev.entente.wire;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Jws;
import dev.entente.core.seal.SigningKey;
import java.time.Duration;
import java.time.Instant;
import java.util.UUID;

/**
 * Signs one call of a steward: header {@code Authorization: Steward <this>}.
 *
 * @param iss the steward
 * @param aud always {@code entente-service}
 * @param htm HTTP method
 * @param htu path without query
 * @param bd SHA-256 of the body, base64url
 * @param iat milliseconds since 1970
 * @param jti random; remembered for calls that change something
 */
public record StewardCall(UUID iss, String aud, String htm, String htu, String bd, long iat, String jti) {
    /** How old a call may be, and how far ahead of the service's clock. */
    public static final Duration MAX_AGE = Duration.ofSeconds(60);

    private static final String TYP = "entente-call+jwt";

    /** Signs a call made now. */
    public static String sign(SigningKey key, UUID steward, String method, String path, String body, Instant now) {
        var jti = UUID.randomUUID().toString();
        return Jws.sign(
                key,
                TYP,
                new StewardCall(steward, "entente-service", method, path, EcKey.digest(body), now.toEpochMilli(), jti));
    }

    /** @throws InvalidDocument if it is another steward's, about another call, or too old */
    public static StewardCall verify(String signed, EcKey key, String method, String path, String body, Instant now) {
        var call = Jws.verify(signed, key, TYP, StewardCall.class);
        if (!"entente-service".equals(call.aud)
                || !method.equals(call.htm)
                || !path.equals(call.htu)
                || !EcKey.digest(body).equals(call.bd)) {
            throw new InvalidDocument("call", "the signature is about another call");
        }
        if (Math.abs(now.toEpochMilli() - call.iat) > MAX_AGE.toMillis()) {
            throw new InvalidDocument(
                    "clock", "the call is too old; the clocks of steward and service differ by more than 60 seconds");
        }
        return call;
    }
}
