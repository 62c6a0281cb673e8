package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.scope.GroupGraph;
import dev.entente.core.scope.Subject;
import dev.entente.core.verify.Method;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.roaringbitmap.RoaringBitmap;

/** What changed, put into a copy, gives the same answers as everybody laid out anew; the original keeps its own. */
class CrowdTest {
    private static final List<String> GROUPS = List.of("CN=crew,DC=x", "CN=cadets,DC=x", "CN=bridge,DC=x");
    private static final GroupGraph NESTED = new GroupGraph(
            Map.of("CN=cadets,DC=x", List.of("CN=crew,DC=x"), "CN=crew,DC=x", List.of(), "CN=bridge,DC=x", List.of()));
    private static final GroupGraph WITHOUT_BRIDGE =
            new GroupGraph(Map.of("CN=cadets,DC=x", List.of("CN=crew,DC=x"), "CN=crew,DC=x", List.of()));
    private static final Circumstances HERE = DecisionTest.at("10.1.1.1");
    private static final Configuration CONFIGURATION = configuration();

    private static Configuration configuration() {
        var files = new HashMap<String, String>();
        files.put("defaults.yaml", "password: rules\nallow: [reset]\ndeliver: { to: [shore, fleet] }\n");
        files.put("passwords/rules.yaml", "password: rules\n");
        var scopes = new TreeMap<>(Map.of(
                "crew", "any:\n  - group: CN=crew,DC=x\n",
                "bridge", "any:\n  - group: CN=bridge,DC=x\n",
                "deck", "any:\n  - ou: OU=Deck,DC=x\n",
                "oslo", "any:\n  - where: { l: oslo }\n",
                "named", "any:\n  - people: [login-1, login-2, login-3]\n",
                "rest", "none: []\nportion: 60%\n"));
        scopes.forEach((name, text) -> {
            files.put("scopes/" + name + ".yaml", "scope: " + name + "\n" + text);
            files.put(
                    "policies/" + name + ".yaml",
                    "policy: " + name + "\nwho: scope " + name
                            + "\nprove:\n  reset: { any-of: [email-code, app-code] }\n  stricter:\n"
                            + "    - { when: privileged, methods: 2 }\nlimit: { inactive-account: 60d }\n");
        });
        files.put("order.yaml", "order: [named, crew, bridge, deck, oslo, rest]\n");
        var read = ConfigurationReader.read(files, List.of("shore", "fleet"));
        assertThat(read.problems()).isEmpty();
        return read.configuration().orElseThrow();
    }

    private static PersonFacts somebody(Random random, UUID id) {
        var enrolled = new TreeSet<Method>();
        List.of(Method.of("email-code"), Method.of("app-code")).stream()
                .filter(m -> random.nextBoolean())
                .forEach(enrolled::add);
        return new PersonFacts(
                new Subject(
                        id,
                        Set.of(),
                        List.of("CN=p,OU=" + (random.nextBoolean() ? "Deck" : "Engine") + ",DC=x"),
                        Set.of("login-" + id.getMostSignificantBits()),
                        random.nextBoolean()
                                ? Map.of()
                                : Map.of("l", Set.of(random.nextBoolean() ? "oslo" : "bergen"))),
                RehearsalTest.accounts(random),
                enrolled,
                null);
    }

    private static Crowd anew(Map<UUID, PersonFacts> people, Map<String, Set<UUID>> members, GroupGraph groups) {
        var crowd = new Crowd();
        people.values().forEach(crowd::add);
        members.forEach((group, who) -> who.forEach(id -> crowd.population().addMember(group, id)));
        return nested(crowd, groups);
    }

    private static Crowd nested(Crowd crowd, GroupGraph groups) {
        crowd.population().nest(groups);
        crowd.population().retainGroups(groups);
        crowd.protect(List.of("CN=bridge,DC=x"));
        return crowd;
    }

    /** Every answer, by ids: numbers may differ. */
    private static Map<String, Set<UUID>> answers(Crowd crowd) {
        var survey = new Survey(CONFIGURATION, crowd, Action.RESET, HERE);
        var answers = new TreeMap<String, Set<UUID>>();
        survey.covered().forEach((policy, people) -> answers.put("covered by " + policy, ids(crowd, people)));
        survey.hindered().forEach((code, people) -> answers.put(code, ids(crowd, people)));
        CONFIGURATION
                .scopes()
                .keySet()
                .forEach(s -> answers.put("in " + s, ids(crowd, survey.scopes().of(s))));
        answers.put("able", ids(crowd, survey.able()));
        answers.put("privileged", ids(crowd, crowd.privileged(true)));
        answers.put("everybody", ids(crowd, crowd.population().everybody()));
        answers.values().removeIf(Set::isEmpty);
        assertThat(crowd.population().size())
                .isEqualTo(crowd.population().everybody().getCardinality());
        return answers;
    }

    private static Set<UUID> ids(Crowd crowd, RoaringBitmap people) {
        var ids = new TreeSet<UUID>();
        people.forEach((int number) -> ids.add(crowd.population().id(number)));
        return ids;
    }

    @RepeatedTest(60)
    void what_changed_in_a_copy_is_everybody_laid_out_anew(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var people = new HashMap<UUID, PersonFacts>();
        var members = new HashMap<String, Set<UUID>>();
        GROUPS.forEach(group -> members.put(group, new HashSet<>()));
        for (var i = 0; i < 30; i++) {
            var id = new UUID(i, 7);
            people.put(id, somebody(random, id));
            members.get(GROUPS.get(random.nextInt(3))).add(id);
        }
        var crowd = anew(people, members, NESTED);
        for (var change = 0; change < 6; change++) {
            var before = answers(crowd);
            var changed = new HashSet<UUID>();
            for (var i = 0; i < 1 + random.nextInt(8); i++) {
                changed.add(new UUID(random.nextInt(40), 7));
            }
            var copy = crowd.copy();
            copy.remove(changed);
            for (var id : changed) {
                people.remove(id);
                if (random.nextInt(3) > 0) {
                    people.put(id, somebody(random, id));
                    copy.add(people.get(id));
                    for (var group : GROUPS) {
                        if (members.get(group).contains(id)) {
                            copy.population().addMember(group, id);
                        }
                    }
                }
            }
            var group = GROUPS.get(random.nextInt(3));
            for (var i = 0; i < 5; i++) {
                var id = new UUID(random.nextInt(40), 7);
                if (!members.get(group).remove(id)) {
                    members.get(group).add(id);
                }
            }
            copy.population().setMembers(group, members.get(group));
            var groups = random.nextInt(4) == 0 ? WITHOUT_BRIDGE : NESTED;
            if (groups == WITHOUT_BRIDGE) {
                members.get("CN=bridge,DC=x").clear();
            }
            nested(copy, groups);

            assertThat(answers(copy)).isEqualTo(answers(anew(people, members, groups)));
            assertThat(answers(crowd)).as("the original").isEqualTo(before);
            crowd = copy;
        }
    }
}
