package dev.entente.core.policy;

import dev.entente.core.policy.Situations.Situation;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * The weakest ways in: the smallest sets of things that somebody who is not the person would have to hold in order to succeed.
 * Closed over enrolment: whoever can change what a person is recognised by adds a method of their own first. What guesses bring
 * is bounded elsewhere ({@link dev.entente.core.guess.Budget}) and is none of these.
 */
public final class WaysIn {
    private WaysIn() {}

    /**
     * One way in.
     *
     * @param holds everything that is needed
     * @param adds methods that the attacker sets up first; empty if none is needed
     */
    public record Way(Set<Holding> holds, List<Method> adds) {
        static final Comparator<Way> ORDER = Comparator.<Way>comparingInt(w -> w.holds.size())
                .thenComparing(w -> w.holds.stream().sorted().toList().toString());

        public Way {
            holds = Set.copyOf(holds);
            adds = List.copyOf(adds);
        }

        /** A sentence without its full stop, such as "The mailbox alone is enough, by adding an app code first". */
        public String words() {
            var things = new TreeSet<>(holds).stream().map(Holding::words).toList();
            var said = Policy.said(things, "and");
            return Policy.capital(said)
                    + (things.size() == 1 ? " alone is enough" : " together are enough")
                    + (adds.isEmpty()
                            ? ""
                            : ", by adding "
                                    + Policy.said(
                                            adds.stream()
                                                    .map(Requirement::aOrAn)
                                                    .toList(),
                                            "and")
                                    + " first");
        }
    }

    /**
     * What some people are asked for and could be robbed of.
     *
     * @param required what has to be proved; null if it is refused or not allowed, and then nobody gets in this way
     * @param details what has to be proved to set up methods, one for each circumstance that an attacker can choose; empty if
     *     that is not allowed
     * @param means for each method that they have, the things of which any one answers it
     * @param besides things of which any one is enough by itself, whatever is asked for
     * @param always what is needed in any case besides what is proved, such as the present password for a change
     */
    public record Asked(
            Requirement required,
            Set<Requirement> details,
            Map<Method, Set<Holding>> means,
            Set<Holding> besides,
            Set<Holding> always) {}

    /** The smallest ones, fewest things first; none is part of another. */
    public static List<Way> of(Asked asked) {
        var things = EnumSet.noneOf(Holding.class);
        asked.means().values().forEach(things::addAll);
        var found = new ArrayList<Way>();
        asked.besides().forEach(thing -> found.add(new Way(Set.of(thing), List.of())));
        if (asked.required() != null) {
            var all = List.copyOf(things);
            for (var size = 1; size <= all.size(); size++) {
                search(asked, all, 0, size, EnumSet.noneOf(Holding.class), found);
            }
        }
        found.sort(Way.ORDER);
        return List.copyOf(found);
    }

    /** Every set of this size that is not larger than one found before. */
    private static void search(
            Asked asked, List<Holding> all, int from, int left, EnumSet<Holding> held, List<Way> found) {
        if (left == 0) {
            if (found.stream()
                    .noneMatch(way -> Stream.concat(held.stream(), asked.always().stream())
                            .toList()
                            .containsAll(way.holds()))) {
                succeeds(asked, held, found);
            }
            return;
        }
        for (var i = from; i <= all.size() - left; i++) {
            held.add(all.get(i));
            search(asked, all, i + 1, left - 1, held, found);
            held.remove(all.get(i));
        }
    }

    private static void succeeds(Asked asked, Set<Holding> held, List<Way> found) {
        var proves = new TreeSet<Method>();
        asked.means().forEach((method, things) -> {
            if (things.stream().anyMatch(held::contains)) {
                proves.add(method);
            }
        });
        var needed = EnumSet.copyOf(held);
        needed.addAll(asked.always());
        if (asked.required().withinReachOf(proves)) {
            found.add(new Way(needed, List.of()));
        } else if (asked.details().stream().anyMatch(d -> d.withinReachOf(proves))) {
            var own = Method.known().stream()
                    .filter(m -> m.selfEnrolled() && !proves.contains(m))
                    .toList();
            fewest(asked.required(), proves, own).ifPresent(adds -> found.add(new Way(needed, adds)));
        }
    }

    /** The fewest methods of their own that bring an attacker through. */
    private static Optional<List<Method>> fewest(Requirement required, Collection<Method> proves, List<Method> own) {
        List<Method> best = null;
        for (var bits = 1; bits < 1 << own.size(); bits++) {
            if (best != null && Integer.bitCount(bits) >= best.size()) {
                continue;
            }
            var adds = new ArrayList<Method>();
            for (var i = 0; i < own.size(); i++) {
                if ((bits & (1 << i)) != 0) {
                    adds.add(own.get(i));
                }
            }
            var all = new TreeSet<>(proves);
            all.addAll(adds);
            if (required.withinReachOf(all)) {
                best = adds;
            }
        }
        return Optional.ofNullable(best);
    }

    /** Whether one of these is a way that the others do not have, nor any part of it: something got easier. */
    static boolean weaker(List<Way> than, List<Way> ways) {
        return ways.stream()
                .anyMatch(way -> than.stream().noneMatch(other -> way.holds().containsAll(other.holds())));
    }

    /** What one person's methods could be answered with. */
    static Map<Method, Set<Holding>> means(Collection<Method> methods, Predicate<Method> selfWritten) {
        var means = new TreeMap<Method, Set<Holding>>();
        for (var method : methods) {
            var things = EnumSet.of(method.facts().holding());
            if (selfWritten.test(method)) {
                things.add(Holding.SIGNED_IN_COMPUTER);
            }
            means.put(method, things);
        }
        return means;
    }

    /**
     * What does not depend on policies.
     *
     * @param situations every one that makes a difference to the action or to setting up methods
     * @param besides things of which any one is enough by itself to set a password, whatever is asked for
     */
    public record Given(SelfWritten selfWritten, Set<Holding> besides, List<Situation> situations) {
        public Given {
            besides = Set.copyOf(besides);
            situations = List.copyOf(situations);
        }
    }

    /** The ways into one person's accounts by one action, in each situation that makes a difference. */
    public static Map<Situation, List<Way>> of(Policy policy, Action action, PersonFacts person, Given given) {
        var accounts =
                person.accounts().stream().map(PersonFacts.Account::directory).toList();
        var means = means(policy.methodsOf(person), m -> given.selfWritten().by(accounts, m));
        var ways = new LinkedHashMap<Situation, List<Way>>();
        for (var situation : given.situations()) {
            ways.put(situation, of(asked(policy, action, person, means, situation.circumstances(), given)));
        }
        return ways;
    }

    /** What is asked of somebody in one situation, where an attacker may have set up methods in another. */
    static Asked asked(
            Policy policy,
            Action action,
            PersonFacts anybody,
            Map<Method, Set<Holding>> means,
            Circumstances here,
            Given given) {
        var details = given.situations().stream()
                .map(Situation::circumstances)
                .filter(there -> Situations.couldBe(here, there) && allowed(policy, Action.DETAILS, anybody, there))
                .map(there -> policy.required(Action.DETAILS, anybody, there).requirement())
                .collect(Collectors.toSet());
        return new Asked(
                allowed(policy, action, anybody, here)
                        ? policy.required(action, anybody, here).requirement()
                        : null,
                details,
                means.entrySet().stream()
                        .filter(e -> here.allow(e.getKey()))
                        .collect(Collectors.toMap(Map.Entry::getKey, Map.Entry::getValue)),
                action == Action.RESET ? given.besides() : Set.of(),
                // A directory accepts a change only together with the current password.
                action == Action.CHANGE ? Set.of(Holding.CURRENT_PASSWORD) : Set.of());
    }

    private static boolean allowed(Policy policy, Action action, PersonFacts anybody, Circumstances circumstances) {
        return policy.allow().value().contains(action)
                && policy.refuse().value().stream()
                        .noneMatch(r -> r.actions().contains(action) && r.when().holds(anybody, circumstances));
    }
}
