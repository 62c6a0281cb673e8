package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.scope.GroupGraph;
import dev.entente.core.scope.Subject;
import dev.entente.core.verify.Method;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ConfigurationReaderTest {
    private static final String SCOPE = "scope: crew\nany:\n  - group: CN=Crew,DC=x\nnone:\n  - group: CN=Out,DC=x\n";
    private static final String RULES = "password: rules\nmin-length: 12\n";
    private static final String POLICY = "policy: crew\nwho: scope crew\nallow: [reset]\n";
    private static final String DEFAULTS = "password: rules\ndeliver: { to: [shore] }\n";

    private static Map<String, String> files() {
        var files = new HashMap<String, String>();
        files.put("scopes/crew.yaml", SCOPE);
        files.put("passwords/rules.yaml", RULES);
        files.put("policies/crew.yaml", POLICY);
        files.put("defaults.yaml", DEFAULTS);
        return files;
    }

    private static List<String> problems(Map<String, String> files) {
        return ConfigurationReader.read(files, List.of("shore", "fleet")).problems().stream()
                .map(ConfigurationProblem::toString)
                .toList();
    }

    private static Configuration sound(Map<String, String> files) {
        assertThat(problems(files)).isEmpty();
        return ConfigurationReader.read(files, List.of("shore", "fleet"))
                .configuration()
                .orElseThrow();
    }

    @Test
    void each_value_tells_where_it_was_said() {
        var policy = sound(files()).policies().get(0);
        assertThat(policy.allow().source()).isEqualTo("policies/crew.yaml");
        assertThat(policy.password()).isEqualTo(new Policy.Setting<>("rules", "defaults.yaml"));
        assertThat(policy.clearLockout().source()).isEqualTo("built in");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "policies/crew.yaml | 'policy: crew' | policies/crew.yaml:1:1: \"who\" is missing: say \"who: scope NAME\"",
                "policies/crew.yaml | 'policy: Crew' | a name has at most 63 lower-case letters",
                "policies/crew.yaml | 'policy: other' | the file of \"other\" has to be called other.yaml",
                "policies/crew.yaml | 'policy: [crew' | this isn't valid YAML",
                "policies/crew.yaml | '[1, 2]' | a list of names with values is expected here",
                "policies/crew.yaml | 'alow: [reset]' | \"alow\" isn't a known setting here; did you mean \"allow\"?",
                "policies/crew.yaml | 'allow: reset' | a list is expected for allow",
                "policies/crew.yaml | 'who: scope crw' | \"scope crw\" isn't possible for who",
                "policies/crew.yaml | 'limit: { resets: lots }' | write for example \"3 per 24h\"",
                "policies/crew.yaml | 'limit: { wait: soon }' | a time from 1m to 31d is expected, such as 10m, 24h or 90d",
                "policies/crew.yaml | 'prove: { reset: { methods: 9, any-of: [email-code] } }' | a whole number from 1 to 5",
                "policies/crew.yaml | 'prove: { reset: { methods: 2, any-of: [email-code] } }' | asks for 2, but any-of names only 1",
                "policies/crew.yaml | 'prove: { reset: { any-of: [email-cod] } }' | did you mean \"email-code\"?",
                "policies/crew.yaml | 'deliver: { to: [shor] }' | did you mean \"shore\"?",
                "policies/crew.yaml | 'deliver: { clear-lockout: perhaps }' | true or false is expected",
                "scopes/crew.yaml | 'scope: crew' | name the people with any, all or none",
                "scopes/crew.yaml | 'portion: 250%' | a share from 0.01% to 100% is expected",
                "passwords/rules.yaml | 'max-length: 4' | max-length is below min-length",
                "passwords/rules.yaml | 'breached: true' | \"breached\" is not available in this version yet",
                "odd.yaml | 'x: y' | this file has no place here",
                "defaults.yaml | 'terms: x' | there is no text of terms \"x\""
            })
    void wrong_files_are_told_with_a_sentence(String file, String text, String message) {
        var files = files();
        files.put(file, text);
        assertThat(problems(files)).anyMatch(problem -> problem.contains(message));
    }

    @Test
    void all_problems_come_at_once_each_in_its_place() {
        var files = files();
        files.put("policies/crew.yaml", "policy: crew\nwho: scope none\nallow: [fly]\npassword: none\n");
        files.put("scopes/crew.yaml", "scope: crew\nany:\n  - group: not a name\n");
        assertThat(problems(files)).hasSize(4).anyMatch(p -> p.startsWith("scopes/crew.yaml:3:12:"));
    }

    @Test
    void with_more_than_one_policy_the_order_has_to_be_said() {
        var files = files();
        files.put("policies/second.yaml", POLICY.replace("policy: crew", "policy: second"));
        assertThat(problems(files)).anyMatch(p -> p.contains("give their order"));
        files.put("order.yaml", "order: [second]");
        assertThat(problems(files)).anyMatch(p -> p.contains("the policy \"crew\" is not listed"));
        files.put("order.yaml", "order: [second, crew]");
        assertThat(sound(files).policies()).extracting(Policy::name).containsExactly("second", "crew");
    }

    // ---- deciding

    private static PersonFacts person(Set<String> groups, boolean disabled, boolean mail) {
        return new PersonFacts(
                Subject.inGroups(new UUID(1, 1), groups),
                List.of(new PersonFacts.Account("shore", "a", disabled, null)),
                mail ? Set.of(Method.of("email-code")) : Set.of(),
                false);
    }

    @Test
    void nobody_outside_a_policy_can_do_anything() {
        var decision = Decision.of(
                Configuration.empty(),
                new GroupGraph(Map.of()),
                person(Set.of("CN=Crew,DC=x"), false, true),
                Action.RESET,
                DecisionTest.at(null),
                List.of());
        assertThat(decision.possible()).isFalse();
        assertThat(decision.obstacles()).extracting(Decision.Obstacle::code).containsExactly("not-covered");
    }

    @RepeatedTest(40)
    void a_group_nested_at_any_depth_covers_and_cycles_end(RepetitionInfo round) {
        var depth = round.getCurrentRepetition();
        var parents = new HashMap<String, List<String>>();
        for (var i = 1; i < depth; i++) {
            parents.put("CN=g" + i + ",DC=x", List.of("CN=g" + (i + 1) + ",DC=x"));
        }
        parents.put("CN=g" + depth + ",DC=x", List.of("cn=crew, dc=x", "CN=g1,DC=x"));
        var graph = new GroupGraph(parents);
        var decision = Decision.of(
                sound(files()),
                graph,
                person(Set.of("CN=g1,DC=x"), false, true),
                Action.RESET,
                DecisionTest.at(null),
                List.of());
        assertThat(decision.possible()).isTrue();
        assertThat(graph.reach(Set.of("CN=g1,DC=x")).way("CN=nowhere,DC=x")).isEmpty();
        assertThat(graph.reach(Set.of("CN=g1,DC=x")).way("CN=Crew,DC=x")).hasSize(depth + 1);
    }

    @Test
    void exclusion_wins_over_membership() {
        var decision = Decision.of(
                sound(files()),
                new GroupGraph(Map.of()),
                person(Set.of("CN=Crew,DC=x", "CN=Out,DC=x"), false, true),
                Action.RESET,
                DecisionTest.at(null),
                List.of());
        assertThat(decision.policy()).isEmpty();
        assertThat(decision.considered().get(0).because()).contains("left out");
    }

    @Test
    void everything_that_stands_in_the_way_is_told_at_once() {
        var decision = Decision.of(
                sound(files()),
                new GroupGraph(Map.of()),
                person(Set.of("CN=Crew,DC=x"), true, false),
                Action.UNLOCK,
                DecisionTest.at(null),
                List.of());
        assertThat(decision.obstacles())
                .extracting(Decision.Obstacle::code)
                .containsExactly("action-off", "account-disabled", "no-mail");
    }

    @Test
    void a_comparison_says_what_changes_and_nothing_else() {
        var before = files();
        var after = files();
        after.put("defaults.yaml", DEFAULTS + "limit: { resets: 2 per 1h }\n");
        var comparison = Comparison.of(sound(before), before, sound(after), after);
        assertThat(comparison.sentences())
                .containsExactly("Policy crew: limit.resets becomes 2 per 1h (was 3 per 24h).");
        assertThat(comparison.diff()).contains("+limit: { resets: 2 per 1h }").doesNotContain("policies/crew.yaml");
        assertThat(Comparison.of(sound(before), before, sound(before), before).sentences())
                .isEmpty();
    }
}
