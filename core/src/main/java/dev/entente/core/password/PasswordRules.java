package dev.entente.core.password;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Locale;

/**
 * What a new password must be, on top of the directory's own rules. The page's guidance computes the same outcomes; the
 * vectors in {@code password-vectors.json} hold both together.
 *
 * @param minLength characters (Unicode code points), 1 to 128
 * @param maxLength characters, at least {@code minLength}, at most 128
 * @param kinds how many of lower case, upper case, digits and others there must be, 1 to 4
 * @param noPersonalDetails whether parts of names, login name and address are refused
 * @param blockedWords words that must not be in it, in any case; at most 1,000
 */
public record PasswordRules(
        int minLength, int maxLength, int kinds, boolean noPersonalDetails, List<String> blockedWords) {
    /** A word of a person's details counts from this many characters on. */
    public static final int SHORTEST_DETAIL = 4;

    /** @throws IllegalArgumentException outside the bounds above */
    public PasswordRules {
        blockedWords = List.copyOf(blockedWords);
        if (minLength < 1 || maxLength > 128 || maxLength < minLength || kinds < 1 || kinds > 4) {
            throw new IllegalArgumentException("password rules are out of their bounds");
        }
        if (blockedWords.size() > 1000) {
            throw new IllegalArgumentException("at most 1,000 blocked words");
        }
    }

    /** A rule by its stable name and whether the password meets it. */
    public record Check(String rule, boolean met) {}

    /**
     * Every rule that is in force, in the order in which people see them.
     *
     * @param details names, login names and addresses of the person; split into words here
     */
    public List<Check> check(String password, Collection<String> details) {
        var length = password.codePointCount(0, password.length());
        var lower = password.toLowerCase(Locale.ROOT);
        var checks = new ArrayList<Check>();
        checks.add(new Check("min-length", length >= minLength));
        checks.add(new Check("max-length", length <= maxLength));
        if (kinds > 1) {
            checks.add(new Check("kinds", kindsIn(password) >= kinds));
        }
        if (noPersonalDetails) {
            checks.add(new Check("no-personal-details", words(details).stream().noneMatch(lower::contains)));
        }
        if (!blockedWords.isEmpty()) {
            checks.add(new Check(
                    "blocked-words",
                    blockedWords.stream().noneMatch(word -> lower.contains(word.toLowerCase(Locale.ROOT)))));
        }
        return checks;
    }

    /** Whether every rule is met. */
    public boolean meets(String password, Collection<String> details) {
        return check(password, details).stream().allMatch(Check::met);
    }

    private static int kindsIn(String password) {
        var kinds = new boolean[4];
        password.codePoints().forEach(c -> {
            if (Character.isDigit(c)) {
                kinds[0] = true;
            } else if (Character.isUpperCase(c)) {
                kinds[1] = true;
            } else if (Character.isLowerCase(c)) {
                kinds[2] = true;
            } else {
                kinds[3] = true;
            }
        });
        var count = 0;
        for (var kind : kinds) {
            count += kind ? 1 : 0;
        }
        return count;
    }

    private static List<String> words(Collection<String> details) {
        return details.stream()
                .flatMap(detail -> List.of(detail.toLowerCase(Locale.ROOT).split("[^\\p{L}\\p{Nd}]+")).stream())
                .filter(word -> word.codePointCount(0, word.length()) >= SHORTEST_DETAIL)
                .distinct()
                .toList();
    }
}
