package dev.entente.core.policy;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * A message as a page, for readers that show one: the same words as its text, set so that a code can be read and a link be touched on a
 * telephone. Nothing in it is fetched from anywhere, and whatever is filled in is text and never markup.
 */
final class MessageHtml {
    /** A line of a text that is shorter than this ends on purpose; a longer one was wrapped. */
    private static final int WRAPPED = 50;

    private static final String PAGE = read("page.html");

    private final Function<String, String> value;
    private final List<String> words;
    private final StringBuilder body = new StringBuilder();
    private final StringBuilder paragraph = new StringBuilder();

    private MessageHtml(String language, Function<String, String> value) {
        this.value = value;
        this.words = Message.words(language);
    }

    /**
     * The page of a message.
     *
     * @param text with what stands in braces not filled in yet
     * @param value of what stands in braces
     */
    static String of(String language, String subject, String text, Function<String, String> value) {
        var html = new MessageHtml(language, value);
        html.write(text);
        var organisation = escaped(value.apply("organisation"));
        return PAGE.replace("[language]", escaped(language))
                .replace("[title]", escaped(subject))
                .replace("[foot]", html.foot(organisation))
                .replace("[organisation]", organisation)
                // Last, so that nothing that was filled in is taken for a place of the page.
                .replace("[body]", html.body);
    }

    private void write(String text) {
        var wrapped = false;
        for (var line : text.strip().lines().toList()) {
            var alone = line.strip();
            switch (alone) {
                case "" -> end();
                case "{code}" -> block("<p class=\"code\">" + filled(alone) + "</p>");
                case "{link}" -> block(link(value.apply("link")));
                case "{list}" -> block(list());
                default -> {
                    if (paragraph.length() > 0) {
                        paragraph.append(wrapped ? " " : "<br>");
                    }
                    paragraph.append(filled(alone));
                    wrapped = line.length() >= WRAPPED;
                }
            }
        }
        end();
    }

    private void block(String html) {
        end();
        body.append(html).append('\n');
    }

    private void end() {
        if (paragraph.length() > 0) {
            body.append("<p>").append(paragraph).append("</p>\n");
            paragraph.setLength(0);
        }
    }

    /** In a language without words of its own a link shows where it leads. */
    private String link(String to) {
        return "<p><a class=\"button\" href=\"" + escaped(to) + "\">"
                + (words.isEmpty() ? escaped(to.replaceAll("#.*", "")) : escaped(words.get(0))) + "</a></p>";
    }

    private String foot(String organisation) {
        var fewer = value.apply(MessageText.FEWER);
        return (words.isEmpty() ? organisation : filled(words.get(1)))
                + (fewer.isEmpty()
                        ? ""
                        : "<br><a href=\"" + escaped(fewer) + "\">"
                                + escaped(words.isEmpty() ? fewer.replaceAll("#.*", "") : words.get(2)) + "</a>");
    }

    private String list() {
        return value.apply("list")
                .lines()
                .map(line -> "<li>" + escaped(line.strip().replaceFirst("^- ", "")) + "</li>")
                .collect(Collectors.joining("", "<ul>", "</ul>"));
    }

    private String filled(String template) {
        var filled = new ArrayList<String>();
        var matcher = MessageText.PLACE.matcher(template);
        var from = 0;
        while (matcher.find()) {
            filled.add(escaped(template.substring(from, matcher.start())));
            filled.add(escaped(value.apply(matcher.group(1))));
            from = matcher.end();
        }
        filled.add(escaped(template.substring(from)));
        return String.join("", filled);
    }

    private static String escaped(String text) {
        return text.replace("&", "&amp;")
                .replace("<", "&lt;")
                .replace(">", "&gt;")
                .replace("\"", "&quot;")
                .replace("'", "&#39;");
    }

    private static String read(String name) {
        try (var in = MessageHtml.class.getResourceAsStream("messages/" + name)) {
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
