package dev.entente.core.verify.questions;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.policy.ConfigurationReader;
import dev.entente.core.verify.questions.QuestionSet.Chosen;
import dev.entente.core.verify.questions.QuestionSet.Fault;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;

/** What answers have to be, how they are compared, and what a file may say. */
class QuestionSetTest {
    private static final QuestionSet SET = QuestionSet.usual();

    private static List<Chosen> three(String answer) {
        return List.of(
                new Chosen("first-teacher", null, answer),
                new Chosen("first-street", null, "Quay Lane"),
                new Chosen("dream-trip", null, "Jan Mayen"));
    }

    @Test
    void how_an_answer_is_written_matters_little() {
        assertThat(SET.plain("  St. Olav's-Gate  ")).isEqualTo("st olav s gate");
        assertThat(SET.plain("ＳＴ\u00a0Olav’s gate")).isEqualTo("st olav s gate");
        assertThat(SET.plain("Å")).isEqualTo(SET.plain("A\u030a"));
        assertThat(QuestionSet.plain("St Olav", true)).isEqualTo("St Olav");
        assertThat(SET.plain("x".repeat(101))).isEmpty();
        assertThat(SET.plain(null)).isEmpty();
    }

    @Test
    void answers_are_refused_one_by_one() {
        assertThat(SET.fault(three("Mrs Halvorsen"), Set.of())).isEmpty();
        assertThat(SET.fault(three("ab"), Set.of())).map(Fault::code).contains("answer-too-short");
        assertThat(SET.fault(three("My teacher"), Set.of())).map(Fault::code).contains("answer-in-question");
        assertThat(SET.fault(three("quay-lane"), Set.of())).map(Fault::code).contains("answer-twice");
        assertThat(SET.fault(three("Mrs Halvorsen").subList(0, 2), Set.of()))
                .map(Fault::code)
                .contains("too-few-questions");
        assertThat(SET.fault(
                        List.of(
                                new Chosen("first-teacher", null, "Mrs Halvorsen"),
                                new Chosen(null, "Who taught me to sail?", "Uncle Nils"),
                                new Chosen("dream-trip", null, "Jan Mayen")),
                        Set.of()))
                .map(Fault::code)
                .contains("too-many-own-questions");
        assertThat(SET.fault(
                        List.of(
                                new Chosen("first-teacher", null, "Mrs Halvorsen"),
                                new Chosen("no-such", null, "Uncle Nils"),
                                new Chosen("dream-trip", null, "Jan Mayen")),
                        Set.of()))
                .contains(new Fault(1, "unknown-question", "Choose a question."));
        assertThat(new Chosen("first-teacher", null, "Mrs Halvorsen").toString())
                .doesNotContain("Halvorsen");
    }

    @Test
    void a_number_is_as_long_as_it_has_to_be_and_not_one_digit_over_and_over() {
        var pin = new QuestionSet(
                1,
                1,
                0,
                3,
                false,
                false,
                Set.of(),
                Map.of("pin", new QuestionSet.Question(6, Map.of("en", "Your PIN"))),
                null);
        assertThat(pin.fault(List.of(new Chosen("pin", null, "830164")), Set.of()))
                .isEmpty();
        for (var wrong : List.of("83016", "111111", "121212", "83o164", "")) {
            assertThat(pin.fault(List.of(new Chosen("pin", null, wrong)), Set.of()))
                    .as(wrong)
                    .isPresent();
        }
    }

    @Test
    void a_file_that_asks_for_more_than_there_is_is_refused() {
        for (var wrong : Map.of(
                        "register: 2\nask: 3\n", "ask is above register",
                        "register: 3\nown: 4\n", "own is above register",
                        "register: 9\n", "too few questions",
                        "questions: { a: { texts: {} } }\nregister: 1\nask: 1\n", "\"texts\" is missing",
                        "questions: { A_b: { texts: { en: Who? } } }\nregister: 1\nask: 1\n", "lower-case letters",
                        "shortest-answer: 0\n", "shortest-answer")
                .entrySet()) {
            assertThat(ConfigurationReader.read(Map.of("questions.yaml", wrong.getKey()), null)
                            .problems())
                    .as(wrong.getKey())
                    .anyMatch(p -> (p.pointer() + " " + p.message()).contains(wrong.getValue()));
        }
        var read = ConfigurationReader.read(
                        Map.of(
                                "questions.yaml",
                                "register: 4\nask: 3\nown: 2\ncase-matters: true\nblocked-answers: [Sea, St. Olav]\n"),
                        null)
                .configuration()
                .orElseThrow()
                .questions();
        assertThat(List.of(read.register(), read.ask(), read.own())).containsExactly(4, 3, 2);
        assertThat(read.blocked()).containsExactlyInAnyOrder("sea", "st olav");
        assertThat(read.questions()).hasSize(8);
    }
}
