package dev.entente.core.seal;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.time.Instant;
import java.util.Base64;
import java.util.HashMap;
import java.util.Map;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import org.junit.jupiter.api.Test;

/** Signatures of requests, held to RFC 9421 and refused for whatever else. */
class HttpSignatureTest {
    private static final Instant NOW = Instant.ofEpochSecond(1_764_400_000);
    private static final String AT = "https://gateway.example.org/entente/messages?x=1";
    private static final byte[] BODY = "{\"a\": 1}".getBytes(StandardCharsets.UTF_8);
    private static final byte[] SECRET = "sixteen characters".getBytes(StandardCharsets.UTF_8);
    private static final Map<String, String> FIELDS = HttpSignature.fields("POST", AT, BODY, SECRET, "entente", NOW);

    private static boolean verifies(
            String method, String at, byte[] body, Map<String, String> fields, byte[] secret, String key, Instant now) {
        return HttpSignature.verifies(
                method,
                at,
                body,
                fields.get("Content-Digest"),
                fields.get("Signature-Input"),
                fields.get("Signature"),
                secret,
                key,
                now);
    }

    @Test
    void the_base_is_that_of_the_standard() throws Exception {
        // Put together by hand, line by line, as RFC 9421 section 2.5 says.
        var digest = Base64.getEncoder()
                .encodeToString(MessageDigest.getInstance("SHA-256").digest(BODY));
        assertThat(FIELDS.get("Content-Digest")).isEqualTo("sha-256=:" + digest + ":");
        assertThat(FIELDS.get("Signature-Input"))
                .isEqualTo("sig1=(\"@method\" \"@target-uri\" \"content-digest\");created=1764400000;keyid=\"entente\""
                        + ";alg=\"hmac-sha256\"");
        var base = """
                "@method": POST
                "@target-uri": https://gateway.example.org/entente/messages?x=1
                "content-digest": sha-256=:%s:
                "@signature-params": ("@method" "@target-uri" "content-digest");created=1764400000;keyid="entente";alg="hmac-sha256\"""".formatted(digest);
        var mac = Mac.getInstance("HmacSHA256");
        mac.init(new SecretKeySpec(SECRET, "HmacSHA256"));
        assertThat(FIELDS.get("Signature"))
                .isEqualTo("sig1=:"
                        + Base64.getEncoder().encodeToString(mac.doFinal(base.getBytes(StandardCharsets.US_ASCII)))
                        + ":");
    }

    @Test
    void what_was_signed_is_taken_and_nothing_else() {
        assertThat(verifies("POST", AT, BODY, FIELDS, SECRET, "entente", NOW)).isTrue();
        assertThat(verifies("POST", AT, BODY, FIELDS, SECRET, "entente", NOW.plusSeconds(299)))
                .isTrue();
        assertThat(verifies("PUT", AT, BODY, FIELDS, SECRET, "entente", NOW)).isFalse();
        assertThat(verifies("POST", "https://gateway.example.org/other", BODY, FIELDS, SECRET, "entente", NOW))
                .isFalse();
        assertThat(verifies("POST", AT, new byte[0], FIELDS, SECRET, "entente", NOW))
                .isFalse();
        assertThat(verifies("POST", AT, BODY, FIELDS, new byte[16], "entente", NOW))
                .isFalse();
        assertThat(verifies("POST", AT, BODY, FIELDS, SECRET, "another", NOW)).isFalse();
        assertThat(verifies("POST", AT, BODY, FIELDS, SECRET, "entente", NOW.plusSeconds(301)))
                .isFalse();
        assertThat(verifies("POST", AT, BODY, FIELDS, SECRET, "entente", NOW.minusSeconds(301)))
                .isFalse();
    }

    @Test
    void fields_that_are_missing_or_name_less_are_refused() {
        assertThat(verifies("POST", AT, BODY, Map.of(), SECRET, "entente", NOW)).isFalse();
        for (var field : FIELDS.keySet()) {
            for (var wrong : new String[] {
                "", "sig1=()", FIELDS.get(field) + " ", FIELDS.get(field).replace("1", "2")
            }) {
                var changed = new HashMap<>(FIELDS);
                changed.put(field, wrong);
                assertThat(verifies("POST", AT, BODY, changed, SECRET, "entente", NOW))
                        .as("%s: %s", field, wrong)
                        .isEqualTo(wrong.equals(FIELDS.get(field)));
            }
        }
        var less = new HashMap<>(FIELDS);
        less.put("Signature-Input", FIELDS.get("Signature-Input").replace(" \"content-digest\"", ""));
        assertThat(verifies("POST", AT, BODY, less, SECRET, "entente", NOW)).isFalse();
    }
}
