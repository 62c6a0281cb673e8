package dev.entente.core.attempt;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.attempt.AttemptStep.Ended;
import java.security.SecureRandom;
import java.util.List;
import java.util.Random;
import java.util.Set;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;

class AttemptTest {
    private static final Set<AttemptStep> GOING_ON = Set.of(
            AttemptStep.GO_ON,
            AttemptStep.PROVE_MORE,
            AttemptStep.TRY_AGAIN,
            AttemptStep.SETTLE_DONE,
            AttemptStep.SETTLE_FAILED);
    private static final Ended DONE = new Ended(Outcome.DONE, null);
    private static final Ended USED = new Ended(Outcome.REFUSED, Cause.USED_BEFORE);
    private static final Ended NO_RIGHT = new Ended(Outcome.REFUSED, Cause.NO_RIGHT);
    private static final Ended AWAY = new Ended(Outcome.FAILED, Cause.UNREACHABLE);
    private static final Ended LOST = new Ended(Outcome.UNKNOWN, Cause.LOST_TRACK);

    @Test
    void what_ended_stays_ended() {
        for (var state : AttemptState.values()) {
            for (var step : AttemptStep.values()) {
                if (state.ended() && !GOING_ON.contains(step)) {
                    assertThatThrownBy(() -> state.after(step)).isInstanceOf(IllegalStateException.class);
                }
            }
        }
    }

    @Test
    void only_what_did_not_wholly_succeed_is_tried_again_and_what_was_proved_stays_proved() {
        assertThat(AttemptState.COMPLETED.after(AttemptStep.GO_ON)).isEqualTo(AttemptState.PROVED);
        assertThatThrownBy(() -> AttemptState.COMPLETED.after(AttemptStep.TRY_AGAIN))
                .isInstanceOf(IllegalStateException.class);
        for (var state : List.of(AttemptState.INCOMPLETE, AttemptState.REFUSED, AttemptState.FAILED)) {
            assertThat(state.after(AttemptStep.TRY_AGAIN)).isEqualTo(AttemptState.PROVED);
        }
        for (var state : List.of(AttemptState.EXPIRED, AttemptState.BLOCKED)) {
            assertThatThrownBy(() -> state.after(AttemptStep.TRY_AGAIN)).isInstanceOf(IllegalStateException.class);
            assertThatThrownBy(() -> state.after(AttemptStep.GO_ON)).isInstanceOf(IllegalStateException.class);
        }
        assertThat(AttemptState.PROVED.left(null)).isEqualTo(AttemptState.EXPIRED);
        assertThat(AttemptState.PROVED.left(AttemptState.INCOMPLETE)).isEqualTo(AttemptState.INCOMPLETE);
    }

    @Test
    void nothing_is_sealed_before_it_is_proved() {
        for (var state : AttemptState.values()) {
            if (state != AttemptState.PROVED) {
                assertThatThrownBy(() -> state.after(AttemptStep.SEAL)).hasMessageContaining("does not take the step");
            }
        }
        assertThat(AttemptState.PROVED.after(AttemptStep.SEAL)).isEqualTo(AttemptState.DELIVERING);
    }

    @Test
    void it_is_told_as_done_only_when_everything_is() {
        assertThat(AttemptStep.concluding(List.of(DONE, DONE), true)).isEqualTo(AttemptStep.ALL_DONE);
        assertThat(AttemptStep.concluding(List.of(DONE, USED), true)).isEqualTo(AttemptStep.CHOOSE_AGAIN);
        assertThat(AttemptStep.concluding(List.of(DONE, USED), false)).isEqualTo(AttemptStep.SOME_DONE);
        assertThat(AttemptStep.concluding(List.of(DONE, AWAY), true)).isEqualTo(AttemptStep.SOME_DONE);
        assertThat(AttemptStep.concluding(List.of(LOST), true)).isEqualTo(AttemptStep.SOME_DONE);
        assertThat(AttemptStep.concluding(List.of(NO_RIGHT, AWAY), true)).isEqualTo(AttemptStep.NONE_DONE_REFUSED);
        assertThat(AttemptStep.concluding(List.of(AWAY), true)).isEqualTo(AttemptStep.NONE_DONE_FAILED);
        assertThat(AttemptStep.concluding(List.of(USED, NO_RIGHT), true)).isEqualTo(AttemptStep.NONE_DONE_REFUSED);
    }

    @RepeatedTest(200)
    void whatever_happens_all_done_means_all_done(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var outcomes = random.ints(1 + random.nextInt(5), 0, Outcome.values().length)
                .mapToObj(i -> Outcome.values()[i])
                .toList();
        var ended = outcomes.stream()
                .map(o -> new Ended(o, o == Outcome.DONE ? null : Cause.DIRECTORY_ERROR))
                .toList();
        assertThat(AttemptStep.concluding(ended, true) == AttemptStep.ALL_DONE)
                .as(outcomes.toString())
                .isEqualTo(outcomes.stream().allMatch(o -> o == Outcome.DONE));
    }

    @RepeatedTest(20)
    void a_reference_finds_every_single_wrong_digit_and_every_swap() {
        var digits = Reference.random(new SecureRandom()).digits();
        assertThat(Reference.parse("r " + digits.substring(0, 4) + "-" + digits.substring(4)))
                .contains(new Reference(digits));
        for (var at = 0; at < 8; at++) {
            for (var by = 1; by < 10; by++) {
                var wrong = digits.toCharArray();
                wrong[at] = (char) ('0' + (wrong[at] - '0' + by) % 10);
                assertThat(Reference.parse(new String(wrong))).as(digits).isEmpty();
            }
            if (at < 7 && digits.charAt(at) != digits.charAt(at + 1)) {
                var swapped = digits.toCharArray();
                swapped[at] = digits.charAt(at + 1);
                swapped[at + 1] = digits.charAt(at);
                assertThat(Reference.parse(new String(swapped))).as(digits).isEmpty();
            }
        }
    }

    @Test
    void a_reference_looks_like_no_code() {
        assertThat(new Reference("22914075").toString()).isEqualTo("R 2291 4075");
        assertThat(Reference.parse("2291407")).isEmpty();
        assertThat(Reference.parse("abc")).isEmpty();
    }

    @Test
    void every_cause_says_something_to_each_reader() {
        for (var cause : Cause.values()) {
            assertThat(cause.person()).endsWith(".");
            assertThat(cause.administrator()).endsWith(".");
            assertThat(cause.whatToDo()).endsWith(".");
        }
    }
}
