package dev.entente.core.audit;

import com.ibm.icu.text.MessageFormat;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.Arrays;
import java.util.HashMap;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.regex.Pattern;

/**
 * One kind of event: what it may say, how long it is kept, how grave it is, and how it reads. Everything that lists, filters or
 * words events takes it from here; see {@link EventCatalogue}.
 *
 * @param name noun and past participle, such as {@code challenge.sent}
 * @param part of the record that it belongs to, such as {@code attempt}: the file that it is in
 * @param classes which events of this kind there are, by how long they are kept
 * @param severity how much it wants to be looked at
 * @param since the version of Entente that wrote it first, such as {@code 0.1}
 * @param written whether it is still written; older ones stay readable
 * @param fields by name, in the order of the file
 * @param says a sentence by language, as an ICU message: a field by its name, and {@code ifName} with {@code yes} where the field is
 *     there and not false
 */
public record EventKind(
        String name,
        String part,
        Set<Retention> classes,
        Severity severity,
        String since,
        boolean written,
        Map<String, Field> fields,
        Map<String, MessageFormat> says) {

    /** Which events are kept for how long. */
    public enum Retention {
        ATTEMPT,
        ADMINISTRATION,
        OPERATION;

        /** The name in files and interfaces. */
        public String label() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** How much an event wants to be looked at, least first. */
    public enum Severity {
        /** As it should be. */
        INFO,
        /** Worth knowing when something is looked into. */
        NOTICE,
        /** Something did not work, or became weaker. */
        WARNING,
        /** Somebody may be attacked. */
        ALERT;

        /** The name in files and interfaces. */
        public String label() {
            return name().toLowerCase(Locale.ROOT);
        }

        /** The one with this name. */
        public static Optional<Severity> labelled(String label) {
            return Arrays.stream(values())
                    .filter(one -> one.label().equals(label))
                    .findFirst();
        }
    }

    /** What a field can hold. */
    public enum Type {
        /** A word of ours, such as a state or a method: at most 80 letters, digits, dots, dashes, underscores and colons. */
        WORD,
        /** What somebody called something, such as a directory, or what a directory calls a version: at most 256 characters. */
        NAME,
        /** A sentence or a part of one, also a server's: at most 500 characters, without addresses and telephone numbers. */
        TEXT,
        /** How many. */
        NUMBER,
        /** Which one of several in order. */
        ORDINAL,
        FLAG,
        /** An id or a thumbprint: 8 to 64 letters, digits, dashes and underscores. */
        ID,
        /** A time, RFC 3339. */
        TIME,
        /** Names somebody: kept apart and erasable, at most 4,000 characters. */
        PERSONAL;

        /** The name in files and interfaces. */
        public String label() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** One field. */
    public record Field(Type type, boolean optional) {}

    private static final Pattern WORD = Pattern.compile("[A-Za-z0-9][A-Za-z0-9._:-]{0,79}");
    private static final Pattern ID = Pattern.compile("[A-Za-z0-9_-]{8,64}");
    private static final Pattern ADDRESS = Pattern.compile("[^\\s<>\"'@(]+@[^\\s<>\"'@)]+");
    private static final Pattern TELEPHONE = Pattern.compile("\\+\\d[\\d ()/-]{5,}\\d");
    /** Half of a pair of surrogates, which UTF-8 can't say. */
    private static final Pattern HALF = Pattern.compile("\\p{Cs}");

    private static final int LONGEST_NAME = 256;
    private static final int LONGEST_TEXT = 500;
    private static final int LONGEST_PERSONAL = 4_000;
    private static final int LONGEST_TERM = 120;

    public EventKind {
        classes = Set.copyOf(classes);
    }

    /**
     * What is written, fitted to the fields. Names and texts may be a server's own, and no server is to keep anything from being
     * done and recorded: they are cut to one line of their length, and texts lose what reaches somebody.
     *
     * @param data facts that name nobody
     * @param personal values that name somebody
     * @throws IllegalArgumentException if a field is missing, is none of this kind's, or holds what it cannot
     */
    public Fitted fit(Map<String, Object> data, Map<String, String> personal) {
        var fitted = new TreeMap<String, Object>();
        var names = new TreeMap<String, String>();
        data.forEach((field, value) -> fitted.put(field, fit(field, value, false)));
        personal.forEach((field, value) -> names.put(field, (String) fit(field, value, true)));
        fields.forEach((field, what) -> {
            if (!what.optional() && !data.containsKey(field) && !personal.containsKey(field)) {
                throw unfit(field, "is missing");
            }
        });
        return new Fitted(fitted, names);
    }

    /** What is written. */
    public record Fitted(Map<String, Object> data, Map<String, String> personal) {}

    private Object fit(String field, Object value, boolean personal) {
        var what = fields.get(field);
        if (what == null) {
            throw unfit(field, "is none of its fields");
        }
        if (personal != (what.type() == Type.PERSONAL)) {
            throw unfit(field, personal ? "names nobody" : "names somebody");
        }
        var fits = switch (what.type()) {
            case WORD -> value instanceof String s && WORD.matcher(s).matches();
            case ID -> value instanceof String s && ID.matcher(s).matches();
            case NAME, TEXT, PERSONAL -> value instanceof String;
            case NUMBER, ORDINAL -> value instanceof Integer || value instanceof Long;
            case FLAG -> value instanceof Boolean;
            case TIME -> value instanceof String s && time(s);
        };
        if (!fits) {
            throw unfit(field, "is no " + what.type().label());
        }
        return switch (what.type()) {
            case NAME -> cut((String) value, LONGEST_NAME);
            case TEXT -> withoutAddresses((String) value);
            case PERSONAL -> cut((String) value, LONGEST_PERSONAL);
            default -> value;
        };
    }

    private static boolean time(String text) {
        try {
            Instant.parse(text);
            return true;
        } catch (DateTimeParseException e) {
            return false;
        }
    }

    /** A text as it is put on record: one line of at most 500 characters, in which nothing reaches anybody. */
    public static String withoutAddresses(String text) {
        return cut(TELEPHONE.matcher(ADDRESS.matcher(text).replaceAll("…@…")).replaceAll("…"), LONGEST_TEXT);
    }

    private static String cut(String said, int longest) {
        var line = HALF.matcher(said.replaceAll("\\p{Cntrl}+", " ").strip()).replaceAll("\ufffd");
        if (line.length() <= longest) {
            return line;
        }
        var end = Character.isHighSurrogate(line.charAt(longest - 2)) ? longest - 2 : longest - 1;
        return line.substring(0, end) + "…";
    }

    /** Never says the value: it may be what must not be on record. */
    private IllegalArgumentException unfit(String field, String why) {
        return new IllegalArgumentException("the event " + name + ": the field " + field + " " + why);
    }

    /** The event in words. What was erased, or is not there in an event of before, is a question mark. */
    public String words(Map<String, Object> data, Map<String, String> personal, String language) {
        var arguments = new HashMap<String, Object>();
        fields.forEach((field, what) -> {
            var value = data.containsKey(field) ? data.get(field) : personal.get(field);
            var name = "if" + field.substring(0, 1).toUpperCase(Locale.ROOT) + field.substring(1);
            arguments.put(name, value == null || Boolean.FALSE.equals(value) ? "no" : "yes");
            arguments.put(
                    field,
                    what.type() == Type.NUMBER
                            ? value instanceof Number number ? number : 0
                            : value == null ? "?" : value.toString());
        });
        // A format is no good for two at once.
        var format = says.getOrDefault(language, says.get("en"));
        return ((MessageFormat) format.clone()).format(arguments);
    }

    /** A word in a name or a text, and one in a value that names somebody, as they stand in the terms. */
    public static final String WORD_TERM = "word", NAME_TERM = "name";

    /** The field that holds what was looked for. */
    private static final String ASKED = "asked";

    private static final int MOST_WORDS = 60;

    /**
     * What it can be found by: its kind, each of its fields that events are {@linkplain EventCatalogue#SOUGHT sought} by, and the words of
     * the others.
     */
    public Set<String> terms(Map<String, Object> data, Map<String, String> personal) {
        var terms = new TreeSet<>(Set.of(term("kind", name)));
        for (var field : EventCatalogue.SOUGHT) {
            var value = data.containsKey(field) ? data.get(field) : personal.get(field);
            if (value instanceof String text && !text.isBlank()) {
                terms.add(term(field, text));
            }
        }
        fields.forEach((field, what) -> {
            var named = what.type() == Type.PERSONAL;
            // A search isn't indexed by its own words; otherwise every search would find the searches before it.
            if (!field.equals(ASKED) && (named || what.type() == Type.NAME || what.type() == Type.TEXT)) {
                var words = words(named ? personal.get(field) : data.get(field));
                // By one word that is all of a field it is found already.
                if (!EventCatalogue.SOUGHT.contains(field) || words.size() > 1 && !field.equals("network")) {
                    words.forEach(word -> terms.add(term(named ? NAME_TERM : WORD_TERM, word)));
                }
            }
        });
        return terms;
    }

    private static Set<String> words(Object value) {
        return value instanceof String text ? Words.of(text, MOST_WORDS) : Set.of();
    }

    /** Whether its name, or what it says in some language, has a word that begins so. */
    public boolean mentions(String word) {
        return words(name).stream().anyMatch(own -> own.startsWith(word))
                || says.keySet().stream()
                        .flatMap(language -> words(words(Map.of(), Map.of(), language)).stream())
                        .anyMatch(own -> own.startsWith(word));
    }

    /** A field's value as events are found by it; values are alike that differ in case alone. */
    public static String term(String field, String value) {
        var text = value.strip().toLowerCase(Locale.ROOT);
        return field + ":" + text.substring(0, Math.min(text.length(), LONGEST_TERM));
    }
}
