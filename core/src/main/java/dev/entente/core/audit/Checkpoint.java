package dev.entente.core.audit;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Jws;
import dev.entente.core.seal.SigningKey;

/**
 * Signs all events up to a point.
 *
 * @param v format version, 1
 * @param size number of leaves
 * @param root hexadecimal root of the tree over them
 * @param at milliseconds since 1970
 */
public record Checkpoint(int v, long size, String root, long at) {
    private static final String TYP = "entente-checkpoint+jwt";

    /** The signed text. */
    public String sign(SigningKey serviceKey) {
        return Jws.sign(serviceKey, TYP, this);
    }

    /** @throws dev.entente.core.seal.InvalidDocument if another key signed it */
    public static Checkpoint verify(String signed, EcKey serviceKey) {
        return Jws.verify(signed, serviceKey, TYP, Checkpoint.class);
    }

    /** Whether a text is one by its form; who signed it is another question. */
    public static boolean isOne(String signed) {
        return Jws.isOf(signed, TYP);
    }
}
