package dev.entente.core.audit;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Jws;
import dev.entente.core.seal.SigningKey;

/**
 * From a point on another key signs the record. Both keys sign that: the old one, so that nobody else could have said it, and the new one,
 * so that whoever knows only the new one may believe what the old one signed.
 *
 * @param byOld JWS of {@link Terms} by the key of before
 * @param byNew the same by the key that follows
 */
public record KeyChange(String byOld, String byNew) {
    private static final String TYP = "entente-record-key+jwt";

    /**
     * What changed.
     *
     * @param v format version, 1
     * @param from signed checkpoints over up to {@code size} events
     * @param to signs those over more
     * @param root of the tree over {@code size} events, hexadecimal
     * @param at milliseconds since 1970
     */
    public record Terms(int v, EcKey from, EcKey to, long size, String root, long at) {}

    /** Hands over. */
    public static KeyChange sign(SigningKey from, SigningKey to, long size, String root, long at) {
        var terms = new Terms(1, from.publicKey(), to.publicKey(), size, root, at);
        return new KeyChange(Jws.sign(from, TYP, terms), Jws.sign(to, TYP, terms));
    }

    /** @throws InvalidDocument if it does not hand over from this key */
    public Terms after(EcKey from) {
        var terms = Jws.verify(byOld, from, TYP, Terms.class);
        return both(terms);
    }

    /** @throws InvalidDocument if it does not hand over to this key */
    public Terms before(EcKey to) {
        var terms = Jws.verify(byNew, to, TYP, Terms.class);
        return both(terms);
    }

    private Terms both(Terms terms) {
        if (terms.v() != 1
                || terms.from() == null
                || terms.to() == null
                || !Jws.verify(byOld, terms.from(), TYP, Terms.class).equals(terms)
                || !Jws.verify(byNew, terms.to(), TYP, Terms.class).equals(terms)) {
            throw new InvalidDocument("record", "the two keys don't say the same about their change");
        }
        return terms;
    }
}
