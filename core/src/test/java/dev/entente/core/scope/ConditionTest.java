package dev.entente.core.scope;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.LocalDate;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class ConditionTest {
    private static final LocalDate TODAY = LocalDate.of(2026, 11, 28);

    @ParameterizedTest
    @CsvSource({"Deck, true", "deck, true", "Bridge, true", "Deckhand, false", "De, false", "'', false"})
    void one_of_several_values_whatever_the_case(String value, boolean holds) {
        assertThat(new Condition.OneOf(List.of("DECK", "Bridge")).holds(value, TODAY))
                .isEqualTo(holds);
    }

    @ParameterizedTest
    @CsvSource({"Deck crew, true", "DECK, true", "dec, false", "On deck, false", "'', false"})
    void a_beginning_whatever_the_case(String value, boolean holds) {
        assertThat(new Condition.StartsWith("deck").holds(value, TODAY)).isEqualTo(holds);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "x"})
    void any_value_at_all(String value) {
        assertThat(new Condition.Present().holds(value, TODAY)).isTrue();
    }

    /** The same days as generalized time, as a day and as a file time. */
    @ParameterizedTest
    @CsvSource({
        "20261127235959Z, true, false",
        "20261127235959.999Z, true, false",
        "2026-11-27, true, false",
        "2026-11-27T12:00:00, true, false",
        "134402975990000000, true, false",
        "20261128000000Z, false, false",
        "2026-11-28, false, false",
        "134402976000000000, false, false",
        "20261129000000Z, false, true",
        "2026-11-29, false, true",
        "134403840000000000, false, true",
        "2026-02-30, false, false",
        "28.11.2026, false, false",
        "'', false, false"
    })
    void before_and_after_today_in_whole_days(String value, boolean before, boolean after) {
        assertThat(new Condition.Before(0).holds(value, TODAY)).as("before").isEqualTo(before);
        assertThat(new Condition.After(0).holds(value, TODAY)).as("after").isEqualTo(after);
    }

    @Test
    void days_are_counted_from_today() {
        assertThat(new Condition.Before(3).holds("2026-11-30", TODAY)).isTrue();
        assertThat(new Condition.Before(3).holds("2026-12-01", TODAY)).isFalse();
        assertThat(new Condition.After(-3).holds("2026-11-26", TODAY)).isTrue();
        assertThat(new Condition.After(-3).holds("2026-11-25", TODAY)).isFalse();
    }

    @Test
    void each_is_told_in_words() {
        assertThat(List.of(
                                new Condition.OneOf(List.of("Deck", "Bridge")),
                                new Condition.StartsWith("De"),
                                new Condition.Present(),
                                new Condition.Matches("De*"),
                                new Condition.Before(0),
                                new Condition.Before(-30),
                                new Condition.After(0),
                                new Condition.After(14))
                        .stream()
                        .map(Condition::words))
                .containsExactly(
                        "is Deck or Bridge",
                        "starts with De",
                        "has a value",
                        "matches De*",
                        "is before today",
                        "is before 30 days ago",
                        "is after today",
                        "is after 14 days from now");
    }
}
