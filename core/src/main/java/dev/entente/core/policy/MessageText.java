package dev.entente.core.policy;

import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * A message in one language or several. What stands in braces is filled in: {@code {name}}, or
 * {@code {attribute.department}} for what the person's directory says.
 *
 * @param subjects by language (BCP 47), one line each
 * @param texts by the same languages
 */
public record MessageText(Map<String, String> subjects, Map<String, String> texts) {
    /** What stands in braces. */
    static final Pattern PLACE = Pattern.compile("\\{([^{}\\n]{0,80})\\}");

    static final Pattern ATTRIBUTE = Pattern.compile("attribute\\.([A-Za-z][A-Za-z0-9;-]{0,62})");

    private static final Pattern CONTROLS = Pattern.compile("\\p{Cntrl}+");

    public MessageText {
        subjects = Map.copyOf(subjects);
        texts = Map.copyOf(texts);
    }

    /** A message as it is sent. */
    public record Filled(String language, String subject, String text) {}

    /**
     * Fills in a message.
     *
     * @param wanted the language that its reader wants, see {@link Languages#choose}
     * @param values by what stands in braces; what is not there becomes nothing
     * @param attributes what the person's directories say, names in lower case
     */
    public Filled fill(String wanted, Map<String, String> values, Map<String, Set<String>> attributes) {
        var language = Languages.choose(texts.keySet(), wanted);
        Function<String, String> value = place -> {
            var attribute = ATTRIBUTE.matcher(place);
            return attribute.matches()
                    ? attributes.getOrDefault(attribute.group(1).toLowerCase(Locale.ROOT), Set.of()).stream()
                            .findFirst()
                            .orElse("")
                    : values.getOrDefault(place, "");
        };
        return new Filled(language, filled(subjects.get(language), value), filled(texts.get(language), value) + "\n");
    }

    /** Each place once: what a value holds is not looked at again, and begins no line of its own. */
    private static String filled(String text, Function<String, String> value) {
        return PLACE.matcher(text)
                .replaceAll(place -> Matcher.quoteReplacement(
                        CONTROLS.matcher(value.apply(place.group(1))).replaceAll(" ")))
                .stripTrailing();
    }
}
