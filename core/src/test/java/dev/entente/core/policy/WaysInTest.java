package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.policy.WaysIn.Way;
import dev.entente.core.scope.Subject;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Collectors;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;

/** What an attacker would need: by the sentence, by brute force, and for everybody at once. */
class WaysInTest {
    private static final Method EMAIL = Method.of("email-code");
    private static final Method APP = Method.of("app-code");
    private static final Method PASSKEY = Method.of("passkey");

    private static Requirement need(int methods, Method... anyOf) {
        return new Requirement(methods, 1, List.of(anyOf), Set.of(), Set.of(), Set.of(), Map.of());
    }

    private static Map<Method, Set<Holding>> having(Method... methods) {
        return WaysIn.means(List.of(methods), m -> false);
    }

    private static List<String> words(Requirement required, Set<Requirement> details, Map<Method, Set<Holding>> means) {
        return WaysIn.of(new WaysIn.Asked(required, details, means, Set.of(), Set.of())).stream()
                .map(Way::words)
                .toList();
    }

    @Test
    void each_of_two_methods_is_a_way_of_its_own() {
        assertThat(words(need(1, EMAIL, PASSKEY), Set.of(), having(EMAIL, PASSKEY)))
                .containsExactly("The mailbox alone is enough", "The passkey and what unlocks it alone is enough");
    }

    @Test
    void two_methods_take_both() {
        assertThat(words(need(2, EMAIL, APP), Set.of(), having(EMAIL, APP)))
                .containsExactly("The mailbox and the unlocked phone together are enough");
    }

    @Test
    void whoever_can_add_a_method_needs_no_more_than_that() {
        assertThat(words(need(2, EMAIL, APP), Set.of(need(1, EMAIL)), having(EMAIL, APP)))
                .containsExactly("The mailbox alone is enough, by adding an app code first");
        assertThat(words(need(2, EMAIL, APP), Set.of(need(1, EMAIL)), having(EMAIL)))
                .as("nor does it help that the person never set one up")
                .containsExactly("The mailbox alone is enough, by adding an app code first");
        assertThat(words(need(2, EMAIL, APP), Set.of(need(1, APP)), having(EMAIL)))
                .as("what cannot be reached adds nothing")
                .isEmpty();
    }

    @Test
    void what_people_write_themselves_can_be_written_at_their_computer() {
        assertThat(words(need(1, EMAIL), Set.of(), WaysIn.means(List.of(EMAIL), m -> true)))
                .containsExactly("The mailbox alone is enough", "A signed-in computer alone is enough");
    }

    @Test
    void what_is_refused_is_no_way_in() {
        assertThat(WaysIn.of(new WaysIn.Asked(null, Set.of(need(1, EMAIL)), having(EMAIL), Set.of(), Set.of())))
                .isEmpty();
        assertThat(WaysIn.of(
                        new WaysIn.Asked(null, Set.of(), having(EMAIL), Set.of(Holding.ONE_ADMINISTRATOR), Set.of())))
                .containsExactly(new Way(Set.of(Holding.ONE_ADMINISTRATOR), List.of()));
    }

    private static Requirement some(Random random) {
        var anyOf = new ArrayList<Method>();
        Method.known().stream().filter(m -> random.nextInt(4) > 0).forEach(anyOf::add);
        if (anyOf.isEmpty()) {
            anyOf.add(EMAIL);
        }
        var methods = 1 + random.nextInt(3);
        return new Requirement(
                methods,
                1 + random.nextInt(2),
                anyOf,
                random.nextInt(3) == 0 ? Set.of(anyOf.get(0)) : Set.of(),
                random.nextInt(3) == 0 ? Set.of(anyOf.get(random.nextInt(anyOf.size()))) : Set.of(),
                random.nextInt(3) == 0 ? Set.of(anyOf.get(random.nextInt(anyOf.size()))) : Set.of(),
                Map.of());
    }

    private static Map<Method, Set<Holding>> someMeans(Random random) {
        var means = new TreeMap<Method, Set<Holding>>();
        Method.known().stream().filter(m -> random.nextInt(3) > 0).forEach(m -> {
            var things = EnumSet.of(m.facts().holding());
            if (random.nextInt(3) == 0) {
                things.add(Holding.values()[random.nextInt(Holding.values().length)]);
            }
            means.put(m, things);
        });
        return means;
    }

    private static Set<Requirement> someDetails(Random random) {
        var details = new HashSet<Requirement>();
        for (var i = random.nextInt(3); i > 0; i--) {
            details.add(some(random));
        }
        return details;
    }

    private static Set<Set<Holding>> held(List<Way> ways) {
        return ways.stream().map(Way::holds).collect(Collectors.toSet());
    }

    @RepeatedTest(60)
    void a_search_through_every_set_and_every_order_finds_the_same(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var asked = new WaysIn.Asked(some(random), someDetails(random), someMeans(random), Set.of(), Set.of());
        assertThat(held(WaysIn.of(asked))).as("%s", asked).isEqualTo(byBruteForce(asked));
    }

    /** Plays attackers who hold each set of things, proof by proof as the service takes them, and keeps the smallest sets. */
    private static Set<Set<Holding>> byBruteForce(WaysIn.Asked asked) {
        var things = Holding.values();
        var enough = new HashSet<Set<Holding>>();
        // Many sets of things answer the same methods.
        var tried = new HashMap<Map.Entry<Requirement, Set<Method>>, Boolean>();
        for (var bits = 1; bits < 1 << things.length; bits++) {
            var held = EnumSet.noneOf(Holding.class);
            for (var thing : things) {
                if ((bits & (1 << thing.ordinal())) != 0) {
                    held.add(thing);
                }
            }
            var answers = new TreeSet<Method>();
            asked.means()
                    .forEach(
                            (method, any) -> any.stream().filter(held::contains).forEach(t -> answers.add(method)));
            if (asked.details().stream().anyMatch(d -> passes(d, answers, tried))) {
                Method.known().stream().filter(Method::selfEnrolled).forEach(answers::add);
            }
            if (passes(asked.required(), answers, tried)) {
                enough.add(held);
            }
        }
        enough.removeIf(set -> enough.stream().anyMatch(o -> !o.equals(set) && set.containsAll(o)));
        return enough;
    }

    private static boolean passes(
            Requirement required, Set<Method> answers, Map<Map.Entry<Requirement, Set<Method>>, Boolean> tried) {
        return tried.computeIfAbsent(
                Map.entry(required, Set.copyOf(answers)), one -> passes(one.getKey(), one.getValue()));
    }

    /** Whether some order of proofs, each of which the requirement asks for at its time, meets it. */
    private static boolean passes(Requirement required, Set<Method> answers) {
        var waiting = new ArrayDeque<List<Method>>(List.of(List.of()));
        while (!waiting.isEmpty()) {
            var proved = waiting.pop();
            if (required.metBy(proved)) {
                return true;
            }
            for (var method : required.next(proved)) {
                if (answers.contains(method)) {
                    var more = new ArrayList<>(proved);
                    more.add(method);
                    waiting.push(more);
                }
            }
        }
        return false;
    }

    @RepeatedTest(60)
    void to_ask_for_more_never_makes_a_way_smaller(RepetitionInfo round) {
        var random = new Random(7_000 + round.getCurrentRepetition());
        var required = some(random);
        var details = someDetails(random);
        var means = someMeans(random);
        var more = required.and(new Stricter(
                new When.Privileged(),
                Set.of(),
                required.methods() + random.nextInt(2),
                required.factors() + random.nextInt(2),
                random.nextBoolean()
                        ? List.of(required.anyOf().get(required.anyOf().size() - 1))
                        : List.of(),
                List.of()));
        var before = WaysIn.of(new WaysIn.Asked(required, details, means, Set.of(), Set.of()));
        var after = WaysIn.of(new WaysIn.Asked(more, details, means, Set.of(), Set.of()));
        assertThat(WaysIn.weaker(before, after)).as("%s%n%s", before, after).isFalse();
        var stricterDetails = new HashSet<>(details);
        details.stream().findFirst().ifPresent(stricterDetails::remove);
        assertThat(WaysIn.weaker(
                        before, WaysIn.of(new WaysIn.Asked(required, stricterDetails, means, Set.of(), Set.of()))))
                .isFalse();
    }

    @RepeatedTest(60)
    void everybody_at_once_and_one_by_one_are_the_same(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var people = new ArrayList<PersonFacts>();
        var crowd = new Crowd();
        for (var i = 0; i < 40; i++) {
            people.add(RehearsalTest.somebody(random));
            crowd.add(people.get(i));
        }
        crowd.population().nest(RehearsalTest.NESTED);
        var before = RehearsalTest.some(random);
        var after = RehearsalTest.some(random);
        var selfWritten = new SelfWritten(List.of(
                new SelfWritten.Directory("shore", random.nextInt(2), random.nextBoolean() ? Set.of(EMAIL) : Set.of()),
                new SelfWritten.Directory(
                        "fleet", random.nextInt(2), random.nextBoolean() ? Set.of(EMAIL) : Set.of())));
        var action = random.nextBoolean() ? Action.RESET : Action.UNLOCK;
        var situations = Situations.of(
                List.of(before, after), Set.of(action, Action.DETAILS), DecisionTest.MONDAY_NOON, true, null, Set.of());
        var given = new WaysIn.Given(
                selfWritten, random.nextBoolean() ? Set.of() : Set.of(Holding.ONE_ADMINISTRATOR), situations);
        var was = new WeakestWays(before, crowd, action, given);
        var is = new WeakestWays(after, crowd, action, given);
        for (var i = 0; i < people.size(); i++) {
            var one = alone(before, people.get(i), action, given);
            var other = alone(after, people.get(i), action, given);
            var easier = false;
            for (var s = 0; s < situations.size(); s++) {
                assertThat(was.into(i, s)).isEqualTo(one.get(s));
                assertThat(is.into(i, s)).isEqualTo(other.get(s));
                easier |= WaysIn.weaker(one.get(s), other.get(s));
            }
            assertThat(is.easierThan(was).contains(i)).isEqualTo(easier);
        }
    }

    private static List<List<Way>> alone(
            Configuration configuration, PersonFacts person, Action action, WaysIn.Given given) {
        var policy = Decision.of(
                        configuration,
                        RehearsalTest.NESTED,
                        person,
                        action,
                        given.situations().get(0).circumstances(),
                        List.of())
                .policy();
        if (policy.isEmpty()) {
            return given.situations().stream().map(s -> List.<Way>of()).toList();
        }
        return List.copyOf(WaysIn.of(policy.get(), action, person, given).values());
    }

    @Test
    void a_policy_tells_each_way_with_whom_it_concerns_and_where() {
        var files = new HashMap<String, String>();
        files.put("defaults.yaml", "password: rules\ndeliver: { to: [shore] }\n");
        files.put("passwords/rules.yaml", "password: rules\n");
        files.put("networks/ships.yaml", "network: ships\ntitle: Ships\nranges: [10.0.0.0/8]\n");
        files.put("scopes/all.yaml", "scope: all\nnone: []\n");
        files.put("policies/all.yaml", """
                policy: all
                who: scope all
                allow: [reset, details]
                prove:
                  reset: { methods: 2, any-of: [email-code, app-code] }
                  details: { methods: 1, any-of: [email-code, app-code] }
                  stricter:
                    - { when: outside ships, actions: [details], must-include: [app-code] }
                """);
        files.put("order.yaml", "order: [all]\n");
        var configuration = ConfigurationReader.read(files, List.of("shore"))
                .configuration()
                .orElseThrow();
        var crowd = new Crowd();
        for (var i = 0; i < 3; i++) {
            crowd.add(new PersonFacts(
                    Subject.inGroups(new UUID(1, i), Set.of()),
                    List.of(new PersonFacts.Account("shore", "p", false, null)),
                    i == 0 ? Set.of(EMAIL) : Set.of(EMAIL, APP),
                    i == 1));
        }
        var given = new WaysIn.Given(
                SelfWritten.NOTHING,
                Set.of(),
                Situations.of(
                        List.of(configuration),
                        Set.of(Action.RESET, Action.DETAILS),
                        DecisionTest.MONDAY_NOON,
                        true,
                        null,
                        Set.of()));
        var ways = new WeakestWays(configuration, crowd, Action.RESET, given);
        assertThat(ways.through("all").stream().map(WeakestWays.Found::words))
                .containsExactly(
                        "The mailbox alone is enough, by adding an app code first, from inside Ships"
                                + " (3 people, 1 of them with privileged accounts).",
                        "The mailbox and the unlocked phone together are enough, from elsewhere (2 people, 1 of them with"
                                + " privileged accounts).");
        assertThat(ways.singleThingsToPrivileged()).containsOnlyKeys(Holding.MAILBOX);
    }
}
