package dev.entente.core.audit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.audit.EventKind.Type;
import java.util.HashMap;
import java.util.Map;
import java.util.Random;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.MethodSource;

/** Each kind says what it may hold and how it reads; what does not fit is refused. */
class EventCatalogueTest {
    static Stream<EventKind> kinds() {
        return EventCatalogue.all().stream();
    }

    private static Object sample(Type type) {
        return switch (type) {
            case WORD -> "word";
            case NAME -> "A name";
            case TEXT -> "a text";
            case NUMBER, ORDINAL -> 3;
            case FLAG -> true;
            case ID -> "0123456789abcdef";
            case TIME -> "2026-11-29T10:00:00Z";
            case PERSONAL -> "astrid";
        };
    }

    @ParameterizedTest
    @MethodSource("kinds")
    void every_one_has_a_name_a_sentence_and_fields_that_can_be_filled(EventKind kind) {
        assertThat(kind.name()).matches("[a-z]+\\.[a-z-]+");
        assertThat(kind.classes()).isNotEmpty();
        assertThat(kind.words(Map.of(), Map.of(), "en"))
                .as("of an event of before, with nothing in it")
                .matches("[A-Z?].*[.?]")
                .doesNotContain("{", "}");
        var data = new HashMap<String, Object>();
        var personal = new HashMap<String, String>();
        kind.fields().forEach((name, field) -> {
            if (field.type() == Type.PERSONAL) {
                personal.put(name, "astrid");
            } else {
                data.put(name, sample(field.type()));
            }
        });
        assertThat(kind.fit(data, personal)).isEqualTo(new EventKind.Fitted(data, personal));
        assertThat(kind.words(data, personal, "en")).doesNotContain("?", "{", "}");
        for (var name : kind.fields().keySet()) {
            var without = new HashMap<>(data);
            without.remove(name);
            var nobody = new HashMap<>(personal);
            nobody.remove(name);
            if (kind.fields().get(name).optional()) {
                kind.fit(without, nobody);
            } else {
                assertThatThrownBy(() -> kind.fit(without, nobody)).hasMessageContaining(name + " is missing");
            }
        }
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "order.leased | steward=shore-1;login=astrid;directory=Shore;takeOver=true"
                        + " | shore-1 took the order for astrid in Shore, taking over.",
                "method.removed | method=app-code | The person removed a method: app-code.",
                "method.removed | method=app-code;administrator=ingeborg | ingeborg removed a method: app-code.",
                "channel.tested | administrator=ingeborg;channel=mail | ingeborg tested the channel mail.",
                "channel.tested | administrator=ingeborg;channel=mail;why=refused"
                        + " | ingeborg tested the channel mail and it failed: refused.",
                "attempt.started | action=unlock | Someone started an unlock.",
                "attempt.started | action=reset;decoy=unknown-name"
                        + " | Someone started a reset. No code will be sent: unknown-name.",
                "attempt.concluded | state=completed | The attempt ended: completed.",
                "guesses.noticed | method=app-code;limit=stranger;until=2026-11-29T10:00:00Z | Strangers keep trying app-code; the"
                        + " person and the administrators were told, and it can't be used from unknown places until"
                        + " 2026-11-29T10:00:00Z.",
                "stop.ended | what=directory:fleet;administrator=ingeborg | ingeborg resumed directory:fleet."
            })
    void what_is_known_stands_in_it(String kind, String data, String sentence) {
        var values = new HashMap<String, Object>();
        for (var pair : data.split(";")) {
            var parts = pair.split("=");
            values.put(parts[0], parts[1].equals("true") ? true : parts[1]);
        }
        assertThat(EventCatalogue.find(kind).orElseThrow().words(values, Map.of(), "en"))
                .isEqualTo(sentence);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "Die Brücke prüft | die,brücke,prüft",
                "STRASSE straße | strasse",
                "電話番号を確認 | 電話,番号,を,確認",
                "ingeborg.dahl@skerry-line.test | ingeborg,dahl,skerry,line,test",
                "a 7 42 1,000 | 42,1,000",
                "ｆｌｅｅｔ | fleet",
                "… ! | ''",
                "isn't | isn't"
            })
    void words_are_those_of_any_language(String text, String words) {
        assertThat(String.join(",", Words.of(text, 60))).isEqualTo(words);
    }

    /** What is plain is taken apart in a shorter way: a letter of another kind, which is no word by itself, makes it take the long one. */
    @Test
    void plain_texts_have_the_same_words_by_the_shorter_way() {
        var random = new Random(11);
        var signs = "abZ09._:@/\\= -";
        for (var i = 0; i < 2_000; i++) {
            var text = random.ints(random.nextInt(30), 0, signs.length())
                    .mapToObj(at -> signs.substring(at, at + 1))
                    .collect(Collectors.joining());
            assertThat(Words.of(text, 5)).as(text).isEqualTo(Words.of(text + " é", 5));
        }
        assertThat(Words.of("a".repeat(90), 5)).isEqualTo(Words.of("a".repeat(90) + " é", 5));
    }

    @Test
    void an_event_is_found_by_its_kind_and_by_who_and_what_it_names() {
        assertThat(EventCatalogue.toWrite("order.refused")
                        .terms(
                                Map.of("directory", "Shore", "action", "reset", "versionBefore", "7", "says", "no"),
                                Map.of("login", "Astrid.Moe ")))
                .containsExactlyInAnyOrder(
                        "kind:order.refused",
                        "directory:shore",
                        "login:astrid.moe",
                        "word:no",
                        "name:astrid",
                        "name:moe");
        assertThat(EventKind.term("network", "x".repeat(300))).hasSize("network:".length() + 120);
        var fields = EventCatalogue.all().stream()
                .flatMap(kind -> kind.fields().keySet().stream())
                .toList();
        assertThat(fields).as("each is a field of some kind").containsAll(EventCatalogue.SOUGHT);
    }

    @Test
    void numbers_are_told_as_people_write_them() {
        var failed = EventCatalogue.find("challenge.failed").orElseThrow();
        assertThat(failed.words(Map.of("triesLeft", 1), Map.of(), "en"))
                .isEqualTo("The person typed a wrong code; 1 try left.");
        assertThat(failed.words(Map.of("triesLeft", 4L), Map.of(), "sv")).endsWith("4 tries left.");
        assertThat(EventCatalogue.find("configuration.published")
                        .orElseThrow()
                        .words(Map.of("revision", 1204, "files", 3), Map.of("administrator", "ingeborg"), "en"))
                .isEqualTo("ingeborg published revision 1204.");
    }

    @Test
    void what_was_erased_leaves_a_gap_and_no_error() {
        assertThat(EventCatalogue.find("password.set-elsewhere")
                        .orElseThrow()
                        .words(Map.of("directory", "Shore"), Map.of(), "en"))
                .isEqualTo("The password of ? in Shore was changed elsewhere.");
    }

    @Test
    void texts_are_cut_and_lose_addresses_and_numbers() {
        var broken = EventCatalogue.toWrite("channel.broken");
        var said = broken.fit(
                Map.of(
                        "channel",
                        "mail",
                        "why",
                        "550 <astrid@skerry.test>: no such user\r\ncall +44 7700 900123 or write to 'i.b@home.test' "
                                + "x".repeat(600)),
                Map.of());
        assertThat(broken.fit(Map.of("channel", "two\r\nlines" + "x".repeat(300), "why", "no"), Map.of())
                        .data()
                        .get("channel")
                        .toString())
                .startsWith("two lines")
                .hasSize(256);
        assertThat(String.valueOf(said.data().get("why")))
                .startsWith("550 <…@…>: no such user call … or write to '…@…' xxx")
                .hasSize(500)
                .endsWith("…");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "attempt.concluded | state=a word too many | is no word",
                "attempt.concluded | state="
                        + "0123456789012345678901234567890123456789012345678901234567890123456789012345678901"
                        + " | is no word",
                "device.forgotten | person=a b c d e f g | is no id",
                "publication.planned | at=tomorrow | is no time"
            })
    void what_does_not_fit_is_refused(String kind, String data, String why) {
        var parts = data.split("=");
        assertThatThrownBy(() -> EventCatalogue.toWrite(kind)
                        .fit(Map.of(parts[0], parts[1]), Map.of("administrator", "ingeborg")))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining(parts[0] + " " + why)
                .hasMessageNotContaining(parts[1]);
    }
}
