package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.EnumSource;

/** Texts of messages, filled in for whoever reads them. */
class MessageTextTest {
    @ParameterizedTest
    @EnumSource(Message.class)
    void what_a_message_comes_with_would_be_taken_as_a_file(Message message) {
        var text = message.usual().texts().get("en").strip().indent(4);
        var file = "message: " + message.label() + "\nsubject:\n  en: \""
                + message.usual().subjects().get("en") + "\"\ntext:\n  en: |\n" + text;
        var read = ConfigurationReader.read(Map.of("messages/" + message.label() + ".yaml", file), null);
        assertThat(read.problems()).isEmpty();
        var said = read.configuration().orElseThrow().text(message);
        assertThat(said.texts().get("en"))
                .isEqualTo(message.usual().texts().get("en").strip());
        assertThat(said.subjects()).isEqualTo(message.usual().subjects());
    }

    @ParameterizedTest
    @EnumSource(Message.class)
    void nothing_in_braces_is_left(Message message) {
        var filled = message.usual().fill("en", Map.of(), Map.of());
        assertThat(filled.subject() + filled.text()).doesNotContain("{", "}");
    }

    @Test
    void what_is_filled_in_is_not_looked_at_again_and_begins_no_line() {
        var text =
                new MessageText(Map.of("en", "For {name}"), Map.of("en", "{name} of {attribute.department}: {code}."));
        var filled = text.fill(
                null,
                Map.of("name", "{code}\r\nBcc: everybody@skerry.test", "code", "$1\\0000 0000"),
                Map.of("department", Set.of("Deck {name}")));
        assertThat(filled.subject()).isEqualTo("For {code} Bcc: everybody@skerry.test");
        assertThat(filled.text()).isEqualTo("{code} Bcc: everybody@skerry.test of Deck {name}: $1\\0000 0000.\n");
    }

    @ParameterizedTest
    @CsvSource(
            nullValues = "-",
            value = {
                "nb, nb",
                "nb-NO, nb",
                "NB-no, nb",
                "'sv, nb;q=0.8, en;q=0.5', nb",
                "fr, en",
                "'*', en",
                "-, en",
                "'', en",
                "'nb;q=seven', en",
                "'not a language at all;;;', en"
            })
    void the_language_is_what_suits_best_and_else_english(String wanted, String chosen) {
        assertThat(Languages.choose(List.of("en", "nb"), wanted)).isEqualTo(chosen);
    }

    @Test
    void without_english_it_is_the_first_and_an_endless_wish_is_none() {
        assertThat(Languages.choose(List.of("nn", "nb"), "de")).isEqualTo("nb");
        assertThat(Languages.choose(List.of("de", "nb"), "nb" + " ".repeat(300)))
                .isEqualTo("de");
        assertThat(Languages.wish("nb")).isEqualTo("nb");
        assertThat(Languages.wish("nb;q=seven")).isNull();
        assertThat(Languages.wish(null)).isNull();
    }
}
