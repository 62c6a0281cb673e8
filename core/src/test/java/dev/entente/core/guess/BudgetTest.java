package dev.entente.core.guess;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.guess.Budget.Narrower;
import dev.entente.core.guess.Budget.Try;
import dev.entente.core.verify.OneTimeCode;
import dev.entente.core.verify.appcode.AppCode;
import dev.entente.core.verify.recoverycode.RecoveryCode;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Strangers with any number of addresses, attempts and spellings stay below the bounds, and keep out nobody who is known. */
class BudgetTest {
    private static final int DAY = 86_400;
    private final Ledger ledger = new Ledger();

    static List<GuessingSpace> spaces() {
        return List.of(
                OneTimeCode.SHORT_SPACE,
                AppCode.TWO_SPACE,
                RecoveryCode.space("abcde-fgh23"),
                new GuessingSpace(1e7, 1),
                new GuessingSpace(1e9, 3));
    }

    private boolean guess(GuessingSpace space, Familiarity from, String network) {
        return ledger.take(Budget.charges(new Try("astrid", "a-method", space, from, network, Optional.empty()), 1));
    }

    /** What a try from there takes of the day's and the year's budgets. */
    private static List<Charge> windows(GuessingSpace space, Map.Entry<Familiarity, Integer> at) {
        var one = new Try("astrid", "m", space, at.getKey(), "network " + at.getValue(), Optional.empty());
        return Budget.charges(one, 1).stream().filter(c -> c.window() != null).toList();
    }

    @ParameterizedTest
    @MethodSource("spaces")
    void in_any_day_and_any_year_the_chance_stays_below_its_bound(GuessingSpace space) {
        var random = new Random(7);
        var charges = new HashMap<Map.Entry<Familiarity, Integer>, List<Charge>>();
        var day = new ArrayDeque<long[]>();
        var year = new ArrayDeque<long[]>();
        var spentInDay = 0.0;
        var spentInYear = 0.0;
        // Two years in steps of hours; each success sets the failures in a row back, which is the worst there can be.
        for (var hour = 0; hour < 2 * 365 * 24; hour++) {
            ledger.seconds = hour * 3600L + random.nextInt(3600);
            var tries = 0;
            for (var i = 0; i < 12; i++) {
                var from = random.nextInt(4) == 0 ? Familiarity.NETWORK : Familiarity.NONE;
                var place = Map.entry(from, random.nextInt(1000));
                tries += ledger.take(charges.computeIfAbsent(place, at -> windows(space, at))) ? 1 : 0;
            }
            for (var window : List.of(day, year)) {
                window.add(new long[] {hour, tries});
            }
            spentInDay += tries * space.chance();
            spentInYear += tries * space.chance();
            while (day.peek()[0] <= hour - 24) {
                spentInDay -= day.remove()[1] * space.chance();
            }
            while (year.peek()[0] <= hour - 365 * 24) {
                spentInYear -= year.remove()[1] * space.chance();
            }
            assertThat(spentInDay).isLessThan(Budget.ACCOUNT_DAY);
            assertThat(spentInYear).isLessThan(Budget.ACCOUNT_YEAR);
        }
    }

    @Test
    void six_digits_alone_are_worth_no_try_at_all_from_where_strangers_may_be() {
        assertThat(guess(AppCode.ONE_SPACE, Familiarity.NONE, "x")).isFalse();
        assertThat(guess(AppCode.ONE_SPACE, Familiarity.NETWORK, "x")).isFalse();
        assertThat(guess(AppCode.ONE_SPACE, Familiarity.BROWSER, "x")).isTrue();
    }

    @Test
    void failures_in_a_row_are_a_hundred_at_most_from_everywhere_together() {
        var failures = 0;
        for (var day = 0; day < 400; day++) {
            ledger.seconds = (long) day * DAY;
            for (var from : Familiarity.values()) {
                for (var i = 0; i < 30; i++) {
                    failures += guess(AppCode.TWO_SPACE, from, "network " + i) ? 1 : 0;
                }
            }
        }
        assertThat(failures).isEqualTo(Budget.IN_A_ROW);
    }

    @Test
    void one_network_spends_little_and_what_strangers_spend_is_not_taken_from_known_places() {
        var spent = 0;
        for (var i = 0; i < 1000; i++) {
            spent += guess(AppCode.TWO_SPACE, Familiarity.NONE, "stranger") ? 1 : 0;
        }
        assertThat(spent).isEqualTo(Budget.FROM_ONE_NETWORK);
        assertThat(guess(AppCode.TWO_SPACE, Familiarity.NONE, "elsewhere")).isTrue();
        for (var i = 0; i < 1000; i++) {
            guess(AppCode.TWO_SPACE, Familiarity.NONE, "stranger " + i);
        }
        assertThat(guess(AppCode.TWO_SPACE, Familiarity.NONE, "elsewhere")).isFalse();
        assertThat(guess(AppCode.TWO_SPACE, Familiarity.NETWORK, "office")).isTrue();
        assertThat(guess(AppCode.ONE_SPACE, Familiarity.BROWSER, "stranger")).isTrue();
    }

    @Test
    void over_all_accounts_one_network_stays_below_its_bound() {
        var spent = 0.0;
        for (var person = 0; person < 200_000; person++) {
            if (ledger.take(Budget.charges(
                    new Try(
                            "person " + person,
                            "email-code",
                            new GuessingSpace(1e7, 1),
                            Familiarity.NONE,
                            "stranger",
                            Optional.empty()),
                    1))) {
                spent += 1e-7;
            }
        }
        // Half of it in each of two windows that a day may touch.
        assertThat(2 * spent).isLessThan(Budget.NETWORK_DAY).isGreaterThan(Budget.NETWORK_DAY * 0.89);
    }

    @Test
    void a_code_that_is_sent_takes_nothing_from_any_other_method() {
        var narrow = Optional.of(new Narrower(3, Duration.ofHours(1)));
        var space = OneTimeCode.SHORT_SPACE;
        for (var i = 0; i < 100; i++) {
            ledger.take(Budget.own(new Try("astrid", "email-code", space, Familiarity.NONE, "office", narrow), 5));
        }
        var app = new Try("astrid", "app-code", AppCode.TWO_SPACE, Familiarity.NONE, "office", narrow);
        assertThat(ledger.take(Budget.charges(app, 1))).isTrue();
        assertThat(Budget.shared(app, 1).stream().map(Charge::limit))
                .containsExactlyInAnyOrder("guess-network", "guess-from", Budget.POLICY);
        // Nor do codes on their way exceed what one network may have, when all of that was used up before.
        var outstanding = 1000 * 5 * space.chance();
        assertThat(outstanding).isLessThanOrEqualTo(Budget.NETWORK_DAY / 2 / 10);
    }

    @Test
    void a_policy_can_only_narrow_it() {
        var narrow = Optional.of(new Narrower(3, Duration.ofHours(1)));
        var wide = Optional.of(new Narrower(1000, Duration.ofHours(1)));
        for (var narrower : List.of(narrow, wide)) {
            var taken = new HashSet<Integer>();
            for (var i = 0; i < 200; i++) {
                if (ledger.take(Budget.charges(
                        new Try(narrower.toString(), "m", AppCode.TWO_SPACE, Familiarity.NONE, "n" + i, narrower),
                        1))) {
                    taken.add(i);
                }
            }
            assertThat(taken).hasSize(narrower.equals(narrow) ? 3 : Budget.inARow(Familiarity.NONE, AppCode.TWO_SPACE));
        }
    }

    @Test
    void what_others_may_know_is_closed_after_a_few_failures_in_a_row_for_each_kind_of_place() {
        var knowable = new GuessingSpace(1e12, 1, true);
        for (var from : Familiarity.values()) {
            var taken = 0;
            for (var i = 0; i < 200; i++) {
                taken += ledger.take(Budget.charges(
                                new Try("somebody", "questions", knowable, from, "n" + i, Optional.empty()), 1))
                        ? 1
                        : 0;
            }
            assertThat(taken).as(from.label()).isEqualTo(Budget.KNOWABLE_IN_A_ROW);
        }
    }

    @Test
    void what_nobody_guesses_costs_nothing() {
        assertThat(Set.of(OneTimeCode.LONG_SPACE, RecoveryCode.space("")))
                .allSatisfy(space -> assertThat(
                                Budget.charges(new Try("a", "m", space, Familiarity.NONE, "n", Optional.empty()), 1))
                        .isEmpty());
    }
}
