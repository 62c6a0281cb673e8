package dev.entente.steward.order;

import com.nimbusds.jose.EncryptionMethod;
import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JWEAlgorithm;
import com.nimbusds.jose.JWEHeader;
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

    /**
     * What is inside.
     *
     * @param old the password that the person has now, for a change; null otherwise
     */
    record Content(int v, String password, String old) {
        /** A record's text would show the passwords. */
        @Override
        public String toString() {
            return "content of a seal";
        }
    }

    private record Mine(JsonNode recipient, ECKey key) {}

    /**
     * The passwords inside.
     *
     * @param seal as {@link Seal#parse} accepted it
     * @throws InvalidDocument if it is sealed to others, was changed, or holds something else
     */
    Content open(Seal seal) {
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
            var plaintext = new NativeAgreement(mine.key())
                    .decrypt(
                            header,
                            part(mine.recipient(), "encrypted_key"),
                            part(jwe, "iv"),
                            part(jwe, "ciphertext"),
                            part(jwe, "tag"),
                            aad.getBytes(StandardCharsets.US_ASCII));
            return content(plaintext, seal.binding().action().equals("change"));
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

    private static Content content(byte[] plaintext, boolean change) {
        if (plaintext.length != Seal.PLAINTEXT_LENGTH) {
            throw new InvalidDocument("content", "the seal's content does not have the length that it should");
        }
        var content = JSON.readValue(plaintext, Content.class);
        if (content.v() != 1 || !isPassword(content.password())) {
            throw new InvalidDocument("content", "the seal does not hold a password");
        }
        if (change != (content.old() != null) || change && !isPassword(content.old())) {
            throw new InvalidDocument("content", "a change, and nothing else, holds the old password too");
        }
        return content;
    }

    private static boolean isPassword(String text) {
        return text != null && !text.isEmpty() && text.length() <= LONGEST_PASSWORD;
    }

    private static Base64URL part(JsonNode node, String name) {
        return Base64URL.from(node.path(name).asString());
    }
}
