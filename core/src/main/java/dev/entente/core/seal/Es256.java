package dev.entente.core.seal;

import java.math.BigInteger;
import java.security.GeneralSecurityException;
import java.security.PrivateKey;
import java.security.Provider;
import java.security.PublicKey;
import java.security.Signature;
import java.util.Arrays;
import org.conscrypt.Conscrypt;

/**
 * ES256 signatures as JWS has them (RFC 7518 section 3.4): r and s, 32 bytes each.
 *
 * <p>Every password on its way is signed and verified several times, and the JDK takes milliseconds for each. Where the native
 * library can be loaded it does the work, some ten times as fast; elsewhere the JDK does. It speaks DER (RFC 3279 section
 * 2.2.3), so the form is changed here.
 */
public final class Es256 {
    private static final Provider NATIVE = Conscrypt.isAvailable() ? Conscrypt.newProvider() : null;
    private static final int HALF = 32;

    private Es256() {}

    static byte[] sign(PrivateKey key, byte[] input) throws GeneralSecurityException {
        return sign(key, input, NATIVE);
    }

    static boolean verify(PublicKey key, byte[] input, byte[] signature) throws GeneralSecurityException {
        return verify(key, input, signature, NATIVE);
    }

    /** @param by null for the JDK */
    static byte[] sign(PrivateKey key, byte[] input, Provider by) throws GeneralSecurityException {
        var signer = signature(by);
        signer.initSign(key);
        signer.update(input);
        return by == null ? signer.sign() : fromDer(signer.sign());
    }

    /** @param by null for the JDK */
    static boolean verify(PublicKey key, byte[] input, byte[] signature, Provider by) throws GeneralSecurityException {
        if (signature.length != 2 * HALF) {
            return false;
        }
        var verifier = signature(by);
        verifier.initVerify(key);
        verifier.update(input);
        return verifier.verify(by == null ? signature : toDer(signature));
    }

    /** The native library; null where it cannot be loaded, which stands for the JDK. */
    public static Provider provider() {
        return NATIVE;
    }

    private static Signature signature(Provider by) throws GeneralSecurityException {
        return by == null
                ? Signature.getInstance("SHA256withECDSAinP1363Format")
                : Signature.getInstance("SHA256withECDSA", by);
    }

    private static byte[] toDer(byte[] signature) {
        var r = new BigInteger(1, signature, 0, HALF).toByteArray();
        var s = new BigInteger(1, signature, HALF, HALF).toByteArray();
        var der = new byte[6 + r.length + s.length];
        der[0] = 0x30;
        der[1] = (byte) (4 + r.length + s.length);
        der[2] = 0x02;
        der[3] = (byte) r.length;
        System.arraycopy(r, 0, der, 4, r.length);
        der[4 + r.length] = 0x02;
        der[5 + r.length] = (byte) s.length;
        System.arraycopy(s, 0, der, 6 + r.length, s.length);
        return der;
    }

    /** Of what the library itself made: a sequence of two short integers. */
    private static byte[] fromDer(byte[] der) {
        var r = Arrays.copyOfRange(der, 4, 4 + der[3]);
        var s = Arrays.copyOfRange(der, 6 + r.length, 6 + r.length + der[5 + r.length]);
        var signature = new byte[2 * HALF];
        put(r, signature, HALF);
        put(s, signature, 2 * HALF);
        return signature;
    }

    /** Right-aligned, without a leading zero that only says that the number is positive. */
    private static void put(byte[] number, byte[] into, int end) {
        var length = Math.min(HALF, number.length);
        System.arraycopy(number, number.length - length, into, end - length, length);
    }
}
