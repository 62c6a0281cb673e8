package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.scope.GroupGraph;
import dev.entente.core.scope.Subject;
import dev.entente.core.verify.Method;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;

/** Everybody at once gets the answers that each person gets alone. */
class RehearsalTest {
    static final GroupGraph NESTED = new GroupGraph(Map.of("CN=cadets,DC=x", List.of("CN=crew,DC=x")));
    private static final List<Method> METHODS = List.of(
            Method.of("email-code"), Method.of("app-code"), Method.of("recovery-code"), Method.of("known-device"));

    /** In some of the directories, some of them switched off, some of them long unused. */
    static List<PersonFacts.Account> accounts(Random random) {
        var accounts = new ArrayList<PersonFacts.Account>();
        for (var directory : List.of("shore", "fleet")) {
            if (random.nextInt(4) > 0) {
                accounts.add(new PersonFacts.Account(
                        directory,
                        "p",
                        random.nextInt(5) == 0,
                        random.nextInt(4) == 0
                                ? null
                                : DecisionTest.MONDAY_NOON.minus(Duration.ofDays(random.nextInt(200)))));
            }
        }
        return accounts;
    }

    static PersonFacts somebody(Random random) {
        var groups = new HashSet<String>();
        for (var group : List.of("CN=crew,DC=x", "CN=cadets,DC=x", "CN=bridge,DC=x")) {
            if (random.nextInt(3) == 0) {
                groups.add(group);
            }
        }
        var enrolled = new TreeSet<Method>();
        METHODS.stream().filter(m -> random.nextBoolean()).forEach(enrolled::add);
        var mailbox = Method.of("email-code");
        var behind = random.nextInt(3) == 0 && enrolled.remove(mailbox) ? Set.of(mailbox) : Set.<Method>of();
        return new PersonFacts(
                Subject.inGroups(new UUID(random.nextLong(), random.nextLong()), groups),
                accounts(random),
                enrolled,
                behind,
                random.nextInt(5) == 0 ? null : random.nextInt(4) == 0);
    }

    private static String oneOf(Random random, String... texts) {
        return texts[random.nextInt(texts.length)];
    }

    static Configuration some(Random random) {
        var files = new LinkedHashMap<String, String>();
        files.put(
                "defaults.yaml",
                "password: rules\ndeliver: { to: [" + oneOf(random, "shore", "fleet", "shore, fleet") + "] }\n");
        files.put("passwords/rules.yaml", "password: rules\n");
        files.put("networks/ships.yaml", "network: ships\nranges: [10.0.0.0/8]\n");
        var order = new ArrayList<String>();
        for (var name : List.of("crew", "bridge", "rest")) {
            files.put(
                    "scopes/" + name + ".yaml",
                    "scope: " + name + "\n"
                            + (name.equals("rest") ? "none: []\n" : "any:\n  - group: CN=" + name + ",DC=x\n")
                            + oneOf(random, "", "", "portion: 40%\n"));
            files.put(
                    "policies/" + name + ".yaml",
                    "policy: " + name + "\nwho: scope " + name + "\nallow: ["
                            + oneOf(random, "reset", "reset, unlock", "unlock") + "]\nprove:\n  reset: { methods: "
                            + oneOf(random, "1", "2", "3") + ", any-of: [email-code, app-code, recovery-code"
                            + oneOf(random, "]", ", known-device]")
                            + oneOf(random, "", ", must-include: [app-code]", ", first: [app-code, email-code]")
                            + " }\n"
                            + oneOf(random, "", "  locked-mailbox: true\n")
                            + oneOf(
                                    random,
                                    "",
                                    "  stricter:\n    - { when: privileged, methods: 3 }\n",
                                    "  stricter:\n    - { when: outside ships, must-include: [recovery-code] }\n")
                            + oneOf(
                                    random,
                                    "",
                                    "refuse:\n  - { actions: [reset], when: privileged }\n",
                                    "refuse:\n  - { actions: [reset], when: inside ships }\n")
                            + oneOf(
                                    random,
                                    "",
                                    "limit: { inactive-account: 60d }\n",
                                    "limit: { disabled-account: leave-out }\n"));
            order.add(random.nextInt(order.size() + 1), name);
        }
        files.put("order.yaml", "order: [" + String.join(", ", order) + "]\n");
        var read = ConfigurationReader.read(files, List.of("shore", "fleet"));
        assertThat(read.problems()).isEmpty();
        return read.configuration().orElseThrow();
    }

    @RepeatedTest(60)
    void everybody_at_once_and_one_by_one_are_the_same(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var people = new ArrayList<PersonFacts>();
        var crowd = new Crowd();
        for (var i = 0; i < 40; i++) {
            people.add(somebody(random));
            crowd.add(people.get(i));
        }
        crowd.population().nest(NESTED);
        var before = some(random);
        var after = some(random);
        var action = random.nextBoolean() ? Action.RESET : Action.UNLOCK;
        var here = new Circumstances(
                DecisionTest.MONDAY_NOON,
                random.nextInt(3) == 0 ? null : oneOf(random, "10.1.1.1", "192.0.2.1"),
                random.nextInt(3) == 0 ? null : random.nextBoolean(),
                Set.of());
        var was = new Survey(before, crowd, action, here);
        var is = new Survey(after, crowd, action, here);
        var rehearsal = new Rehearsal(was, is);
        for (var i = 0; i < people.size(); i++) {
            var one = Decision.of(before, NESTED, people.get(i), action, here, List.of());
            var other = Decision.of(after, NESTED, people.get(i), action, here, List.of());
            assertThat(was.able().contains(i)).as("%s", one.obstacles()).isEqualTo(one.possible());
            assertThat(is.able().contains(i)).as("%s", other.obstacles()).isEqualTo(other.possible());
            var number = i;
            one.policy()
                    .ifPresent(p -> assertThat(was.covered().get(p.name()).contains(number))
                            .isTrue());
            var is1 = rehearsal.people(Rehearsal.Kind.LOSES_WAY).contains(i);
            assertThat(is1).isEqualTo(one.possible() && !other.possible());
            assertThat(rehearsal.people(Rehearsal.Kind.LOSES_COVER).contains(i))
                    .isEqualTo(one.policy().isPresent() && other.policy().isEmpty());
            assertThat(rehearsal.people(Rehearsal.Kind.LACKS_METHODS).contains(i))
                    .isEqualTo(other.obstacles().stream()
                            .anyMatch(o -> Set.of("methods-missing", "no-mail", "mailbox-locked")
                                    .contains(o.code())));
            if (one.required().isPresent() && other.required().isPresent()) {
                var had = one.required().get().requirement();
                var has = other.required().get().requirement();
                assertThat(rehearsal.people(Rehearsal.Kind.PROVES_MORE).contains(i))
                        .isEqualTo(has.atLeastAsStrictAs(had) && !had.atLeastAsStrictAs(has));
            }
            assertThat(rehearsal.after(i))
                    .startsWith(other.policy().map(Policy::name).orElse("not covered"));
        }
        var all = rehearsal.part("all", crowd.population().everybody());
        assertThat(all.losesWay())
                .isEqualTo(rehearsal.people(Rehearsal.Kind.LOSES_WAY).getCardinality());
        assertThat(rehearsal.moves().stream().mapToInt(Rehearsal.Move::people).sum())
                .isEqualTo(rehearsal.people(Rehearsal.Kind.OTHER_POLICY).getCardinality()
                        + rehearsal.people(Rehearsal.Kind.LOSES_COVER).getCardinality()
                        + rehearsal.people(Rehearsal.Kind.GAINS_COVER).getCardinality());
    }

    @Test
    void the_same_configuration_changes_nothing() {
        var random = new Random(7);
        var crowd = new Crowd();
        for (var i = 0; i < 50; i++) {
            crowd.add(somebody(random));
        }
        crowd.population().nest(NESTED);
        var configuration = some(random);
        var here = DecisionTest.at("10.1.1.1");
        var rehearsal = new Rehearsal(
                new Survey(configuration, crowd, Action.RESET, here),
                new Survey(configuration, crowd, Action.RESET, here));
        for (var kind : Rehearsal.Kind.values()) {
            if (kind != Rehearsal.Kind.LACKS_METHODS && kind != Rehearsal.Kind.NEVER_ENROLS) {
                assertThat(rehearsal.people(kind).isEmpty()).as("%s", kind).isTrue();
            }
        }
        assertThat(rehearsal.moves()).isEmpty();
    }
}
