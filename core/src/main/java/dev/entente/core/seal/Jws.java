package dev.entente.core.seal;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * Compact signatures (RFC 7515) with ES256 and nothing else.
 *
 * <p>Every kind of document has a {@code typ} of its own (RFC 8725 section 3.11), so that one can never be taken for
 * another. The protected header holds exactly {@code alg}, {@code typ}, {@code kid} and, where the signer is not known
 * beforehand, {@code jwk}; anything more is refused. It gives authenticity, not secrecy, and says nothing about age:
 * callers look at the times inside.
 */
public final class Jws {
    /** Longer texts are refused before they are looked at. */
    public static final int MAX_LENGTH = 96 * 1024;

    private static final JsonMapper JSON = StrictJson.MAPPER;

    private Jws() {}

    /** Signs a payload; the header names the key by thumbprint. */
    public static String sign(SigningKey key, String typ, Object payload) {
        return sign(key, typ, payload, false);
    }

    /** Signs a payload; the header carries the whole public key, for signers made on the spot. */
    static String signWithKeyInside(SigningKey key, String typ, Object payload) {
        return sign(key, typ, payload, true);
    }

    private static String sign(SigningKey key, String typ, Object payload, boolean inside) {
        var header = new LinkedHashMap<String, Object>();
        header.put("alg", "ES256");
        header.put("typ", typ);
        header.put("kid", key.publicKey().thumbprint());
        if (inside) {
            header.put("jwk", key.publicKey());
        }
        var input = part(header) + "." + part(payload);
        return input + "." + encode(key.sign(input.getBytes(StandardCharsets.US_ASCII)));
    }

    /**
     * Verifies and reads a document.
     *
     * @throws InvalidDocument with reason {@code format}, {@code type} or {@code signature}
     */
    public static <T> T verify(String compact, EcKey key, String typ, Class<T> type) {
        var parts = parts(compact);
        var header = header(parts, typ, Set.of("alg", "typ", "kid"));
        if (!key.thumbprint().equals(header.path("kid").asString(""))) {
            throw new InvalidDocument("signature", "it was signed by another key");
        }
        return check(parts, key, type);
    }

    /** Whether a document says that this key signed it; whether it did is another question. */
    public static boolean names(String compact, EcKey key) {
        var header = readTree(new String(decode(parts(compact)[0]), StandardCharsets.UTF_8));
        return key.thumbprint().equals(header.path("kid").asString(""));
    }

    /** Whether it has the form of a document of this type; who signed it is another question. */
    public static boolean isOf(String compact, String typ) {
        try {
            header(parts(compact), typ, Set.of("alg", "typ", "kid"));
            return true;
        } catch (InvalidDocument e) {
            return false;
        }
    }

    /** A document and the key that it carries. */
    record Carried<T>(T payload, EcKey key) {}

    static <T> Carried<T> verifyWithKeyInside(String compact, String typ, Class<T> type) {
        var parts = parts(compact);
        var header = header(parts, typ, Set.of("alg", "typ", "kid", "jwk"));
        var key = read(header.path("jwk").toString(), EcKey.class);
        if (!key.thumbprint().equals(header.path("kid").asString(""))) {
            throw new InvalidDocument("signature", "it names another key than it carries");
        }
        return new Carried<>(check(parts, key, type), key);
    }

    private static <T> T check(String[] parts, EcKey key, Class<T> type) {
        try {
            var input = (parts[0] + "." + parts[1]).getBytes(StandardCharsets.US_ASCII);
            if (!Es256.verify(key.toPublicKey(), input, decode(parts[2]))) {
                throw new InvalidDocument("signature", "the signature does not match");
            }
        } catch (GeneralSecurityException e) {
            throw new InvalidDocument("signature", "the signature cannot be read", e);
        }
        return read(new String(decode(parts[1]), StandardCharsets.UTF_8), type);
    }

    private static String[] parts(String compact) {
        if (compact == null || compact.length() > MAX_LENGTH) {
            throw new InvalidDocument("format", "the document is missing or too long");
        }
        var parts = compact.split("\\.", -1);
        if (parts.length != 3) {
            throw new InvalidDocument("format", "this is not a signed document");
        }
        return parts;
    }

    private static JsonNode header(String[] parts, String typ, Set<String> names) {
        var header = readTree(new String(decode(parts[0]), StandardCharsets.UTF_8));
        if (!header.isObject() || !Set.copyOf(header.propertyNames()).equals(names)) {
            throw new InvalidDocument("format", "the header holds other names than it should");
        }
        if (!"ES256".equals(header.path("alg").asString(""))) {
            throw new InvalidDocument("format", "only ES256 is accepted");
        }
        if (!typ.equals(header.path("typ").asString(""))) {
            throw new InvalidDocument("type", "this is not a document of type " + typ);
        }
        return header;
    }

    static <T> T read(String json, Class<T> type) {
        try {
            return JSON.readValue(json, type);
        } catch (JacksonException e) {
            if (e.getCause() instanceof InvalidDocument inner) {
                throw inner;
            }
            throw new InvalidDocument("format", "the document does not have the form of a " + type.getSimpleName(), e);
        }
    }

    static JsonNode readTree(String json) {
        try {
            return JSON.readTree(json);
        } catch (JacksonException e) {
            throw new InvalidDocument("format", "this is not JSON", e);
        }
    }

    static byte[] decode(String part) {
        try {
            return Base64.getUrlDecoder().decode(part);
        } catch (IllegalArgumentException e) {
            throw new InvalidDocument("format", "a part is not base64url", e);
        }
    }

    static String encode(byte[] bytes) {
        return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
    }

    private static String part(Object value) {
        return encode(JSON.writeValueAsBytes(value instanceof Map<?, ?> map ? new LinkedHashMap<>(map) : value));
    }
}
