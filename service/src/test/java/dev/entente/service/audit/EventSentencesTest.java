package dev.entente.service.audit;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.MethodSource;

/** Every event is told in a sentence, not by its kind. */
class EventSentencesTest {
    private static final Pattern WRITTEN =
            Pattern.compile("NewEvent\\.(?:of|operation|administration)\\(\\s*\"([a-z.-]+)\"");
    private static final Pattern NAMED = Pattern.compile("\"((?:order|notification|sync|preflight)\\.[a-z-]+)\"");

    /** As the sources write them. */
    static Stream<String> kinds() {
        // The outcomes of orders are put together from their names.
        var kinds = new TreeSet<>(List.of("order.done", "order.refused", "order.failed", "order.unknown"));
        try (var files = Files.walk(Path.of("src/main/java"))) {
            for (var file : files.filter(f -> f.toString().endsWith(".java"))
                    .filter(f -> !f.endsWith("EventSentences.java"))
                    .toList()) {
                var text = Files.readString(file);
                for (var pattern : new Pattern[] {WRITTEN, NAMED}) {
                    var found = pattern.matcher(text);
                    while (found.find()) {
                        kinds.add(found.group(1));
                    }
                }
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return kinds.stream();
    }

    @Test
    void the_sources_write_many_kinds() {
        assertThat(kinds()).hasSizeGreaterThan(60).contains("attempt.started", "notification.sent", "stop.ended");
    }

    @ParameterizedTest
    @MethodSource("kinds")
    void every_kind_that_is_written_has_a_sentence(String kind) {
        assertThat(EventSentences.of(kind, Map.of(), Map.of()))
                .isNotEqualTo(kind)
                .matches("[A-Z?].*[.?]");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "order.leased | steward=shore-1;login=astrid;directory=Shore;takeOver=true"
                        + " | shore-1 took the order for astrid in Shore, taking over.",
                "order.leased | login=astrid;directory=Shore;takeOver=false | A steward took the order for astrid in Shore.",
                "method.removed | method=app-code | The person removed a method: app-code.",
                "method.removed | method=app-code;administrator=ingeborg | ingeborg removed a method: app-code.",
                "channel.tested | administrator=ingeborg;channel=mail | ingeborg tested the channel mail.",
                "channel.tested | administrator=ingeborg;channel=mail;why=refused"
                        + " | ingeborg tested the channel mail and it failed: refused.",
                "attempt.concluded | state=completed | The attempt ended: completed.",
                "stop.ended | what=directory:fleet;administrator=ingeborg | ingeborg resumed directory:fleet."
            })
    void what_is_known_stands_in_it(String kind, String data, String sentence) {
        var values = new java.util.HashMap<String, Object>();
        for (var pair : data.split(";")) {
            var parts = pair.split("=");
            values.put(
                    parts[0],
                    switch (parts[1]) {
                        case "true" -> true;
                        case "false" -> false;
                        default -> parts[1];
                    });
        }
        assertThat(EventSentences.of(kind, values, Map.of())).isEqualTo(sentence);
    }

    @Test
    void what_was_erased_leaves_a_gap_and_no_error() {
        assertThat(EventSentences.of("password.set-elsewhere", Map.of("directory", "Shore"), Map.of()))
                .isEqualTo("The password of ? in Shore was changed elsewhere.");
    }
}
