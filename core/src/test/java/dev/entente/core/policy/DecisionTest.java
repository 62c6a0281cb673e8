package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.scope.GroupGraph;
import dev.entente.core.scope.Subject;
import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.trial.GaitMethod;
import dev.entente.core.verify.trial.PassphraseMethod;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Collections;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Deciding: order, inheritance, and that conditions only ever narrow. */
class DecisionTest {
    private static final Method PASSPHRASE = new PassphraseMethod();
    private static final Method GAIT = new GaitMethod();
    private static final List<Method> EVERY =
            Stream.concat(Method.known().stream(), Stream.of(PASSPHRASE, GAIT)).toList();

    static final Instant MONDAY_NOON = Instant.parse("2026-11-23T12:00:00Z");
    private static final GroupGraph FLAT = new GroupGraph(Map.of());

    static Circumstances at(String network) {
        return new Circumstances(MONDAY_NOON, network, false, Set.of());
    }

    static PersonFacts crew(Method... enrolled) {
        return new PersonFacts(
                Subject.inGroups(new UUID(1, 2), Set.of("CN=Crew,DC=x")),
                List.of(new PersonFacts.Account("shore", "a", false, MONDAY_NOON.minus(Duration.ofDays(3)))),
                Set.of(enrolled),
                false);
    }

    static Map<String, String> files(String policy) {
        var files = new LinkedHashMap<String, String>();
        files.put("defaults.yaml", "password: rules\ndeliver: { to: [shore] }\n");
        files.put("passwords/rules.yaml", "password: rules\nmin-length: 12\n");
        files.put("networks/ships.yaml", "network: ships\ntitle: the ships\nranges: [10.20.0.0/16, '2001:db8::/32']\n");
        files.put("scopes/crew.yaml", "scope: crew\nany:\n  - group: CN=Crew,DC=x\n");
        files.put(
                "policies/crew.yaml",
                "policy: crew\nwho: scope crew\nallow: [reset, unlock, change, details]\n" + policy);
        return files;
    }

    static Configuration read(Map<String, String> files) {
        var read = ConfigurationReader.read(files, List.of("shore"));
        assertThat(read.problems()).isEmpty();
        return read.configuration().orElseThrow();
    }

    private static Decision decide(String policy, PersonFacts person, Action action, Circumstances circumstances) {
        return Decision.of(read(files(policy)), FLAT, person, action, circumstances, List.of());
    }

    private static List<String> codes(Decision decision) {
        return decision.obstacles().stream().map(Decision.Obstacle::code).toList();
    }

    private static final String TWO =
            "prove:\n  reset: { methods: 2, any-of: [email-code, app-code, recovery-code], first: [app-code, email-code] }\n";

    @Test
    void the_first_policy_in_order_that_covers_decides() {
        var files = files("");
        files.put("scopes/all.yaml", "scope: all\nnone: []\n");
        files.put("policies/all.yaml", "policy: all\nwho: scope all\n");
        files.put("order.yaml", "order: [all, crew]\n");
        var person = crew(Method.of("email-code"));
        var decision = Decision.of(read(files), FLAT, person, Action.RESET, at(null), List.of());
        assertThat(decision.policy().orElseThrow().name()).isEqualTo("all");
        assertThat(codes(decision)).containsExactly("action-off");
        files.put("order.yaml", "order: [crew, all]\n");
        assertThat(Decision.of(read(files), FLAT, person, Action.RESET, at(null), List.of())
                        .possible())
                .isTrue();
    }

    @Test
    void what_an_action_must_prove_is_its_own_or_that_of_a_reset() {
        var policy = read(files(TWO)).policies().get(0);
        assertThat(policy.proof(Action.UNLOCK)).isEqualTo(policy.proof(Action.RESET));
        var own = read(files("prove:\n  unlock: { any-of: [app-code] }\n"))
                .policies()
                .get(0);
        assertThat(own.proof(Action.UNLOCK).value().anyOf()).containsExactly(Method.of("app-code"));
        assertThat(own.proof(Action.RESET).source()).isEqualTo("built in");
    }

    @Test
    void what_is_missing_is_said_with_what_to_do() {
        assertThat(codes(decide(TWO, crew(Method.of("email-code")), Action.RESET, at(null))))
                .containsExactly("methods-missing");
        assertThat(decide(TWO, crew(Method.of("email-code")), Action.RESET, at(null))
                        .obstacles()
                        .get(0)
                        .whatToDo())
                .contains("app code or recovery code");
        assertThat(codes(decide(TWO, crew(), Action.RESET, at(null)))).containsExactly("no-mail");
        assertThat(decide(TWO, crew(Method.of("email-code"), Method.of("recovery-code")), Action.RESET, at(null))
                        .possible())
                .isTrue();
        var broken = new Circumstances(MONDAY_NOON, null, null, Set.of(Method.of("email-code")));
        assertThat(codes(decide(TWO, crew(Method.of("email-code"), Method.of("recovery-code")), Action.RESET, broken)))
                .containsExactly("channel-broken");
    }

    @Test
    void what_is_missing_is_said_in_words_that_fit() {
        var app = "prove:\n  reset: { any-of: [app-code] }\n";
        assertThat(whatToDo(app, crew())).isEqualTo("Let the person set up app code, or ask for less in the policy.");
        assertThat(cause(app, crew())).isEqualTo("The policy requires an app code. The person has none of them.");
        var phone = "prove:\n  reset: { methods: 2, any-of: [email-code, sms-code] }\n";
        assertThat(whatToDo(phone, crew(Method.of("email-code"))))
                .isEqualTo("Add a mobile number in the directory and synchronise, or ask for less in the policy.");
        assertThat(cause(phone, crew(Method.of("email-code"))))
                .isEqualTo("The policy requires 2 of email code and text code. The person has only email code.");
        assertThat(whatToDo(phone, crew(Method.of("sms-code"))))
                .isEqualTo("Add an e-mail address in the directory and synchronise, or ask for less in the policy.");
        assertThat(cause(TWO, crew()))
                .isEqualTo("No e-mail address is known to send a code to, and no other method is enrolled.");
        assertThat(cause("", crew())).isEqualTo("No e-mail address is known to send a code to.");
        var device = "prove:\n  reset: { methods: 2, any-of: [email-code, known-device] }\n";
        assertThat(whatToDo(device, crew(Method.of("email-code"))))
                .isEqualTo(
                        "Let the person choose a new password once in a browser of their own, or ask for less in the policy.");
        var elsewhere =
                decide(device, crew(Method.of("email-code"), Method.of("known-device")), Action.RESET, at(null));
        assertThat(codes(elsewhere)).containsExactly("device-unknown");
        assertThat(elsewhere.methods().get(1).words()).isEqualTo("enrolled, but only on a device that was used before");
        var broken = new Circumstances(MONDAY_NOON, null, null, Set.of(Method.of("email-code"), Method.of("sms-code")));
        assertThat(decide("", crew(Method.of("email-code")), Action.RESET, broken)
                        .obstacles()
                        .get(0)
                        .cause())
                .isEqualTo("A required method can't be used: email code.");
    }

    private static String cause(String policy, PersonFacts person) {
        return decide(policy, person, Action.RESET, at(null)).obstacles().get(0).cause();
    }

    private static String whatToDo(String policy, PersonFacts person) {
        return decide(policy, person, Action.RESET, at(null)).obstacles().get(0).whatToDo();
    }

    /** It is possible exactly where the methods that are shown as usable suffice, whatever hinders the others. */
    @RepeatedTest(300)
    void possible_means_that_what_is_usable_now_suffices(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var methods = List.of("email-code", "sms-code", "app-code", "known-device", "passkey");
        var from = new ArrayList<>(methods);
        Collections.shuffle(from, random);
        var policy =
                "prove:\n  reset: { methods: " + (1 + random.nextInt(2)) + ", any-of: " + from.subList(0, 4) + " }\n";
        var person = crew(methods.stream()
                .filter(m -> random.nextInt(4) > 0)
                .map(Method::of)
                .toArray(Method[]::new));
        var broken = methods.stream()
                .filter(m -> random.nextInt(4) == 0)
                .map(Method::of)
                .collect(Collectors.toSet());
        var stops = methods.stream()
                .filter(m -> random.nextInt(4) == 0)
                .map(m -> StopTest.stop("method:" + m))
                .toList();
        var circumstances = new Circumstances(MONDAY_NOON, null, random.nextBoolean(), broken);
        var decision = Decision.of(read(files(policy)), FLAT, person, Action.RESET, circumstances, stops);
        var usable = decision.methods().stream()
                .filter(Decision.Standing::usable)
                .map(Decision.Standing::method)
                .toList();
        assertThat(decision.possible())
                .as("%s with %s, stopped %s, in the way %s", policy, decision.methods(), stops, codes(decision))
                .isEqualTo(decision.required().orElseThrow().requirement().withinReachOf(usable));
        var asked = decision.methods().stream().map(one -> one.method().label()).toList();
        assertThat(decision.obstacles())
                .filteredOn(one -> one.code().equals("stopped"))
                .allMatch(one -> asked.stream().anyMatch(method -> one.cause().contains("method:" + method + ":")));
        for (var one : decision.methods()) {
            var stopped = stops.stream().anyMatch(s -> s.stops(one.method()));
            assertThat(one.enrolled()).isEqualTo(person.enrolled().contains(one.method()));
            assertThat(one.usable())
                    .isEqualTo(one.enrolled()
                            && !stopped
                            && !broken.contains(one.method())
                            && circumstances.allow(one.method()));
            assertThat(one.why().equals("stopped by an administrator")).isEqualTo(stopped);
        }
    }

    @Test
    void the_whole_answer_as_text_names_everything_it_rests_on() {
        var policy = TWO + "  stricter: [{ when: outside ships, actions: [reset], methods: 3 }]\n";
        var circumstances = new Circumstances(MONDAY_NOON, "203.0.113.7", false, Set.of());
        var files = files(policy);
        files.put("scopes/cooks.yaml", "scope: cooks\nany:\n  - group: CN=Cooks,DC=x\n");
        files.put("policies/cooks.yaml", "policy: cooks\nwho: scope cooks\n");
        files.put("order.yaml", "order: [cooks, crew]\n");
        var person = crew(Method.of("email-code"));
        var decision = Decision.of(read(files), FLAT, person, Action.RESET, circumstances, List.of());
        assertThat(decision.text("Anna Vik", circumstances).lines())
                .startsWith("Anna Vik, reset: not possible (revision 0, 2026-11-23T12:00:00Z, from 203.0.113.7)")
                .anyMatch(line -> line.startsWith("  passes: cooks - "))
                .anyMatch(line -> line.startsWith("  decides: crew - "))
                .contains(
                        "  verify with: 3 of email code, app code and recovery code, starting with an email code or an app code (policies/crew.yaml)",
                        "  method: email-code - enrolled and usable",
                        "  method: app-code - not enrolled")
                .anyMatch(line -> line.equals("  stricter from outside the ships: 3 methods for reset"))
                .anyMatch(line -> line.startsWith("  in the way: The policy requires 3 of "))
                .anyMatch(line -> line.matches("  \\S.*: .* \\(policies/crew.yaml\\)"));
        var now = new Circumstances(MONDAY_NOON, null, false, Set.of());
        var staff = decide(
                "prove:\n  reset: { methods: 2, any-of: [staff-confirmation, email-code] }\n",
                crew(Method.of("staff-confirmation"), Method.of("email-code")),
                Action.RESET,
                now);
        assertThat(staff.text("Anna Vik", now))
                .startsWith("Anna Vik, reset: possible (revision 0, 2026-11-23T12:00:00Z)\n")
                .contains("  method: staff-confirmation - usable\n")
                .endsWith("\n");
        var more = staff.with(List.of(new Decision.Obstacle("late", "It is late.", "Come back tomorrow.")), Map.of());
        assertThat(codes(more)).containsExactly("late");
        assertThat(more.methods()).isEqualTo(staff.methods());
    }

    @Test
    void a_mailbox_that_the_same_password_opens_counts_only_where_the_policy_says_so() {
        var mailbox = Method.of("email-code");
        var person = new PersonFacts(crew().subject(), crew().accounts(), Set.of(), Set.of(mailbox), false);
        var refused = decide("", person, Action.RESET, at(null));
        assertThat(codes(refused)).containsExactly("mailbox-locked");
        assertThat(refused.obstacles().get(0).whatToDo()).contains("locked-mailbox in defaults.yaml");
        assertThat(refused.methods().get(0).words()).contains("own passwords opens");
        assertThat(decide("prove: { locked-mailbox: true }\n", person, Action.RESET, at(null))
                        .possible())
                .isTrue();
        // Where it would not be enough either, what is missing is said instead.
        assertThat(codes(decide(TWO, person, Action.RESET, at(null)))).containsExactly("no-mail");
    }

    @Test
    void recovery_codes_never_suffice_alone_unless_that_is_changed() {
        var one = "prove:\n  reset: { any-of: [email-code, recovery-code] }\n";
        assertThat(codes(decide(one, crew(Method.of("recovery-code")), Action.RESET, at(null))))
                .containsExactly("methods-missing");
        var files = files(one);
        files.put("methods.yaml", "recovery-code: { alone: true }\n");
        assertThat(Decision.of(read(files), FLAT, crew(Method.of("recovery-code")), Action.RESET, at(null), List.of())
                        .possible())
                .isTrue();
    }

    @Test
    void two_factors_are_shown_by_methods_that_count_as_different_ones() {
        var files =
                files("prove:\n  reset: { methods: 2, factors: 2, any-of: [email-code, app-code, recovery-code] }\n");
        files.put("methods.yaml", "email-code: { factor: knowledge }\n");
        var configuration = read(files);
        assertThat(codes(decide(configuration, crew(Method.of("app-code"), Method.of("recovery-code")))))
                .as("two methods of one factor")
                .containsExactly("methods-missing");
        assertThat(decide(configuration, crew(Method.of("email-code"), Method.of("app-code")))
                        .possible())
                .isTrue();
        var proof = configuration.policies().get(0).proof(Action.RESET).value();
        assertThat(proof.next(List.of())).hasSize(3);
        assertThat(proof.next(List.of(Method.of("app-code"))))
                .as("the other one would bring nobody nearer")
                .containsExactly(Method.of("email-code"));
        assertThat(proof.metBy(List.of(Method.of("app-code"), Method.of("recovery-code"))))
                .isFalse();
        assertThat(proof.next(List.of(Method.of("app-code"), Method.of("recovery-code"))))
                .containsExactly(Method.of("email-code"));
        assertThat(proof.words()).contains("with 2 different factors");
    }

    private static Decision decide(Configuration configuration, PersonFacts person) {
        return Decision.of(configuration, FLAT, person, Action.RESET, at(null), List.of());
    }

    @ParameterizedTest
    @CsvSource({
        "outside ships, 10.20.3.4, true, false",
        "outside ships, 203.0.113.7, true, true",
        "outside ships, , true, true",
        "outside ships, 2001:db8:1::7, true, false",
        "outside ships, ::ffff:10.20.3.4, true, false",
        "outside ships, nonsense, true, true",
        "inside ships, 10.20.3.4, true, true",
        "inside ships, 203.0.113.7, true, false",
        "inside ships, , true, true",
        "unknown-device, , true, false",
        "unknown-device, , false, true",
        "unknown-device, , , true",
        "Mon-Fri 08:00-18:00, , , true",
        "Sat-Mon 12:00-12:01 UTC, , , true",
        "Sat-Mon 08:00-12:00, , , false",
        "'Tue,Wed', , , false",
        "Sun 22:00-13:00 Europe/Oslo, , , false",
        "Sun 22:00-14:00 Europe/Oslo, , , true",
    })
    void conditions_hold_when_they_say_and_when_nobody_knows(
            String when, String network, Boolean known, boolean holds) {
        var circumstances = new Circumstances(MONDAY_NOON, network, known, Set.of());
        var refused = "refuse:\n  - actions: [unlock]\n    when: " + when + "\n";
        var person = crew(Method.of("email-code"));
        assertThat(codes(decide(refused, person, Action.UNLOCK, circumstances)).contains("refused"))
                .isEqualTo(holds);
        assertThat(decide(refused, person, Action.RESET, circumstances).possible())
                .isTrue();
        var stricter = TWO.replace("methods: 2", "methods: 1") + "  stricter:\n    - { when: "
                + (when.contains(",") ? "\"" + when + "\"" : when) + ", methods: 3, must-include: [app-code] }\n";
        var required =
                decide(stricter, person, Action.RESET, circumstances).required().orElseThrow();
        assertThat(required.requirement().methods()).isEqualTo(holds ? 3 : 1);
        assertThat(required.because()).hasSize(holds ? 1 : 0);
    }

    @Test
    void whether_an_account_is_privileged_counts_as_yes_when_nobody_knows() {
        var stricter =
                TWO.replace("methods: 2", "methods: 1") + "  stricter:\n    - { when: privileged, methods: 2 }\n";
        for (var privileged : new Boolean[] {true, false, null}) {
            var person =
                    new PersonFacts(crew().subject(), crew().accounts(), Set.of(Method.of("email-code")), privileged);
            assertThat(decide(stricter, person, Action.RESET, at(null)).possible())
                    .isEqualTo(Boolean.FALSE.equals(privileged));
        }
    }

    @Test
    void inactive_and_disabled_accounts() {
        var limit = "limit: { inactive-account: 90d, disabled-account: leave-out }\n";
        for (var days : new Integer[] {10, 89, 91, null}) {
            var account = new PersonFacts.Account(
                    "shore", "a", false, days == null ? null : MONDAY_NOON.minus(Duration.ofDays(days)));
            var person = new PersonFacts(crew().subject(), List.of(account), Set.of(Method.of("email-code")), false);
            assertThat(codes(decide(limit, person, Action.RESET, at(null))).contains("account-inactive"))
                    .as("%s days", days)
                    .isEqualTo(days == null || days > 90);
        }
        var off = new PersonFacts.Account("shore", "a", true, MONDAY_NOON);
        var on = new PersonFacts.Account("shore", "b", false, MONDAY_NOON);
        var both = new PersonFacts(crew().subject(), List.of(off, on), Set.of(Method.of("email-code")), false);
        assertThat(decide(limit, both, Action.RESET, at(null)).possible()).isTrue();
        assertThat(codes(decide("", both, Action.RESET, at(null)))).containsExactly("account-disabled");
    }

    static Requirement requirement(Random random) {
        var from = new ArrayList<>(
                List.of(Method.of("email-code"), Method.of("app-code"), Method.of("recovery-code"), PASSPHRASE, GAIT));
        Collections.shuffle(from, random);
        var any = from.subList(0, 1 + random.nextInt(from.size()));
        return new Requirement(
                1 + random.nextInt(3),
                1 + random.nextInt(3),
                any,
                some(random, any),
                some(random, any),
                random.nextBoolean() ? Set.of() : Set.of(Method.of("recovery-code")),
                random.nextBoolean()
                        ? Map.of()
                        : Map.of(any.get(0), Factor.values()[random.nextInt(Factor.values().length)]));
    }

    @RepeatedTest(100)
    void whoever_follows_what_is_offered_gets_there(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var requirement = requirement(random);
        var proved = new ArrayList<Method>();
        for (var next = requirement.next(proved); !next.isEmpty(); next = requirement.next(proved)) {
            proved.add(next.get(random.nextInt(next.size())));
        }
        assertThat(requirement.metBy(proved))
                .as("%s after %s", requirement.words(), proved)
                .isEqualTo(requirement.withinReachOf(requirement.anyOf()));
    }

    private static Set<Method> some(Random random, List<Method> from) {
        var set = new TreeSet<Method>();
        from.stream().filter(m -> random.nextInt(3) == 0).forEach(set::add);
        return set;
    }

    private static Stricter stricter(Random random) {
        var other = requirement(random);
        return new Stricter(
                List.of(
                                new When.Privileged(),
                                new When.UnknownDevice(),
                                new When.Outside(new Network("n", "n", List.of("10.0.0.0/8"))),
                                new When.Week(
                                        EnumSet.allOf(DayOfWeek.class),
                                        LocalTime.NOON,
                                        LocalTime.MIN,
                                        ZoneId.of("UTC")))
                        .get(random.nextInt(4)),
                random.nextBoolean() ? Set.of() : Set.of(Action.RESET),
                random.nextInt(4),
                random.nextInt(3),
                random.nextBoolean() ? List.of() : List.copyOf(other.mustInclude()),
                random.nextBoolean() ? List.of() : other.anyOf());
    }

    @RepeatedTest(100)
    void stricter_never_lowers_and_unknown_facts_count_as_the_stricter_answer(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var base = requirement(random);
        var before = base;
        var conditions = new ArrayList<Stricter>();
        for (var i = 0; i < 3; i++) {
            conditions.add(stricter(random));
            var after = before.and(conditions.get(i));
            assertThat(after.atLeastAsStrictAs(before))
                    .as("%s%n%s", before, after)
                    .isTrue();
            before = after;
        }
        var known = new PersonFacts(crew().subject(), crew().accounts(), Set.of(), random.nextBoolean());
        var unknown = new PersonFacts(crew().subject(), crew().accounts(), Set.of(), null);
        var policy = read(files("")).policies().get(0);
        var with = new Policy(
                policy.name(),
                policy.title(),
                policy.scope(),
                policy.allow(),
                policy.refuse(),
                Map.of(Action.RESET, new Policy.Setting<>(base, "test")),
                new Policy.Setting<>(conditions, "test"),
                policy.lockedMailbox(),
                policy.password(),
                policy.deliverTo(),
                policy.clearLockout(),
                policy.mustChange(),
                policy.resets(),
                policy.tries(),
                policy.pause(),
                policy.inactiveAfter(),
                policy.leaveOutDisabled(),
                policy.terms(),
                policy.checklist(),
                policy.managerConfirms(),
                policy.tellPerson(),
                policy.maySwitchOff(),
                policy.closeOnAlarm(),
                policy.tellAdministrators());
        var here = new Circumstances(
                MONDAY_NOON.plus(Duration.ofHours(random.nextInt(200))),
                random.nextBoolean() ? "10.1.1.1" : "192.0.2.1",
                random.nextBoolean(),
                Set.of());
        var nowhere = new Circumstances(here.at(), null, null, Set.of());
        assertThat(with.required(Action.RESET, unknown, nowhere)
                        .requirement()
                        .atLeastAsStrictAs(
                                with.required(Action.RESET, known, here).requirement()))
                .isTrue();
    }

    @RepeatedTest(100)
    void at_least_as_strict_is_a_partial_order(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var a = requirement(random);
        var b = requirement(random);
        var c = requirement(random);
        assertThat(a.atLeastAsStrictAs(a)).isTrue();
        if (a.atLeastAsStrictAs(b) && b.atLeastAsStrictAs(c)) {
            assertThat(a.atLeastAsStrictAs(c)).isTrue();
        }
        if (a.atLeastAsStrictAs(b) && b.atLeastAsStrictAs(a)) {
            // The same in meaning: whatever is proved, both say the same.
            for (var round2 = 0; round2 < 50; round2++) {
                var proved = new ArrayList<>(some(random, EVERY));
                Collections.shuffle(proved, random);
                assertThat(a.metBy(proved)).isEqualTo(b.metBy(proved));
            }
        }
    }

    @RepeatedTest(100)
    void whoever_follows_what_comes_next_meets_it_and_nobody_else_is_asked(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var requirement = requirement(random);
        var proved = new ArrayList<Method>();
        for (var next = requirement.next(proved); !next.isEmpty(); next = requirement.next(proved)) {
            assertThat(requirement.metBy(proved)).isFalse();
            proved.add(next.get(random.nextInt(next.size())));
        }
        assertThat(requirement.metBy(proved))
                .as("%s proved %s", requirement, proved)
                .isEqualTo(requirement.withinReachOf(requirement.anyOf()));
    }

    @RepeatedTest(100)
    void proving_more_never_takes_anything_back(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var requirement = requirement(random);
        var proved = new ArrayList<>(some(random, EVERY));
        Collections.shuffle(proved, random);
        if (requirement.metBy(proved)) {
            proved.add(EVERY.get(random.nextInt(EVERY.size())));
            assertThat(requirement.metBy(proved)).isTrue();
            assertThat(requirement.withinReachOf(proved)).isTrue();
        }
    }
}
