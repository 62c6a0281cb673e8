package dev.entente.core.notice;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.policy.Message;
import dev.entente.core.policy.Occasion;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.Locale;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * The lists in {@code docs/notices.md} and the names in {@code docs/schema/message.json} are made from the catalogue. With
 * {@code -Dentente.regenerate=true} this writes them anew.
 */
class NoticesPageTest {
    private static final Path DOCS = Path.of("").toAbsolutePath().getParent().resolve("docs");
    private static final String LISTS = "## The lists\n";
    private static final boolean REGENERATE = Boolean.getBoolean("entente.regenerate");

    private static String lists() {
        var text = new StringBuilder(
                "\n### Messages\n\n| message | to | news | can be done without | in braces |\n|---|---|---|---|---|\n");
        for (var message : Message.values()) {
            text.append("| `%s` | %s | %s | %s | %s |%n"
                    .formatted(
                            message.label(),
                            message.audience().name().toLowerCase(Locale.ROOT),
                            message.news() ? "yes" : "no",
                            message.dispensable().map(Occasion::label).orElse("no"),
                            message.placeholders().stream()
                                    .map(place -> "`" + place + "`"
                                            + (message.needed().contains(place) ? " (needed)" : ""))
                                    .collect(Collectors.joining(", "))));
        }
        text.append("\n### What administrators choose from\n\n| name | what | usually |\n|---|---|---|\n");
        for (var concern : Concern.values()) {
            text.append("| `%s` | %s | %s |%n"
                    .formatted(concern.label(), concern.words(), concern.usual().label()));
        }
        text.append("\n### What Today can find\n\n| finding | belongs to |\n|---|---|\n");
        for (var finding : Finding.values()) {
            text.append("| `%s` | `%s` |%n"
                    .formatted(finding.label(), finding.concern().label()));
        }
        return text.toString();
    }

    @Test
    void the_page_lists_what_there_is() throws IOException {
        var file = DOCS.resolve("notices.md");
        var page = Files.readString(file);
        var expected = page.substring(0, page.indexOf(LISTS) + LISTS.length()) + lists();
        if (REGENERATE) {
            Files.writeString(file, expected);
        }
        assertThat(Files.readString(file)).isEqualTo(expected);
    }

    @Test
    void the_schema_knows_every_message() throws IOException {
        var file = DOCS.resolve("schema/message.json");
        var schema = (ObjectNode) JsonMapper.shared().readTree(Files.readString(file));
        var names = (ArrayNode) schema.at("/properties/message/enum");
        var expected = Arrays.stream(Message.values()).map(Message::label).toList();
        if (REGENERATE) {
            names.removeAll();
            expected.forEach(names::add);
            Files.writeString(
                    file, JsonMapper.shared().writerWithDefaultPrettyPrinter().writeValueAsString(schema) + "\n");
        }
        assertThat(JsonMapper.shared()
                        .readTree(Files.readString(file))
                        .at("/properties/message/enum")
                        .valueStream()
                        .map(name -> name.asString()))
                .containsExactlyElementsOf(expected);
    }
}
