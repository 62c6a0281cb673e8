package dev.entente.service.verify;

import dev.entente.core.verify.Method;

/**
 * What people call their methods, as others read it. The kind comes first and the label is quoted, so that a label never reads as a sentence
 * of ours; it is short, and nothing that a mail program makes a link of.
 */
public final class Labels {
    private static final int LONGEST = 30;

    private Labels() {}

    /** Such as {@code authenticator app “Old phone”}; the kind alone where the label says no more. */
    public static String named(Method method, String label) {
        var plain = label.replaceAll("[^\\p{L}\\p{N} '’_-]", " ")
                .replaceAll("\\s+", " ")
                .strip();
        var cut = plain.codePointCount(0, plain.length()) > LONGEST
                ? plain.substring(0, plain.offsetByCodePoints(0, LONGEST)).strip() + "…"
                : plain;
        return cut.isEmpty() || cut.equalsIgnoreCase(method.words()) || cut.equalsIgnoreCase(method.words() + "s")
                ? method.words()
                : method.words() + " “" + cut + "”";
    }
}
