package dev.entente.e2e;

import com.nimbusds.jose.EncryptionMethod;
import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JWEAlgorithm;
import com.nimbusds.jose.JWEHeader;
import com.nimbusds.jose.crypto.ECDHEncrypter;
import com.nimbusds.jose.jwk.Curve;
import com.nimbusds.jose.jwk.ECKey;
import com.nimbusds.jose.util.Base64URL;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Seal;
import dev.entente.core.seal.SealBinding;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import tools.jackson.databind.json.JsonMapper;

/** Seals in Java, to one recipient, whatever binding a test wants. */
final class TestSealer {
    private static final JsonMapper JSON = JsonMapper.shared();

    private TestSealer() {}

    static String seal(SealBinding binding, EcKey recipient, String password) {
        return seal(Map.of("enc", "A256GCM", "entente", binding), recipient, password);
    }

    static String seal(Map<String, Object> protectedHeader, EcKey recipient, String password) {
        try {
            var key = new ECKey.Builder(Curve.P_256, Base64URL.from(recipient.x()), Base64URL.from(recipient.y()))
                    .build();
            var aad = Base64URL.encode(JSON.writeValueAsString(protectedHeader)).toString();
            var parts = new ECDHEncrypter(key)
                    .encrypt(
                            new JWEHeader.Builder(JWEAlgorithm.ECDH_ES_A256KW, EncryptionMethod.A256GCM).build(),
                            padded(password),
                            aad.getBytes(StandardCharsets.US_ASCII));
            var header = Map.of(
                    "alg", "ECDH-ES+A256KW",
                    "kid", recipient.thumbprint(),
                    "epk", parts.getHeader().getEphemeralPublicKey().toJSONObject());
            return JSON.writeValueAsString(Map.of(
                    "protected", aad,
                    "recipients",
                            List.of(Map.of(
                                    "header",
                                    header,
                                    "encrypted_key",
                                    parts.getEncryptedKey().toString())),
                    "iv", parts.getInitializationVector().toString(),
                    "ciphertext", parts.getCipherText().toString(),
                    "tag", parts.getAuthenticationTag().toString()));
        } catch (JOSEException e) {
            throw new IllegalStateException(e);
        }
    }

    private static byte[] padded(String password) {
        var json = JSON.writeValueAsBytes(Map.of("v", 1, "password", password));
        var all = Arrays.copyOf(json, Seal.PLAINTEXT_LENGTH);
        Arrays.fill(all, json.length, all.length, (byte) ' ');
        return all;
    }
}
