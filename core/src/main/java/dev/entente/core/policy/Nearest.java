package dev.entente.core.policy;

import java.util.Collection;
import java.util.Comparator;
import java.util.stream.Collectors;

/** Suggestions for a name that doesn't exist. */
public final class Nearest {
    private static final int MOST_NAMED = 12;
    private static final int FEW_NAMED = 3;

    private Nearest() {}

    /** "; did you mean …" with the nearest name, or the names there are. */
    public static String suggestion(String wrong, Collection<String> names) {
        if (names.isEmpty()) {
            return "; there are none";
        }
        var nearest = names.stream()
                .min((a, b) -> Integer.compare(distance(wrong, a), distance(wrong, b)))
                .orElseThrow();
        if (distance(wrong, nearest) <= Math.max(2, wrong.length() / 3)) {
            return "; did you mean \"" + nearest + "\"?";
        }
        return names.size() <= MOST_NAMED
                ? "; possible are " + String.join(", ", names.stream().sorted().toList())
                : "; the nearest are "
                        + names.stream()
                                .sorted(Comparator.comparingInt(name -> distance(wrong, name)))
                                .limit(FEW_NAMED)
                                .map(name -> "\"" + name + "\"")
                                .collect(Collectors.joining(", "));
    }

    /** Levenshtein's distance. */
    private static int distance(String a, String b) {
        var row = new int[b.length() + 1];
        for (var j = 0; j <= b.length(); j++) {
            row[j] = j;
        }
        for (var i = 1; i <= a.length(); i++) {
            var diagonal = row[0];
            row[0] = i;
            for (var j = 1; j <= b.length(); j++) {
                var above = row[j];
                row[j] = Math.min(
                        Math.min(above, row[j - 1]) + 1, diagonal + (a.charAt(i - 1) == b.charAt(j - 1) ? 0 : 1));
                diagonal = above;
            }
        }
        return row[b.length()];
    }
}
