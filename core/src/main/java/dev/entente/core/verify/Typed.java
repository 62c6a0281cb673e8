package dev.entente.core.verify;

import java.security.SecureRandom;
import java.util.Locale;

/** Codes as people type them. */
public final class Typed {
    /** Letters and digits that nobody confuses. */
    public static final String ALPHABET = "abcdefghjkmnpqrstuvwxyz23456789";

    private Typed() {}

    /** What was typed without spaces and dashes, in lower case; nothing if it is too long to be a code. */
    public static String plain(String typed) {
        return typed == null || typed.length() > 64
                ? ""
                : typed.replaceAll("[\\s\\-]", "").toLowerCase(Locale.ROOT);
    }

    /** So many characters of the alphabet, each with the same chance. */
    public static String characters(SecureRandom random, int length) {
        var text = new StringBuilder();
        for (var i = 0; i < length; i++) {
            text.append(ALPHABET.charAt(random.nextInt(ALPHABET.length())));
        }
        return text.toString();
    }

    /** Whether a text is made of so many characters of the alphabet. */
    public static boolean holds(String text, int length) {
        return text.length() == length && text.chars().allMatch(c -> ALPHABET.indexOf(c) >= 0);
    }
}
