package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What a change says of itself: in sentences, as files, and where it makes something weaker. */
class ComparisonTest {
    private static final Map<String, String> BEFORE = Map.of(
            "defaults.yaml", "password: rules\ndeliver: { to: [shore] }\n",
            "passwords/rules.yaml", "password: rules\nmin-length: 12\n",
            "networks/ships.yaml", "network: ships\nranges: [10.20.0.0/16]\n",
            "terms/use.yaml", "terms: use\ntexts: { en: Be kind., nb: Vær snill. }\n",
            "scopes/crew.yaml", "scope: crew\nany:\n  - group: CN=Crew,DC=x\n",
            "methods.yaml", "recovery-code: { alone: false }\n",
            "policies/crew.yaml", """
                    policy: crew
                    who: scope crew
                    allow: [reset, unlock]
                    refuse: [{ actions: [unlock], when: outside ships }]
                    prove:
                      reset: { methods: 2, any-of: [email-code, app-code, recovery-code] }
                      stricter: [{ when: privileged, must-include: [app-code] }]
                    limit: { resets: 3 per 24h, tries: 10 per 24h, wait: 10m, inactive-account: 90d }
                    terms: use
                    tell: { person: [reset, failure], administrators: [privileged-reset] }
                    """);

    /** Where it cannot be told which of two is weaker, both count. */
    private static final Set<String> BOTH_WAYS = Set.of(
            "Network ships holds other addresses.",
            "Scope crew may hold other people.",
            "Policy crew refuses less.",
            "Policy crew requires less under a condition.",
            "Policy crew has other terms, or none.");

    private static Configuration read(Map<String, String> files) {
        var read = ConfigurationReader.read(files, List.of("shore", "fleet"));
        assertThat(read.problems()).isEmpty();
        return read.configuration().orElseThrow();
    }

    private static Map<String, String> with(String file, String text) {
        var files = new TreeMap<>(BEFORE);
        files.put(file, text);
        return files;
    }

    private static Map<String, String> replaced(String file, String what, String by) {
        assertThat(BEFORE.get(file)).contains(what);
        return with(file, BEFORE.get(file).replace(what, by));
    }

    private static List<String> sentences(Map<String, String> after) {
        return Comparison.of(read(BEFORE), BEFORE, read(after), after).sentences();
    }

    private static List<String> weaker(Map<String, String> before, Map<String, String> after) {
        return Weakening.of(read(before), read(after));
    }

    @Test
    void the_same_says_nothing() {
        var same = Comparison.of(read(BEFORE), BEFORE, read(BEFORE), BEFORE);
        assertThat(same.sentences()).isEmpty();
        assertThat(same.diff()).isEmpty();
        assertThat(weaker(BEFORE, BEFORE)).isEmpty();
    }

    @Test
    void a_comment_is_a_change_of_files_and_of_nothing_else() {
        var after = with("defaults.yaml", "# for all\n" + BEFORE.get("defaults.yaml"));
        assertThat(sentences(after)).isEmpty();
        assertThat(Comparison.of(read(BEFORE), BEFORE, read(after), after).diff())
                .contains("+++ b/defaults.yaml", "+# for all");
    }

    @Test
    void a_language_comes_changes_and_goes() {
        assertThat(sentences(with("terms/use.yaml", "terms: use\ntexts: { en: Be kind!, da: Vær sød. }\n")))
                .containsExactly(
                        "Terms use: text in en becomes \"Be kind!\" (was \"Be kind.\").",
                        "Terms use: text in nb is no longer said (was \"Vær snill.\").",
                        "Terms use: text in da becomes \"Vær sød.\".");
        assertThat(sentences(with(
                        "messages/code.yaml", "message: code\nsubject: { nb: Kode }\ntext: { nb: 'Her: {code}' }\n")))
                .containsExactly("Message code in en is removed.", "Message code in nb is new.");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "passwords/rules.yaml | min-length: 12 | min-length: 8 | Rule set rules accepts weaker passwords.",
                "networks/ships.yaml | 10.20.0.0/16 | 10.20.0.0/15 | Network ships holds other addresses.",
                "scopes/crew.yaml | CN=Crew | CN=All | Scope crew may hold other people.",
                "methods.yaml | alone: false | alone: true | recovery-code may be enough alone.",
                "policies/crew.yaml | allow: [reset, unlock] | allow: [reset, unlock, change]"
                        + " | Policy crew allows change.",
                "policies/crew.yaml | methods: 2 | methods: 1 | Policy crew requires less, or something else, for reset.",
                "policies/crew.yaml | when: outside ships | when: inside ships | Policy crew refuses less.",
                "policies/crew.yaml | must-include: [app-code] | methods: 2 | Policy crew requires less under a condition.",
                "policies/crew.yaml | 3 per 24h | 4 per 24h | Policy crew lets people reset more often.",
                "policies/crew.yaml | 10 per 24h | 10 per 12h | Policy crew allows more wrong answers.",
                "policies/crew.yaml | wait: 10m | wait: 5m | Policy crew has a shorter wait between resets.",
                "policies/crew.yaml | 90d | 91d | Policy crew lets inactive people in for longer.",
                "policies/crew.yaml | terms: use | terms: none | Policy crew has other terms, or none.",
                "policies/crew.yaml | [reset, failure] | [reset] | Policy crew tells the person about less.",
                "policies/crew.yaml | [privileged-reset] | []"
                        + " | Policy crew no longer tells administrators about privileged accounts."
            })
    void what_becomes_weaker_is_told_and_the_way_back_is_not(String file, String what, String by, String told) {
        var after = replaced(file, what, by);
        assertThat(weaker(BEFORE, after)).contains(told);
        assertThat(sentences(after)).isNotEmpty();
        if (!BOTH_WAYS.contains(told)) {
            assertThat(weaker(after, BEFORE)).doesNotContain(told);
        }
    }

    @Test
    void a_policy_that_goes_may_leave_its_people_to_another() {
        var after = new TreeMap<>(BEFORE);
        after.remove("policies/crew.yaml");
        assertThat(weaker(BEFORE, after)).containsExactly("Policy crew is removed, so another may cover its people.");
        assertThat(weaker(after, BEFORE)).contains("Policy crew is new and allows something.");
    }
}
