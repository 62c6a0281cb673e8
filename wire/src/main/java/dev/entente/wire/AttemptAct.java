package dev.entente.wire;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Jws;
import dev.entente.core.seal.SigningKey;
import java.util.UUID;

/**
 * Signs one call that changes something within an attempt: header {@code Entente-Act}. The cookie alone changes nothing after
 * the proof; the attempt's key never leaves the browser that began it. Says nothing of time, since clocks of phones may be
 * wrong; each is taken once.
 *
 * @param v 1
 * @param reference of the attempt, digits only
 * @param htm HTTP method
 * @param htu path below {@code /api/v1/portal}
 * @param bd SHA-256 of the body, base64url; of nothing where there is none
 * @param jti random
 */
public record AttemptAct(int v, String reference, String htm, String htu, String bd, UUID jti) {
    /** The header that carries it. */
    public static final String HEADER = "Entente-Act";

    private static final String TYP = "entente-act+jwt";

    /** @throws InvalidDocument if a part is missing */
    public AttemptAct {
        if (v != 1 || reference == null || htm == null || htu == null || bd == null || jti == null) {
            throw new InvalidDocument("format", "the act is not complete");
        }
    }

    /** Signs a call. */
    public static String sign(SigningKey key, String reference, String method, String path, String body) {
        return Jws.sign(key, TYP, new AttemptAct(1, reference, method, path, EcKey.digest(body), UUID.randomUUID()));
    }

    /** @throws InvalidDocument if another key signed it, or if it is about another call */
    public static AttemptAct verify(
            String signed, EcKey key, String reference, String method, String path, String body) {
        var act = Jws.verify(signed, key, TYP, AttemptAct.class);
        if (!reference.equals(act.reference)
                || !method.equals(act.htm)
                || !path.equals(act.htu)
                || !EcKey.digest(body).equals(act.bd)) {
            throw new InvalidDocument("act", "the signature is about another call");
        }
        return act;
    }
}
