package dev.entente.steward.order;

import com.nimbusds.jose.EncryptionMethod;
import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JWEAlgorithm;
import com.nimbusds.jose.JWEHeader;
import com.nimbusds.jose.crypto.ECDHDecrypter;
import com.nimbusds.jose.jwk.ECKey;
import com.nimbusds.jose.util.Base64URL;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Seal;
import dev.entente.steward.link.SealingKeys;
import java.nio.charset.StandardCharsets;
import java.text.ParseException;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * Opens seals (RFC 7516). The only code of ours that can; it is no part of the service.
 *
 * <p>Promises that what comes out was sealed to one of this steward's keys in force and not changed since. Does not judge
 * the binding: that is done before, on the authenticated header.
 */
final class SealOpener {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final int LONGEST_PASSWORD = 256;

    private final SealingKeys keys;

    SealOpener(SealingKeys keys) {
        this.keys = keys;
    }

    private record Content(int v, String password) {}

    private record Mine(JsonNode recipient, ECKey key) {}

    /**
     * The password inside.
     *
     * @param seal as {@link Seal#parse} accepted it
     * @throws InvalidDocument if it is sealed to others, was changed, or holds something else
     */
    String open(Seal seal) {
        try {
            var jwe = JSON.readTree(seal.text());
            var mine = mine(jwe);
            // Implementations differ in where they put epk, which section 7.2.1 leaves open: both places are looked at.
            var own = mine.recipient().path("header");
            var aad = jwe.path("protected").asString();
            var shared = JSON.readTree(Base64URL.from(aad).decodeToString());
            var header = new JWEHeader.Builder(JWEAlgorithm.ECDH_ES_A256KW, EncryptionMethod.A256GCM)
                    .ephemeralPublicKey(ECKey.parse(
                            (own.has("epk") ? own : shared).path("epk").toString()))
                    .build();
            var plaintext = new ECDHDecrypter(mine.key())
                    .decrypt(
                            header,
                            part(mine.recipient(), "encrypted_key"),
                            part(jwe, "iv"),
                            part(jwe, "ciphertext"),
                            part(jwe, "tag"),
                            aad.getBytes(StandardCharsets.US_ASCII));
            return password(plaintext);
        } catch (ParseException | JOSEException | JacksonException e) {
            // The cause is left out on purpose: a parser's message may quote what it read.
            throw new InvalidDocument(
                    "content", "the seal cannot be opened: " + e.getClass().getSimpleName());
        }
    }

    private Mine mine(JsonNode jwe) {
        for (var recipient : jwe.path("recipients")) {
            var key = keys.find(recipient.path("header").path("kid").asString(""));
            if (key.isPresent()) {
                return new Mine(recipient, key.get());
            }
        }
        throw new InvalidDocument("recipients", "the seal is not for any key of this steward");
    }

    private static String password(byte[] plaintext) {
        if (plaintext.length != Seal.PLAINTEXT_LENGTH) {
            throw new InvalidDocument("content", "the seal's content does not have the length that it should");
        }
        var content = JSON.readValue(plaintext, Content.class);
        if (content.v() != 1
                || content.password() == null
                || content.password().isEmpty()
                || content.password().length() > LONGEST_PASSWORD) {
            throw new InvalidDocument("content", "the seal does not hold a password");
        }
        return content.password();
    }

    private static Base64URL part(JsonNode node, String name) {
        return Base64URL.from(node.path(name).asString());
    }
}
