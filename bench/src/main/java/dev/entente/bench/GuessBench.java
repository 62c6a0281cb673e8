package dev.entente.bench;

import dev.entente.core.guess.Budget;
import dev.entente.core.guess.Budget.Try;
import dev.entente.core.guess.Charge;
import dev.entente.core.guess.Familiarity;
import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.AnsweredElsewhere;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.OneTimeCode;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.appcode.AppCode;
import dev.entente.core.verify.knowndevice.KnownDeviceVerifier;
import dev.entente.core.verify.passkey.PasskeyVerifier;
import dev.entente.core.verify.questions.QuestionSet;
import dev.entente.core.verify.questions.QuestionsVerifier;
import dev.entente.core.verify.recoverycode.RecoveryCode;
import java.security.SecureRandom;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;

/**
 * What guessing brings strangers, and whom it keeps out: the budgets of {@code core.guess} met by the worst that their rules
 * let through, counted try by try. Nothing is measured in time; the same numbers come out wherever it runs.
 */
public final class GuessBench {
    private static final int DAY = 86_400;
    private static final int YEAR = 365 * DAY;
    private static final int OWNERS = 200;
    private static final int ADDRESSES = 1000;

    private GuessBench() {}

    /** Counts in memory as the service counts in its database: all of a charge or nothing. */
    private static final class Ledger {
        private final Map<String, Long> used = new HashMap<>();
        private long seconds;

        boolean take(List<Charge> charges) {
            for (var charge : charges) {
                if (used.getOrDefault(key(charge), 0L) + charge.amount() > charge.max()) {
                    return false;
                }
            }
            charges.forEach(charge -> used.merge(key(charge), charge.amount(), Long::sum));
            return true;
        }

        private String key(Charge charge) {
            var window = charge.window() == null ? 0 : seconds / charge.window().toSeconds();
            return charge.limit() + "|" + charge.subject() + "|" + charge.window() + "|" + window;
        }
    }

    /** Runs all of it; {@code quick} tries a tenth as often. */
    public static void main(String[] arguments) {
        var quick = List.of(arguments).contains("quick");
        var spaces = new LinkedHashMap<String, GuessingSpace>();
        spaces.put("email-code, 8 digits", OneTimeCode.SHORT_SPACE);
        spaces.put("email-code, 16 characters", OneTimeCode.LONG_SPACE);
        spaces.put("app-code, one code", AppCode.ONE_SPACE);
        spaces.put("app-code, two in a row", AppCode.TWO_SPACE);
        spaces.put("recovery-code, 10 characters", RecoveryCode.space("abcde-fgh23"));
        spaces.put("recovery-code, 14 characters", RecoveryCode.space("abcd-efg2-345h"));
        var questions = new QuestionsVerifier(null, QuestionSet::usual);
        spaces.put(
                "questions, two after another proof",
                questions.space(Verifier.Asked.imagined(Familiarity.NONE), Answer.typed("")));
        var elsewhere = new AnsweredElsewhere(Method.of("email-link"), 2, true, null, new SecureRandom());
        spaces.put("agreed to elsewhere", elsewhere.space(Verifier.Asked.imagined(Familiarity.NONE), Answer.typed("")));
        var device = new KnownDeviceVerifier(null);
        spaces.put("known-device", device.space(Verifier.Asked.imagined(Familiarity.NONE), Answer.typed("")));
        var signed = new PasskeyVerifier(null, null, null);
        spaces.put("passkey, security-key", signed.space(Verifier.Asked.imagined(Familiarity.NONE), Answer.typed("")));
        System.out.printf(
                "%-30s %10s %14s %14s %14s%n", "method", "chance", "tries a day", "chance a day", "chance a year");
        var worstDay = 0.0;
        var worstYear = 0.0;
        for (var one : spaces.entrySet()) {
            var space = one.getValue();
            if (space.beyondGuessing()) {
                System.out.printf(
                        "%-30s %10.1e %14s %14s %14s%n", one.getKey(), space.chance(), "not counted", "-", "-");
                continue;
            }
            var day = most(space, DAY, 60);
            var year = most(space, YEAR, 3600) * space.chance();
            System.out.printf(
                    "%-30s %10.1e %14d %14.1e %14.1e%n", one.getKey(), space.chance(), day, day * space.chance(), year);
            worstDay = Math.max(worstDay, day * space.chance());
            worstYear = Math.max(worstYear, year);
        }
        var everybody = acrossAccounts();
        System.out.printf("one network against 200,000 accounts in a day: %.2e%n", everybody);
        var keptOut = keptOut(quick);
        System.out.printf(
                "guess worst-day=%.2e worst-year=%.2e all-accounts-day=%.2e owner-kept-out=%.3f%n",
                worstDay, worstYear, everybody, keptOut);
    }

    /**
     * The most tries that strangers get against one account in a span of that length, from as many networks as they like, in
     * the person's own network too, beginning just before a new window does, while the person gets in all the time and so sets
     * the failures in a row back.
     */
    private static long most(GuessingSpace space, int span, int step) {
        var ledger = new Ledger();
        var tries = 0L;
        var begin = 10L * YEAR - step;
        for (var at = begin; at < begin + span; at += step) {
            ledger.seconds = at;
            // What is left is spent at once, in portions that get smaller.
            for (var portion = 100_000_000; portion > 0; portion /= 10) {
                for (var from : List.of(Familiarity.NONE, Familiarity.NETWORK)) {
                    // With a network of its own for each try, no limit of a network is ever met; and a person who gets
                    // in all
                    // the time sets the failures in a row back.
                    var one = new Try("owner", "m", space, from, null, Optional.empty());
                    var charges = Budget.charges(one, portion).stream()
                            .filter(c -> c.window() != null)
                            .toList();
                    while (ledger.take(charges)) {
                        tries += portion;
                    }
                }
            }
        }
        return tries;
    }

    /** The chance of one network against as many accounts as it likes, around the end of a window. */
    private static double acrossAccounts() {
        var ledger = new Ledger();
        var chance = 0.0;
        for (var at : new long[] {10L * YEAR - 1, 10L * YEAR}) {
            ledger.seconds = at;
            for (var person = 0; person < 200_000; person++) {
                var one = new Try(
                        "person " + person,
                        "email-code",
                        OneTimeCode.SHORT_SPACE,
                        Familiarity.NONE,
                        "stranger",
                        Optional.empty());
                if (ledger.take(Budget.charges(one, 1))) {
                    chance += OneTimeCode.SHORT_SPACE.chance();
                }
            }
        }
        return chance;
    }

    /**
     * A day in which a thousand addresses guess at every owner's account whenever they may, and each owner needs to get in once,
     * with a browser known before, by a code in their mailbox or of their app.
     */
    private static double keptOut(boolean quick) {
        var random = new Random(11);
        var ledger = new Ledger();
        var when = new int[OWNERS];
        for (var owner = 0; owner < OWNERS; owner++) {
            when[owner] = random.nextInt(24);
        }
        var refused = 0;
        var refusedElsewhere = 0;
        for (var hour = 0; hour < 24; hour++) {
            ledger.seconds = 10L * YEAR + hour * 3600L;
            for (var address = 0; address < ADDRESSES / (quick ? 10 : 1); address++) {
                for (var owner = 0; owner < OWNERS; owner++) {
                    tried(ledger, owner, "email-code", OneTimeCode.SHORT_SPACE, Familiarity.NONE, "address " + address);
                    tried(ledger, owner, "app-code", AppCode.TWO_SPACE, Familiarity.NONE, "address " + address);
                }
            }
            for (var owner = 0; owner < OWNERS; owner++) {
                if (when[owner] == hour) {
                    var home = "home " + owner;
                    var byMail = tried(ledger, owner, "email-code", OneTimeCode.SHORT_SPACE, Familiarity.BROWSER, home);
                    var byApp = tried(ledger, owner, "app-code", AppCode.ONE_SPACE, Familiarity.BROWSER, home);
                    refused += byMail && byApp ? 0 : 1;
                    // A code to the mailbox is never withheld elsewhere, it is a longer one then.
                    var longer = tried(
                            ledger, owner, "email-code", OneTimeCode.LONG_SPACE, Familiarity.NONE, "hotel " + owner);
                    refusedElsewhere += longer ? 0 : 1;
                }
            }
        }
        System.out.printf(
                "%d owners under guesses from %d addresses for a day: %d kept out on a known browser, %d with a code by"
                        + " e-mail on an unknown one%n",
                OWNERS, ADDRESSES / (quick ? 10 : 1), refused, refusedElsewhere);
        return (double) refused / OWNERS;
    }

    private static boolean tried(
            Ledger ledger, int owner, String method, GuessingSpace space, Familiarity from, String network) {
        return ledger.take(
                Budget.charges(new Try("owner " + owner, method, space, from, network, Optional.empty()), 1));
    }
}
