package dev.entente.core.audit;

import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.SortedMap;
import java.util.TreeMap;

/**
 * The JSON Canonicalization Scheme (RFC 8785) for what events hold: objects, arrays, strings, integers up to 2^53 - 1,
 * booleans and null. Fractions are refused rather than guessed at.
 */
public final class CanonicalJson {
    private static final long MAX_SAFE = (1L << 53) - 1;
    private static final String HEX = "0123456789abcdef";

    private byte[] bytes = new byte[512];
    private int size;

    CanonicalJson() {}

    /**
     * The one sequence of bytes that stands for a value.
     *
     * @throws IllegalArgumentException for anything the class does not promise
     */
    public static byte[] bytes(Object value) {
        var out = new CanonicalJson();
        out.value(value);
        return out.written();
    }

    /** SHA-256 of {@link #bytes}, hexadecimal. */
    public static String digest(Object value) {
        return HexFormat.of().formatHex(Sha256.of(bytes(value)));
    }

    /**
     * A text as bytes. Half of a pair of surrogates would become the same byte as a question mark, and two texts one hash.
     *
     * @throws IllegalArgumentException for such a half
     */
    static byte[] utf8(String text) {
        for (var i = 0; i < text.length(); i++) {
            if (Character.isSurrogate(text.charAt(i))) {
                paired(text, i++);
            }
        }
        return text.getBytes(StandardCharsets.UTF_8);
    }

    /** What was written so far; what is written next begins anew. */
    byte[] written() {
        var all = Arrays.copyOf(bytes, size);
        size = 0;
        return all;
    }

    /** Writes a member of an object whose names the caller gives in their order, with what stands before its name. */
    CanonicalJson member(char before, String name, Object value) {
        name(before, name);
        value(value);
        return this;
    }

    /** Writes a name and its colon. */
    CanonicalJson name(char before, String name) {
        put(before);
        string(name);
        put(':');
        return this;
    }

    /** Writes a sign of JSON's own. */
    CanonicalJson put(char sign) {
        room(1);
        bytes[size++] = (byte) sign;
        return this;
    }

    private void value(Object value) {
        if (value == null || value instanceof Boolean) {
            ascii(String.valueOf(value));
        } else if (value instanceof String text) {
            string(text);
        } else if (value instanceof Integer || value instanceof Long) {
            var number = ((Number) value).longValue();
            if (Math.abs(number) > MAX_SAFE) {
                throw new IllegalArgumentException("it contains a number beyond 2^53 - 1");
            }
            ascii(Long.toString(number));
        } else if (value instanceof List<?> list) {
            put('[');
            for (var i = 0; i < list.size(); i++) {
                if (i > 0) {
                    put(',');
                }
                value(list.get(i));
            }
            put(']');
        } else if (value instanceof Map<?, ?> map) {
            var before = '{';
            for (var entry : sorted(map).entrySet()) {
                member(before, (String) entry.getKey(), entry.getValue());
                before = ',';
            }
            if (map.isEmpty()) {
                put('{');
            }
            put('}');
        } else {
            throw new IllegalArgumentException(
                    value instanceof Number
                            ? "it contains a fraction"
                            : "no canonical form for " + value.getClass().getSimpleName());
        }
    }

    /** Java compares strings by UTF-16 code units, which is the order that section 3.2.3 asks for. */
    private static Map<?, ?> sorted(Map<?, ?> map) {
        return map.size() < 2 || map instanceof SortedMap<?, ?> sorted && sorted.comparator() == null
                ? map
                : new TreeMap<>(map);
    }

    private void ascii(String text) {
        room(text.length());
        for (var i = 0; i < text.length(); i++) {
            bytes[size++] = (byte) text.charAt(i);
        }
    }

    private void string(String text) {
        // Six for a control character, three for any other, and the quotes.
        room(6 * text.length() + 2);
        bytes[size++] = '"';
        for (var i = 0; i < text.length(); i++) {
            var c = text.charAt(i);
            if (c < 0x20 || c == '"' || c == '\\') {
                escaped(c);
            } else if (c < 0x80) {
                bytes[size++] = (byte) c;
            } else if (Character.isSurrogate(c)) {
                utf8(paired(text, i++));
            } else {
                utf8(c);
            }
        }
        bytes[size++] = '"';
    }

    private void escaped(char c) {
        bytes[size++] = '\\';
        switch (c) {
            case '"', '\\' -> bytes[size++] = (byte) c;
            case '\b' -> bytes[size++] = 'b';
            case '\f' -> bytes[size++] = 'f';
            case '\n' -> bytes[size++] = 'n';
            case '\r' -> bytes[size++] = 'r';
            case '\t' -> bytes[size++] = 't';
            default -> {
                bytes[size++] = 'u';
                bytes[size++] = '0';
                bytes[size++] = '0';
                bytes[size++] = (byte) HEX.charAt(c >> 4);
                bytes[size++] = (byte) HEX.charAt(c & 15);
            }
        }
    }

    /** RFC 3629 section 3, beyond ASCII. */
    private void utf8(int c) {
        if (c < 0x800) {
            bytes[size++] = (byte) (0xC0 | c >> 6);
        } else {
            if (c < 0x10000) {
                bytes[size++] = (byte) (0xE0 | c >> 12);
            } else {
                bytes[size++] = (byte) (0xF0 | c >> 18);
                bytes[size++] = (byte) (0x80 | c >> 12 & 0x3F);
            }
            bytes[size++] = (byte) (0x80 | c >> 6 & 0x3F);
        }
        bytes[size++] = (byte) (0x80 | c & 0x3F);
    }

    private static int paired(String text, int at) {
        var c = text.codePointAt(at);
        if (c < 0x10000) {
            throw new IllegalArgumentException("it contains half of a surrogate pair");
        }
        return c;
    }

    private void room(int more) {
        if (bytes.length - size < more) {
            bytes = Arrays.copyOf(bytes, Math.max(2 * bytes.length, size + more));
        }
    }
}
