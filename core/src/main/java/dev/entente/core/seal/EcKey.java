package dev.entente.core.seal;

import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.security.AlgorithmParameters;
import java.security.GeneralSecurityException;
import java.security.KeyFactory;
import java.security.MessageDigest;
import java.security.PublicKey;
import java.security.interfaces.ECPublicKey;
import java.security.spec.ECFieldFp;
import java.security.spec.ECGenParameterSpec;
import java.security.spec.ECParameterSpec;
import java.security.spec.ECPoint;
import java.security.spec.ECPublicKeySpec;
import java.util.Base64;

/**
 * A public key on the curve P-256, as a JSON Web Key (RFC 7517, RFC 7518 section 6.2).
 *
 * <p>The point is checked to lie on the curve when the value is made, so a key that exists can be used. No other curve and
 * no private part can be represented.
 *
 * @param kty always {@code EC}
 * @param crv always {@code P-256}
 * @param x 32 bytes, base64url without padding
 * @param y 32 bytes, base64url without padding
 */
public record EcKey(String kty, String crv, String x, String y) {
    private static final ECParameterSpec P256 = curve();

    /** @throws InvalidDocument if this is not a point of P-256 */
    public EcKey {
        if (!"EC".equals(kty) || !"P-256".equals(crv)) {
            throw new InvalidDocument("key", "only EC keys on P-256 are accepted");
        }
        var px = coordinate(x);
        var py = coordinate(y);
        var p = ((ECFieldFp) P256.getCurve().getField()).getP();
        var right = px.modPow(BigInteger.valueOf(3), p)
                .add(P256.getCurve().getA().multiply(px))
                .add(P256.getCurve().getB())
                .mod(p);
        if (px.compareTo(p) >= 0
                || py.compareTo(p) >= 0
                || !py.multiply(py).mod(p).equals(right)) {
            throw new InvalidDocument("key", "the point is not on P-256");
        }
    }

    /** Takes the public half of a key pair of the JDK. */
    public static EcKey of(PublicKey key) {
        var point = ((ECPublicKey) key).getW();
        return new EcKey("EC", "P-256", encode(point.getAffineX()), encode(point.getAffineY()));
    }

    /** The thumbprint of RFC 7638 with SHA-256, base64url: how every other document names this key. */
    public String thumbprint() {
        var canonical = "{\"crv\":\"P-256\",\"kty\":\"EC\",\"x\":\"" + x + "\",\"y\":\"" + y + "\"}";
        return digest(canonical);
    }

    ECPublicKey toPublicKey() {
        try {
            var point = new ECPoint(coordinate(x), coordinate(y));
            return (ECPublicKey) KeyFactory.getInstance("EC").generatePublic(new ECPublicKeySpec(point, P256));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no P-256", e);
        }
    }

    /** SHA-256 of a text's UTF-8 bytes, base64url without padding. */
    public static String digest(String text) {
        try {
            var bytes = MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.UTF_8));
            return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no SHA-256", e);
        }
    }

    static ECParameterSpec curve() {
        try {
            var parameters = AlgorithmParameters.getInstance("EC");
            parameters.init(new ECGenParameterSpec("secp256r1"));
            return parameters.getParameterSpec(ECParameterSpec.class);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no P-256", e);
        }
    }

    private static BigInteger coordinate(String text) {
        try {
            var bytes = Base64.getUrlDecoder().decode(text == null ? "" : text);
            if (bytes.length == 32) {
                return new BigInteger(1, bytes);
            }
        } catch (IllegalArgumentException e) {
            throw new InvalidDocument("key", "a coordinate is not base64url", e);
        }
        throw new InvalidDocument("key", "a coordinate is not 32 bytes long");
    }

    private static String encode(BigInteger value) {
        var raw = value.toByteArray();
        var fixed = new byte[32];
        var length = Math.min(raw.length, 32);
        System.arraycopy(raw, raw.length - length, fixed, 32 - length, length);
        return Base64.getUrlEncoder().withoutPadding().encodeToString(fixed);
    }
}
