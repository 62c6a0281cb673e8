package dev.entente.core.seal;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import tools.jackson.databind.JsonNode;

/**
 * A sealed password as it travels: a JWE in general JSON serialisation (RFC 7516 section 7.2.1), looked at from outside.
 *
 * <p>Promises that what it accepts is exactly {@code ECDH-ES+A256KW} and {@code A256GCM}, with no compression, no reference
 * to keys elsewhere, no unprotected headers and bounded size. Does not promise that it can be opened, nor that the binding
 * is the right one: the steward judges that. Nothing here can open it.
 *
 * @param text the JSON text exactly as it was made; evidence signs the digest of these bytes
 * @param binding what it is bound to
 */
public record Seal(String text, SealBinding binding) {
    /** A seal for the largest number of recipients stays well below this many characters. */
    public static final int MAX_LENGTH = 32 * 1024;
    /** Length of what is inside, always, so that the length says nothing. Bytes. */
    public static final int PLAINTEXT_LENGTH = 1024;
    /** More stewards than this never share one directory. */
    public static final int MAX_RECIPIENTS = 32;

    private static final Set<String> MEMBERS = Set.of("protected", "recipients", "iv", "ciphertext", "tag");
    private static final Set<String> PROTECTED = Set.of("enc", "entente", "alg", "epk");
    private static final Set<String> RECIPIENT = Set.of("alg", "kid", "epk");

    /** @throws InvalidDocument if it is anything but what is promised above */
    public static Seal parse(String text) {
        if (text == null || text.length() > MAX_LENGTH) {
            throw new InvalidDocument("format", "the seal is missing or too long");
        }
        var jwe = Jws.readTree(text);
        if (!jwe.isObject() || !Set.copyOf(jwe.propertyNames()).equals(MEMBERS)) {
            throw new InvalidDocument("format", "a seal holds protected, recipients, iv, ciphertext and tag");
        }
        var header = Jws.readTree(new String(Jws.decode(string(jwe, "protected")), StandardCharsets.UTF_8));
        if (!header.isObject() || !PROTECTED.containsAll(header.propertyNames())) {
            throw new InvalidDocument("format", "the protected header holds a name that is not allowed");
        }
        if (!"A256GCM".equals(string(header, "enc"))) {
            throw new InvalidDocument("format", "only A256GCM is accepted");
        }
        if (Jws.decode(string(jwe, "iv")).length != 12
                || Jws.decode(string(jwe, "tag")).length != 16
                || Jws.decode(string(jwe, "ciphertext")).length != PLAINTEXT_LENGTH) {
            throw new InvalidDocument("format", "iv, tag or ciphertext has the wrong length");
        }
        var binding = Jws.read(header.path("entente").toString(), SealBinding.class);
        if (!kids(jwe.path("recipients"), header).equals(binding.recipients())) {
            throw new InvalidDocument("recipients", "the seal's recipients are not those it is bound to");
        }
        return new Seal(text, binding);
    }

    /** SHA-256 of the text, base64url: what evidence signs. */
    public String digest() {
        return EcKey.digest(text);
    }

    private static List<String> kids(JsonNode recipients, JsonNode header) {
        if (!recipients.isArray() || recipients.isEmpty() || recipients.size() > MAX_RECIPIENTS) {
            throw new InvalidDocument("format", "a seal has one to " + MAX_RECIPIENTS + " recipients");
        }
        var kids = new ArrayList<String>();
        for (var recipient : recipients) {
            var own = recipient.path("header");
            if (!Set.copyOf(recipient.propertyNames()).equals(Set.of("header", "encrypted_key"))
                    || !RECIPIENT.containsAll(own.propertyNames())) {
                throw new InvalidDocument("format", "a recipient holds a name that is not allowed");
            }
            var alg = own.has("alg") ? own : header;
            if (!"ECDH-ES+A256KW".equals(string(alg, "alg"))) {
                throw new InvalidDocument("format", "only ECDH-ES+A256KW is accepted");
            }
            Jws.read((own.has("epk") ? own : header).path("epk").toString(), EcKey.class);
            if (Jws.decode(string(recipient, "encrypted_key")).length != 40) {
                throw new InvalidDocument("format", "a wrapped key has the wrong length");
            }
            kids.add(string(own, "kid"));
        }
        return kids;
    }

    private static String string(JsonNode node, String name) {
        var value = node.path(name);
        if (!value.isString()) {
            throw new InvalidDocument("format", "the seal lacks " + name);
        }
        return value.asString();
    }
}
