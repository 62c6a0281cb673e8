package dev.entente.e2e;

import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * Finds a secret in files of any size, in every form in which it could have been left behind: UTF-8, UTF-16 of both orders,
 * base64 at its three offsets, hexadecimal, URL-encoded, and any six bytes in a row of its UTF-8 form.
 */
final class Search {
    private static final int KEY = 6;
    private static final byte[] NOTHING = new byte[1024];

    private final Map<String, byte[]> forms = new LinkedHashMap<>();
    private final Map<Long, List<byte[]>> byStart = new HashMap<>();
    // A quick look at two bytes spares nearly every look-up.
    private final boolean[] likely = new boolean[1 << 16];

    Search(String secret) {
        var utf8 = secret.getBytes(StandardCharsets.UTF_8);
        forms.put("UTF-8", utf8);
        forms.put("UTF-16LE", secret.getBytes(StandardCharsets.UTF_16LE));
        forms.put("UTF-16BE", secret.getBytes(StandardCharsets.UTF_16BE));
        for (var offset = 0; offset < 3; offset++) {
            var shifted = new byte[offset + utf8.length];
            System.arraycopy(utf8, 0, shifted, offset, utf8.length);
            var encoded = Base64.getEncoder().withoutPadding().encodeToString(shifted);
            // Characters that depend on what stands before or after are left out.
            var whole = encoded.substring(offset == 0 ? 0 : offset + 1, encoded.length() - 2);
            forms.put("base64 at offset " + offset, whole.getBytes(StandardCharsets.US_ASCII));
        }
        forms.put("hexadecimal", HexFormat.of().formatHex(utf8).getBytes(StandardCharsets.US_ASCII));
        forms.put(
                "upper-case hexadecimal",
                HexFormat.of().withUpperCase().formatHex(utf8).getBytes(StandardCharsets.US_ASCII));
        forms.put(
                "URL-encoded", URLEncoder.encode(secret, StandardCharsets.UTF_8).getBytes(StandardCharsets.US_ASCII));
        for (var at = 0; at + KEY <= utf8.length; at++) {
            forms.put("six bytes from " + at, Arrays.copyOfRange(utf8, at, at + KEY));
        }
        forms.values().forEach(this::index);
    }

    private void index(byte[] form) {
        byStart.computeIfAbsent(key(form, 0), k -> new ArrayList<>()).add(form);
        for (var i = 1; i < KEY; i++) {
            likely[(form[i - 1] & 255) << 8 | (form[i] & 255)] = true;
        }
    }

    Map<String, byte[]> forms() {
        return forms;
    }

    /** Where it was found: file and offset. */
    List<String> in(List<Path> files) throws IOException {
        var found = new ArrayList<String>();
        for (var file : files) {
            in(file, found, false);
        }
        return found;
    }

    /** Whether it is there at all; looks no further than the first place. */
    boolean isIn(List<Path> files) throws IOException {
        for (var file : files) {
            var found = new ArrayList<String>();
            in(file, found, true);
            if (!found.isEmpty()) {
                return true;
            }
        }
        return false;
    }

    private void in(Path file, List<String> found, boolean firstOnly) throws IOException {
        var overlap = forms.values().stream().mapToInt(f -> f.length).max().orElse(0);
        var buffer = new byte[4 << 20];
        var kept = 0;
        var base = 0L;
        if (!Files.exists(file)) {
            // The database replaces small files of its own while it runs.
            return;
        }
        try (var in = Files.newInputStream(file)) {
            for (var read = in.read(buffer);
                    read >= 0 && !(firstOnly && !found.isEmpty());
                    read = in.read(buffer, kept, buffer.length - kept)) {
                var length = kept + read;
                scan(file, buffer, length, base, found);
                var keep = Math.min(overlap, length);
                System.arraycopy(buffer, length - keep, buffer, 0, keep);
                base += length - keep;
                kept = keep;
            }
        }
    }

    private void scan(Path file, byte[] buffer, int length, long base, List<String> found) {
        // Of the pairs of bytes in a row that a start has, every fifth pair of a file is one.
        for (var i = 1; i < length; i += KEY - 1) {
            if (likely[(buffer[i - 1] & 255) << 8 | (buffer[i] & 255)]) {
                for (var from = Math.max(0, i - KEY + 1); from < i; from++) {
                    at(from, file, buffer, length, base, found);
                }
            } else if (buffer[i] == 0
                    && i + NOTHING.length <= length
                    && Arrays.equals(buffer, i, i + NOTHING.length, NOTHING, 0, NOTHING.length)) {
                // Most of a copy of memory was never written.
                i += NOTHING.length / (KEY - 1) * (KEY - 1) - (KEY - 1);
            }
        }
    }

    private void at(int from, Path file, byte[] buffer, int length, long base, List<String> found) {
        if (from + KEY > length) {
            return;
        }
        for (var form : byStart.getOrDefault(key(buffer, from), List.of())) {
            if (from + form.length <= length && Arrays.equals(form, 0, form.length, buffer, from, from + form.length)) {
                found.add(file + " at " + (base + from));
            }
        }
    }

    private static long key(byte[] bytes, int from) {
        var key = 0L;
        for (var i = from; i < from + KEY; i++) {
            key = (key << 8) | (bytes[i] & 255);
        }
        return key;
    }
}
