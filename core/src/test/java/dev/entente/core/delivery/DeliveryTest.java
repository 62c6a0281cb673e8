package dev.entente.core.delivery;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Random;
import java.util.UUID;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

class DeliveryTest {
    private static final Instant START = Instant.parse("2026-11-28T08:00:00Z");
    private static final Delivery.Spans SPANS = new Delivery.Spans(Duration.ofSeconds(20), Duration.ofSeconds(10));
    private static final UUID ONE = UUID.randomUUID();
    private static final UUID OTHER = UUID.randomUUID();
    private static final Delivery.Noted NOTED = new Delivery.Noted("one", "7");

    private static Instant after(int seconds) {
        return START.plusSeconds(seconds);
    }

    private static Delivery waiting() {
        return Delivery.waiting(after(600), true);
    }

    private static Delivery leased() {
        return waiting().lease(ONE, START, SPANS).orElseThrow();
    }

    private static Delivery begun() {
        return leased().begin(ONE, 1, NOTED, after(1), SPANS).orElseThrow();
    }

    @Test
    void nobody_gets_what_another_holds_until_lease_and_timeout_are_over() {
        assertThat(leased().lease(OTHER, after(30), SPANS)).isEmpty();
        var taken = leased().lease(OTHER, after(31), SPANS).orElseThrow();
        assertThat(taken.epoch()).isEqualTo(2);
        assertThat(taken.steward()).isEqualTo(OTHER);
        assertThat(begun().lease(OTHER, after(31), SPANS)).as("it began anew").isEmpty();
        assertThat(begun().lease(OTHER, after(32), SPANS).orElseThrow().noted())
                .as("who takes over learns what was there before")
                .isEqualTo(NOTED);
    }

    @Test
    void nobody_gets_it_a_fourth_time_or_after_its_time() {
        var third = leased().lease(OTHER, after(31), SPANS)
                .flatMap(d -> d.lease(ONE, after(62), SPANS))
                .orElseThrow();
        assertThat(third.epoch()).isEqualTo(Delivery.MOST_EPOCHS);
        assertThat(third.lease(OTHER, after(200), SPANS)).isEmpty();
        assertThat(waiting().lease(ONE, after(600), SPANS)).isEmpty();
    }

    @Test
    void only_its_holder_begins_under_its_epoch_within_the_lease_and_once() {
        assertThat(leased().begin(OTHER, 1, NOTED, after(1), SPANS)).isEmpty();
        assertThat(leased().begin(ONE, 2, NOTED, after(1), SPANS)).isEmpty();
        assertThat(leased().begin(ONE, 1, NOTED, after(20), SPANS)).isEmpty();
        assertThat(begun().begin(ONE, 1, NOTED, after(2), SPANS)).isEmpty();
    }

    @ParameterizedTest
    @EnumSource(Outcome.class)
    void the_holders_receipt_ends_it_and_the_same_once_more_changes_nothing(Outcome outcome) {
        var ended = begun().receive(ONE, 1, outcome, Cause.NO_RIGHT, "receipt", after(2));
        assertThat(ended.effect()).isEqualTo(Delivery.Effect.ENDED);
        assertThat(ended.delivery().state().outcome()).isEqualTo(outcome);
        assertThat(ended.delivery().receive(ONE, 1, outcome, Cause.NO_RIGHT, "receipt", after(3)))
                .isEqualTo(new Delivery.Received(Delivery.Effect.REPEATED, ended.delivery()));
        assertThat(ended.delivery().receive(ONE, 1, Outcome.DONE, null, "another", after(3)))
                .isEqualTo(new Delivery.Received(Delivery.Effect.IGNORED, ended.delivery()));
    }

    @Test
    void a_late_receipt_of_whoever_had_it_before_changes_nothing() {
        var taken = begun().lease(OTHER, after(40), SPANS).orElseThrow();
        assertThat(taken.receive(ONE, 1, Outcome.DONE, null, "late", after(41)))
                .isEqualTo(new Delivery.Received(Delivery.Effect.IGNORED, taken));
    }

    @Test
    void what_nobody_can_carry_out_fails_if_nothing_was_begun_and_is_unknown_otherwise() {
        assertThat(waiting().giveUp(null, after(599))).isEmpty();
        assertThat(waiting().giveUp(null, after(601)).orElseThrow().cause()).isEqualTo(Cause.EXPIRED);
        assertThat(leased().giveUp(null, after(40)))
                .as("another may still take it over")
                .isEmpty();
        assertThat(begun().giveUp(null, after(700)).orElseThrow().state()).isEqualTo(DeliveryState.UNKNOWN);
    }

    @Test
    void what_is_stopped_or_suspended_fails_at_once_unless_it_was_begun() {
        for (var hindrance : List.of(Cause.STOPPED, Cause.SUSPENDED)) {
            for (var early : List.of(waiting(), leased())) {
                var ended = early.giveUp(hindrance, after(1)).orElseThrow();
                assertThat(ended.state()).isEqualTo(DeliveryState.FAILED);
                assertThat(ended.cause()).isEqualTo(hindrance);
            }
            assertThat(begun().giveUp(hindrance, after(2))).isEmpty();
        }
    }

    @Test
    void a_later_look_settles_what_was_unknown_and_never_the_other_way_round() {
        var unknown = begun().receive(ONE, 1, Outcome.UNKNOWN, Cause.LOST_TRACK, "r", after(5))
                .delivery();
        assertThat(unknown.look(OTHER, after(25), SPANS))
                .as("something may still land")
                .isEmpty();
        var looked = unknown.look(OTHER, after(26), SPANS).orElseThrow();
        assertThat(looked.receive(OTHER, 2, Outcome.UNKNOWN, Cause.LOST_TRACK, "s", after(27))
                        .effect())
                .isEqualTo(Delivery.Effect.STILL_UNKNOWN);
        var settled = looked.receive(OTHER, 2, Outcome.DONE, null, "s", after(27));
        assertThat(settled.effect()).isEqualTo(Delivery.Effect.SETTLED);
        assertThat(settled.delivery().endedAt()).isEqualTo(after(5));
        assertThat(settled.delivery().look(ONE, after(200), SPANS)).isEmpty();
    }

    /** Whatever two stewards and the clock do: at most one of them may write at a time, and an end is an end. */
    @RepeatedTest(200)
    void never_may_two_write_at_once(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var stewards = List.of(ONE, OTHER);
        var now = START;
        var delivery = waiting();
        for (var step = 0; step < 40; step++) {
            now = now.plusMillis(random.nextInt(12_000));
            var who = stewards.get(random.nextInt(2));
            var before = delivery;
            var next = switch (random.nextInt(4)) {
                case 0 -> delivery.lease(who, now, SPANS);
                case 1 -> delivery.begin(who, 1 + random.nextInt(3), NOTED, now, SPANS);
                case 2 -> delivery.giveUp(random.nextInt(20) == 0 ? Cause.STOPPED : null, now);
                default -> delivery.look(who, now, SPANS);
            };
            delivery = next.orElse(delivery);
            if (before.state() == DeliveryState.BEGUN && delivery.state() == DeliveryState.LEASED) {
                assertThat(before.heldUntil())
                        .as("the one before can write no more")
                        .isBefore(now);
            }
            assertThat(delivery.epoch()).isGreaterThanOrEqualTo(before.epoch());
            if (before.state().ended()) {
                assertThat(delivery.state()).isEqualTo(before.state());
            }
            if (delivery.state() == DeliveryState.FAILED) {
                assertThat(delivery.begunAt())
                        .as("failed means that nothing was begun")
                        .isNull();
            }
        }
    }
}
