package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.scope.GroupGraph;
import dev.entente.core.scope.Subject;
import dev.entente.core.verify.Method;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;

/** A stop only narrows. */
class StopTest {
    private static final List<String> KINDS = List.of(
            "everything",
            "action:reset",
            "action:unlock",
            "action:change",
            "method:email-code",
            "directory:shore",
            "policy:crew",
            "policy:second");

    private static Configuration configuration(boolean unlock) {
        var files = new LinkedHashMap<String, String>();
        files.put("defaults.yaml", "password: rules\n");

        files.put("passwords/rules.yaml", "password: rules\nmin-length: 12\n");
        files.put("scopes/crew.yaml", "scope: crew\nany:\n  - group: \"CN=Crew,DC=x\"\n");
        files.put(
                "policies/crew.yaml",
                "policy: crew\nwho: scope crew\nallow: [reset" + (unlock ? ", unlock" : "")
                        + "]\nprove:\n  reset: { methods: 1, any-of: [email-code] }\ndeliver: { to: [shore] }\n");
        var read = ConfigurationReader.read(files, List.of("shore"));
        assertThat(read.problems()).isEmpty();
        return read.configuration().orElseThrow();
    }

    static Stop stop(String what) {
        return Stop.of(what, "a drill", null).orElseThrow();
    }

    @Test
    void what_is_typed_is_read_and_written_the_same() {
        KINDS.forEach(what -> assertThat(stop(what).what()).isEqualTo(what));
        for (var wrong : List.of("", "all", "action", "action:", ":reset", "everything:reset", "person:x")) {
            assertThat(Stop.of(wrong, "a drill", null)).as(wrong).isEmpty();
        }
    }

    @RepeatedTest(200)
    void one_more_stop_never_lets_anybody_do_more(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var configuration = configuration(random.nextBoolean());
        var graph = new GroupGraph(Map.of());
        var person = new PersonFacts(
                Subject.inGroups(new UUID(1, 1), random.nextInt(4) == 0 ? Set.of() : Set.of("CN=Crew,DC=x")),
                List.of(new PersonFacts.Account("shore", "a", random.nextInt(4) == 0, null)),
                random.nextInt(4) > 0 ? Set.of(Method.of("email-code")) : Set.of(),
                false);
        var action = Action.values()[random.nextInt(3)];
        var stops = new ArrayList<Stop>();
        var before = Decision.of(configuration, graph, person, action, DecisionTest.at(null), stops);
        for (var more = 0; more < 4; more++) {
            stops.add(stop(KINDS.get(random.nextInt(KINDS.size()))));
            var after = Decision.of(configuration, graph, person, action, DecisionTest.at(null), stops);
            assertThat(after.policy()).as("who decides does not change").isEqualTo(before.policy());
            assertThat(after.obstacles())
                    .as("nothing that stood in the way is gone")
                    .containsAll(before.obstacles());
            assertThat(after.possible() && !before.possible()).isFalse();
            before = after;
        }
    }

    @Test
    void a_stop_is_told_with_its_reason_and_how_to_lift_it() {
        var graph = new GroupGraph(Map.of());
        var person = DecisionTest.crew(Method.of("email-code"));
        for (var what : List.of("everything", "action:reset", "method:email-code", "policy:crew")) {
            var decision = Decision.of(
                    configuration(true), graph, person, Action.RESET, DecisionTest.at(null), List.of(stop(what)));
            assertThat(decision.obstacles()).as(what).singleElement().satisfies(obstacle -> {
                assertThat(obstacle.code()).isEqualTo("stopped");
                assertThat(obstacle.cause()).contains(what, "a drill");
                assertThat(obstacle.whatToDo()).contains("entente resume " + what);
            });
        }
        for (var other : List.of("action:unlock", "policy:second", "directory:shore")) {
            assertThat(Decision.of(
                                    configuration(true),
                                    graph,
                                    person,
                                    Action.RESET,
                                    DecisionTest.at(null),
                                    List.of(stop(other)))
                            .possible())
                    .as(other)
                    .isTrue();
        }
    }

    @Test
    void a_stopped_method_stands_in_the_way_of_whoever_has_no_other() {
        var files = new LinkedHashMap<String, String>();
        files.put("passwords/rules.yaml", "password: rules\n");
        files.put("scopes/crew.yaml", "scope: crew\nany:\n  - group: \"CN=Crew,DC=x\"\n");
        files.put(
                "policies/crew.yaml",
                "policy: crew\nwho: scope crew\nallow: [reset]\npassword: rules\ndeliver: { to: [shore] }\n"
                        + "prove:\n  reset: { methods: 1, any-of: [email-code, app-code] }\n");
        var configuration = ConfigurationReader.read(files, List.of("shore"))
                .configuration()
                .orElseThrow();
        var stops = List.of(stop("method:email-code"));
        for (var has : List.of(
                Set.of(Method.of("email-code")),
                Set.of(Method.of("app-code")),
                Set.of(Method.of("email-code"), Method.of("app-code")))) {
            var person = DecisionTest.crew(has.toArray(Method[]::new));
            var decision = Decision.of(
                    configuration, new GroupGraph(Map.of()), person, Action.RESET, DecisionTest.at(null), stops);
            assertThat(decision.possible()).as(has.toString()).isEqualTo(has.contains(Method.of("app-code")));
            assertThat(decision.obstacles())
                    .extracting(Decision.Obstacle::code)
                    .isEqualTo(has.contains(Method.of("app-code")) ? List.of() : List.of("stopped"));
        }
    }
}
