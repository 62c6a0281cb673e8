package dev.entente.core.guess;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * What tries cost, and how much there is to spend.
 *
 * <p>For each method the chance that strangers guess one account's answer stays below {@link #ACCOUNT_DAY} in any 24 hours and
 * below {@link #ACCOUNT_YEAR} in any 365 days, over all networks, attempts and spellings of a name; over all accounts from one
 * network below {@link #NETWORK_DAY} in any 24 hours; and nobody fails more than {@link #IN_A_ROW} times in a row with one
 * method of one person (NIST SP 800-63B-4 section 3.2.2). Counted in windows that follow each other, of which any span touches
 * two: each holds half.
 *
 * <p>What strangers spend is theirs. A person's known browser and known networks have shares of their own, so that strangers
 * elsewhere take nothing from them; and one network can spend only a small part of what all unknown networks have together.
 */
public final class Budget {
    /** The chance of strangers against one method of one account in any 24 hours. */
    public static final double ACCOUNT_DAY = 1e-6;

    /** The same in any 365 days. */
    public static final double ACCOUNT_YEAR = 1e-4;

    /** The chance from one network against all accounts together in any 24 hours. */
    public static final double NETWORK_DAY = 1e-3;

    /** Name of the limit that is the policy's own. */
    public static final String POLICY = "guess-policy";

    /** Failures in a row with one method of one person, from wherever. */
    public static final int IN_A_ROW = 100;

    /** Failures in a row from one kind of place where others may know the answer. */
    public static final int KNOWABLE_IN_A_ROW = 5;

    /** Tries that one unknown network has against one person in a day, by whichever methods. */
    public static final int FROM_ONE_NETWORK = 10;

    private static final Duration DAY = Duration.ofDays(1);
    private static final Duration YEAR = Duration.ofDays(365);

    private Budget() {}

    /**
     * Somebody answers.
     *
     * @param person whose answer it should be
     * @param method by its name
     * @param space how hard it is to guess
     * @param from how well the person is known there
     * @param network the address or prefix that counts as one network; null where it is not known, and then nothing is taken
     *     from any network's limit
     * @param narrower a limit of the policy besides; empty for none
     */
    public record Try(
            String person,
            String method,
            GuessingSpace space,
            Familiarity from,
            String network,
            Optional<Narrower> narrower) {}

    /** At most so many tries in such a window, by all methods together. */
    public record Narrower(int tries, Duration window) {}

    /** What so many tries cost; all of it is taken together or nothing. Empty where guessing is impossible. */
    public static List<Charge> charges(Try one, int tries) {
        return Stream.concat(own(one, tries).stream(), shared(one, tries).stream())
                .toList();
    }

    /**
     * What so many tries take from what the method has by itself. A code that is sent pays for all of its tries in advance, so that none
     * is turned away; nothing else gets less by it.
     */
    public static List<Charge> own(Try one, int tries) {
        if (one.space().beyondGuessing()) {
            return List.of();
        }
        var charges = new ArrayList<Charge>();
        var from = one.from();
        var own = one.person() + " " + one.method() + " " + from.label();
        var cost = one.space().cost() * tries;
        if (from != Familiarity.BROWSER) {
            charges.add(new Charge("guess-day", own, DAY, cost, share(ACCOUNT_DAY, from)));
            charges.add(new Charge("guess-year", own, YEAR, cost, share(ACCOUNT_YEAR, from)));
        }
        charges.add(new Charge("guess-row", own, null, tries, inARow(from, one.space())));
        return List.copyOf(charges);
    }

    /**
     * What so many wrong answers take from what methods have together. Only wrong answers are counted here: to ask for a code, to be sent
     * one and to answer rightly take nothing from any other method.
     */
    public static List<Charge> shared(Try one, int tries) {
        if (one.space().beyondGuessing()) {
            return List.of();
        }
        var charges = new ArrayList<Charge>();
        var from = one.from();
        if (from != Familiarity.BROWSER && one.network() != null) {
            // A tenth is left for codes that are on their way when the rest is used up: they are still taken.
            var half = half(NETWORK_DAY);
            charges.add(
                    new Charge("guess-network", one.network(), DAY, one.space().cost() * tries, half - half / 10));
        }
        if (from == Familiarity.NONE && one.network() != null) {
            charges.add(new Charge("guess-from", one.person() + " " + one.network(), DAY, tries, FROM_ONE_NETWORK));
        }
        one.narrower()
                .ifPresent(n -> charges.add(
                        new Charge(POLICY, one.person() + " " + from.label(), n.window(), tries, n.tries())));
        return List.copyOf(charges);
    }

    /**
     * How many failures in a row are let through from there; all of them together are {@link #IN_A_ROW}, and far fewer where
     * others may know the answer.
     */
    public static int inARow(Familiarity from, GuessingSpace space) {
        if (space.knowable()) {
            return KNOWABLE_IN_A_ROW;
        }
        return switch (from) {
            case BROWSER -> 10;
            case NETWORK -> 20;
            case NONE -> 70;
        };
    }

    /** What one window holds for a method of one account, in units of {@link GuessingSpace#cost}. */
    private static long share(double whole, Familiarity from) {
        var half = half(whole);
        return from == Familiarity.NETWORK ? half / 5 : half - half / 5;
    }

    /** Any span touches two windows that follow each other; one unit less, so that the sum stays below the whole. */
    private static long half(double whole) {
        return (long) (whole * GuessingSpace.UNITS / 2) - 1;
    }
}
