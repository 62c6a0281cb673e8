package dev.entente.steward.order;

import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JWEObjectJSON;
import com.nimbusds.jose.crypto.MultiDecrypter;
import com.nimbusds.jose.jwk.ECKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Seal;
import dev.entente.steward.link.SealingKeys;
import java.text.ParseException;
import java.util.Map;
import java.util.Set;
import tools.jackson.core.JacksonException;
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

    /**
     * The password inside.
     *
     * @throws InvalidDocument if it is sealed to others, was changed, or holds something else
     */
    String open(Seal seal) {
        var mine = seal.binding().recipients().stream()
                .flatMap(kid -> keys.find(kid).map(key -> Map.entry(kid, key)).stream())
                .findFirst()
                .orElseThrow(() -> new InvalidDocument("recipients", "the seal is not for any key of this steward"));
        try {
            var jwe = JWEObjectJSON.parse(seal.text());
            var key = new ECKey.Builder(mine.getValue()).keyID(mine.getKey()).build();
            jwe.decrypt(new MultiDecrypter(key, Set.of()));
            var plaintext = jwe.getPayload().toBytes();
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
        } catch (ParseException | JOSEException | JacksonException e) {
            // The cause is left out on purpose: a parser's message may quote what it read.
            throw new InvalidDocument(
                    "content", "the seal cannot be opened: " + e.getClass().getSimpleName());
        }
    }
}
