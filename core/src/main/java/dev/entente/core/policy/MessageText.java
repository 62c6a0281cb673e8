package dev.entente.core.policy;

import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

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

    /** Among the values: where the reader can choose to get fewer such messages; it stands below the text. */
    public static final String FEWER = "fewer";

    private static final String LIST = "list";
    private static final Pattern CONTROLS = Pattern.compile("\\p{Cntrl}+");

    public MessageText {
        subjects = Map.copyOf(subjects);
        texts = Map.copyOf(texts);
    }

    /**
     * A message as it is sent.
     *
     * @param html the same as a page, for readers that show one
     */
    public record Filled(String language, String subject, String text, String html) {}

    /**
     * Fills in a message.
     *
     * @param wanted the language that its reader wants, see {@link Languages#choose}
     * @param values by what stands in braces; what is not there becomes nothing
     * @param attributes what the person's directories say, names in lower case
     */
    public Filled fill(String wanted, Map<String, String> values, Map<String, Set<String>> attributes) {
        var language = Languages.choose(texts.keySet(), wanted);
        // What is about no attempt has no line for its reference.
        var text = values.getOrDefault("reference", "").isEmpty()
                ? texts.get(language)
                        .lines()
                        .filter(line -> !line.contains("{reference}"))
                        .collect(Collectors.joining("\n"))
                : texts.get(language);
        Function<String, String> value = place -> {
            var attribute = ATTRIBUTE.matcher(place);
            return attribute.matches()
                    ? attributes.getOrDefault(attribute.group(1).toLowerCase(Locale.ROOT), Set.of()).stream()
                            .findFirst()
                            .orElse("")
                    : values.getOrDefault(place, "");
        };
        // What a value holds begins no line of its own, but for the list, which is made of lines.
        Function<String, String> inLine = place -> place.equals(LIST)
                ? value.apply(place)
                : CONTROLS.matcher(value.apply(place)).replaceAll(" ");
        var subject = filled(subjects.get(language), inLine);
        return new Filled(
                language,
                subject,
                filled(text, inLine) + "\n" + fewer(language, values.getOrDefault(FEWER, "")),
                MessageHtml.of(language, subject, text, inLine));
    }

    private static String fewer(String language, String link) {
        var words = Message.words(language);
        return link.isEmpty() ? "" : "\n" + (words.isEmpty() ? "" : words.get(2) + ": ") + link + "\n";
    }

    /** Each place once: what a value holds is not looked at again. */
    private static String filled(String text, Function<String, String> value) {
        return PLACE.matcher(text)
                .replaceAll(place -> Matcher.quoteReplacement(value.apply(place.group(1))))
                .stripTrailing();
    }
}
