package dev.entente.core.audit;

import java.nio.CharBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/**
 * The JSON Canonicalization Scheme (RFC 8785) for what events hold: objects, arrays, strings, integers up to 2^53 - 1,
 * booleans and null. Fractions are refused rather than guessed at.
 */
public final class CanonicalJson {
    private static final long MAX_SAFE = (1L << 53) - 1;

    private CanonicalJson() {}

    /**
     * The one sequence of bytes that stands for a value.
     *
     * @throws IllegalArgumentException for anything the class does not promise
     */
    public static byte[] bytes(Object value) {
        var out = new StringBuilder();
        write(out, value);
        return utf8(out.toString());
    }

    /** SHA-256 of {@link #bytes}, hexadecimal. */
    public static String digest(Object value) {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(bytes(value)));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("the JDK has no SHA-256", e);
        }
    }

    /**
     * A text as bytes. Half of a pair of surrogates would become the same byte as a question mark, and two texts one hash.
     *
     * @throws IllegalArgumentException for such a half
     */
    static byte[] utf8(String text) {
        try {
            var bytes = StandardCharsets.UTF_8.newEncoder().encode(CharBuffer.wrap(text));
            return Arrays.copyOf(bytes.array(), bytes.limit());
        } catch (CharacterCodingException e) {
            throw new IllegalArgumentException("it contains half of a surrogate pair", e);
        }
    }

    private static void write(StringBuilder out, Object value) {
        if (value == null || value instanceof Boolean) {
            out.append(value);
        } else if (value instanceof String text) {
            string(out, text);
        } else if (value instanceof Integer || value instanceof Long) {
            var number = ((Number) value).longValue();
            if (Math.abs(number) > MAX_SAFE) {
                throw new IllegalArgumentException("it contains a number beyond 2^53 - 1");
            }
            out.append(number);
        } else if (value instanceof List<?> list) {
            out.append('[');
            for (var i = 0; i < list.size(); i++) {
                out.append(i == 0 ? "" : ",");
                write(out, list.get(i));
            }
            out.append(']');
        } else if (value instanceof Map<?, ?> map) {
            // Java compares strings by UTF-16 code units, which is the order that section 3.2.3 asks for.
            var sorted = new TreeMap<String, Object>();
            map.forEach((name, inner) -> sorted.put((String) name, inner));
            out.append('{');
            var first = true;
            for (var entry : sorted.entrySet()) {
                out.append(first ? "" : ",");
                first = false;
                string(out, entry.getKey());
                out.append(':');
                write(out, entry.getValue());
            }
            out.append('}');
        } else {
            throw new IllegalArgumentException(
                    value instanceof Number
                            ? "it contains a fraction"
                            : "no canonical form for " + value.getClass().getSimpleName());
        }
    }

    private static void string(StringBuilder out, String text) {
        out.append('"');
        for (var i = 0; i < text.length(); i++) {
            var c = text.charAt(i);
            switch (c) {
                case '"' -> out.append("\\\"");
                case '\\' -> out.append("\\\\");
                case '\b' -> out.append("\\b");
                case '\f' -> out.append("\\f");
                case '\n' -> out.append("\\n");
                case '\r' -> out.append("\\r");
                case '\t' -> out.append("\\t");
                default -> {
                    if (c < 0x20) {
                        out.append("\\u%04x".formatted((int) c));
                    } else {
                        out.append(c);
                    }
                }
            }
        }
        out.append('"');
    }
}
