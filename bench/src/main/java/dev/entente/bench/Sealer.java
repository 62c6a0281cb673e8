package dev.entente.bench;

import com.nimbusds.jose.EncryptionMethod;
import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JWEAlgorithm;
import com.nimbusds.jose.JWECryptoParts;
import com.nimbusds.jose.JWEHeader;
import com.nimbusds.jose.crypto.ECDHEncrypter;
import com.nimbusds.jose.jwk.Curve;
import com.nimbusds.jose.jwk.ECKey;
import com.nimbusds.jose.util.Base64URL;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Seal;
import dev.entente.core.seal.SealBinding;
import java.nio.charset.StandardCharsets;
import java.security.SecureRandom;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import javax.crypto.spec.SecretKeySpec;
import tools.jackson.databind.json.JsonMapper;

/** Seals in Java, to one recipient, whatever binding a test wants. */
public final class Sealer {
    private static final JsonMapper JSON = JsonMapper.shared();

    private Sealer() {}

    /** For one recipient. */
    public static String seal(SealBinding binding, EcKey recipient, String password) {
        return seal(binding, List.of(recipient), Map.of("v", 1, "password", password));
    }

    /** For several recipients, with any content. */
    public static String seal(SealBinding binding, List<EcKey> recipients, Map<String, Object> content) {
        return seal(Map.of("enc", "A256GCM", "entente", binding), recipients, content);
    }

    /** Under a header of any kind, also a wrong one. */
    public static String seal(Map<String, Object> protectedHeader, EcKey recipient, String password) {
        return seal(protectedHeader, List.of(recipient), Map.of("v", 1, "password", password));
    }

    private static String seal(
            Map<String, Object> protectedHeader, List<EcKey> recipients, Map<String, Object> content) {
        try {
            var aad = Base64URL.encode(JSON.writeValueAsString(protectedHeader)).toString();
            // One content key for all; each recipient gets it wrapped to its own.
            var contentKey = new SecretKeySpec(SecureRandom.getSeed(32), "AES");
            JWECryptoParts message = null;
            var wrapped = new ArrayList<Map<String, Object>>();
            for (var recipient : recipients) {
                var key = new ECKey.Builder(Curve.P_256, Base64URL.from(recipient.x()), Base64URL.from(recipient.y()))
                        .build();
                var parts = new ECDHEncrypter(key.toECPublicKey(), contentKey)
                        .encrypt(
                                new JWEHeader.Builder(JWEAlgorithm.ECDH_ES_A256KW, EncryptionMethod.A256GCM).build(),
                                padded(content),
                                aad.getBytes(StandardCharsets.US_ASCII));
                message = message == null ? parts : message;
                wrapped.add(Map.of(
                        "header",
                        Map.of(
                                "alg", "ECDH-ES+A256KW",
                                "kid", recipient.thumbprint(),
                                "epk", parts.getHeader().getEphemeralPublicKey().toJSONObject()),
                        "encrypted_key",
                        parts.getEncryptedKey().toString()));
            }
            return JSON.writeValueAsString(Map.of(
                    "protected", aad,
                    "recipients", wrapped,
                    "iv", message.getInitializationVector().toString(),
                    "ciphertext", message.getCipherText().toString(),
                    "tag", message.getAuthenticationTag().toString()));
        } catch (JOSEException e) {
            throw new IllegalStateException(e);
        }
    }

    private static byte[] padded(Map<String, Object> content) {
        var json = JSON.writeValueAsBytes(content);
        var all = Arrays.copyOf(json, Seal.PLAINTEXT_LENGTH);
        Arrays.fill(all, json.length, all.length, (byte) ' ');
        return all;
    }
}
