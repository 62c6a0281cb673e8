package dev.entente.steward.order;

import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JWEHeader;
import com.nimbusds.jose.crypto.impl.ECDH;
import com.nimbusds.jose.crypto.impl.ECDHCryptoProvider;
import com.nimbusds.jose.crypto.utils.ECChecks;
import com.nimbusds.jose.jwk.Curve;
import com.nimbusds.jose.jwk.ECKey;
import com.nimbusds.jose.util.Base64URL;
import dev.entente.core.seal.Es256;
import java.security.interfaces.ECPrivateKey;
import java.util.Set;

/**
 * ECDH-ES (RFC 7518 section 4.6) with the curve's arithmetic by the native library where it can be loaded: half of what a seal
 * costs a steward was the JDK's. Everything after the agreement is the JOSE library's own.
 */
final class NativeAgreement extends ECDHCryptoProvider {
    private final ECPrivateKey key;

    NativeAgreement(ECKey key) throws JOSEException {
        super(key.getCurve(), null);
        this.key = key.toECPrivateKey();
    }

    /** @param header with the sender's {@code epk} */
    byte[] decrypt(
            JWEHeader header, Base64URL encryptedKey, Base64URL iv, Base64URL ciphertext, Base64URL tag, byte[] aad)
            throws JOSEException {
        var ephemeral = ((ECKey) header.getEphemeralPublicKey()).toECPublicKey();
        if (!ECChecks.isPointOnCurve(ephemeral, key)) {
            throw new JOSEException("the sender's key is not on this curve");
        }
        var shared = ECDH.deriveSharedSecret(ephemeral, key, Es256.provider());
        return decryptWithZ(header, aad, shared, encryptedKey, iv, ciphertext, tag);
    }

    @Override
    public Set<Curve> supportedEllipticCurves() {
        return Set.of(Curve.P_256);
    }
}
