package dev.entente.core.scope;

import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/**
 * What the values of one attribute have to be. One of them is enough. Text compares without regard to case; a date is a
 * whole day in UTC.
 */
public sealed interface Condition {
    /** Whether one value does. */
    boolean holds(String value, LocalDate today);

    /** In words, to follow the name of an attribute. */
    String words();

    /** One of these values. */
    record OneOf(List<String> values) implements Condition {
        public OneOf {
            values = List.copyOf(values);
        }

        @Override
        public boolean holds(String value, LocalDate today) {
            return values.stream().anyMatch(value::equalsIgnoreCase);
        }

        @Override
        public String words() {
            return "is " + String.join(" or ", values);
        }
    }

    /** Begins with this text. */
    record StartsWith(String text) implements Condition {
        @Override
        public boolean holds(String value, LocalDate today) {
            return value.regionMatches(true, 0, text, 0, text.length());
        }

        @Override
        public String words() {
            return "starts with " + text;
        }
    }

    /** There is a value at all. */
    record Present() implements Condition {
        @Override
        public boolean holds(String value, LocalDate today) {
            return true;
        }

        @Override
        public String words() {
            return "has a value";
        }
    }

    /** Fits a pattern, where {@code *} stands for any text and {@code ?} for one character. */
    record Matches(String pattern) implements Condition {
        @Override
        public boolean holds(String value, LocalDate today) {
            return fits(pattern.toLowerCase(Locale.ROOT), value.toLowerCase(Locale.ROOT));
        }

        /** In time that grows with the product of both lengths at worst, whatever the pattern. */
        private static boolean fits(String pattern, String text) {
            int p = 0;
            int t = 0;
            int star = -1;
            int from = 0;
            while (t < text.length()) {
                if (p < pattern.length() && pattern.charAt(p) == '*') {
                    star = p++;
                    from = t;
                } else if (p < pattern.length() && (pattern.charAt(p) == '?' || pattern.charAt(p) == text.charAt(t))) {
                    p++;
                    t++;
                } else if (star >= 0) {
                    p = star + 1;
                    t = ++from;
                } else {
                    return false;
                }
            }
            while (p < pattern.length() && pattern.charAt(p) == '*') {
                p++;
            }
            return p == pattern.length();
        }

        @Override
        public String words() {
            return "matches " + pattern;
        }
    }

    /** A date before a day that is so many days from today; a value that is no date is not. */
    record Before(int days) implements Condition {
        @Override
        public boolean holds(String value, LocalDate today) {
            return date(value).filter(d -> d.isBefore(today.plusDays(days))).isPresent();
        }

        @Override
        public String words() {
            return "is before " + day(days);
        }
    }

    /** A date after a day that is so many days from today; a value that is no date is not. */
    record After(int days) implements Condition {
        @Override
        public boolean holds(String value, LocalDate today) {
            return date(value).filter(d -> d.isAfter(today.plusDays(days))).isPresent();
        }

        @Override
        public String words() {
            return "is after " + day(days);
        }
    }

    private static String day(int days) {
        return days == 0 ? "today" : Math.abs(days) + " days " + (days < 0 ? "ago" : "from now");
    }

    /** Generalized time (RFC 4517 section 3.3.13), a day as 2026-11-23, or a file time of 100 ns since 1601. */
    private static Optional<LocalDate> date(String value) {
        try {
            if (value.matches("[0-9]{14}(\\.[0-9]+)?Z")) {
                return Optional.of(LocalDate.parse(value.substring(0, 8), DateTimeFormatter.BASIC_ISO_DATE));
            }
            if (value.matches("[0-9]{4}-[0-9]{2}-[0-9]{2}.{0,32}")) {
                return Optional.of(LocalDate.parse(value.substring(0, 10)));
            }
            if (value.matches("[0-9]{17,18}")) {
                return Optional.of(LocalDate.ofInstant(
                        java.time.Instant.ofEpochSecond(Long.parseLong(value) / 10_000_000 - 11_644_473_600L),
                        ZoneOffset.UTC));
            }
        } catch (DateTimeException e) {
            return Optional.empty();
        }
        return Optional.empty();
    }
}
