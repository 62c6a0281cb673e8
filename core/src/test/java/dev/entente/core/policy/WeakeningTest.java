package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class WeakeningTest {
    private static final String BASE = "refuse: [{ actions: [unlock], when: outside ships }]\n"
            + "prove:\n  reset: { methods: 2, any-of: [email-code, app-code, recovery-code] }\n"
            + "  stricter: [{ when: privileged, methods: 3 }]\n"
            + "limit: { resets: 3 per 24h, tries: 20 per 24h, wait: 10m, inactive-account: 90d }\n"
            + "tell: { person: [reset, unlock], may-switch-off: [unlock], alarm: close, administrators: [privileged-reset] }\n"
            + "deliver: { must-change: true }\nterms: house\nhelp-desk: { checklist: [Badge, Shoe size] }\n";
    private static final Map<String, String> FILES = Map.of(
            "terms/house.yaml", "terms: house\ntitle: House rules\ntexts: { en: \"Be kind.\" }\n",
            "terms/ship.yaml", "terms: ship\ntitle: Ship’s rules\ntexts: { en: \"Be quick.\" }\n",
            "passwords/other.yaml", "password: other\nmin-length: 12\n",
            "networks/ships.yaml", "network: ships\ntitle: the ships\nranges: [10.20.0.0/16]\nshared: true\n",
            "scopes/all.yaml", "scope: all\nnone: []\n",
            "questions.yaml",
                    "register: 3\nask: 2\nown: 1\nshortest-answer: 4\ncase-matters: true\nblocked-answers: [harbour]\n"
                            + "questions:\n  ship: { texts: { en: Which ship? } }\n  book: { texts: { en: Which book? } }\n");

    private static Map<String, String> files(String policy) {
        var files = DecisionTest.files(policy);
        files.putAll(FILES);
        return files;
    }

    private static Configuration read(Map<String, String> files) {
        var read = ConfigurationReader.read(files, List.of("shore", "fleet"));
        assertThat(read.problems()).isEmpty();
        return read.configuration().orElseThrow();
    }

    private static List<String> after(String policy, Map<String, String> others) {
        var files = files(policy);
        files.putAll(others);
        return Weakening.of(read(files(BASE)), read(files));
    }

    @Test
    void the_same_and_more_are_not_weaker() {
        assertThat(after(BASE, Map.of())).isEmpty();
        assertThat(after(
                        BASE.replace("methods: 2", "methods: 3")
                                .replace("3 per 24h", "2 per 24h")
                                .replace("wait: 10m", "wait: 1h")
                                .replace("90d", "30d")
                                .replace("[reset, unlock],", "[reset, unlock, change],")
                                .replace("may-switch-off: [unlock]", "may-switch-off: []"),
                        Map.of(
                                "passwords/rules.yaml", "password: rules\nmin-length: 16\nkinds: 2\n",
                                "methods.yaml", "email-code: { life: 5m, tries: 3 }\n")))
                .isEmpty();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "methods: 2 | methods: 1 | requires less, or something else, for",
                "recovery-code] }| recovery-code], first: [app-code] }|",
                "[{ actions: [unlock], when: outside ships }] | [] | refuses less",
                "[{ when: privileged, methods: 3 }] | [] | requires less under a condition",
                "3 per 24h | 4 per 24h | reset more often",
                "3 per 24h | 3 per 12h | reset more often",
                "20 per 24h | 40 per 24h | more wrong answers",
                "wait: 10m | wait: 5m | has a shorter wait",
                "90d | 200d | inactive people",
                "'[reset, unlock],' | '[reset],' | tells the person about less",
                "may-switch-off: [unlock] | 'may-switch-off: [unlock, reset]' | lets people choose not to be told",
                "alarm: close | alarm: tell | no longer closes self-service",
                "administrators: [privileged-reset] | administrators: [] | no longer tells administrators",
                "must-change: true | must-change: false | no longer asks to change the password",
                "must-change: true | 'must-change: true, to: [shore, fleet]' | writes to another directory",
                "terms: house | terms: ship | has other terms, or none",
                "terms: house | terms: none | has other terms, or none",
                "'[Badge, Shoe size]' | '[Badge]' | has the help desk check less",
                "'Shoe size] }' | 'Shoe size], manager: true }' | lets managers confirm",
                "90d } | '90d, disabled-account: leave-out }' | no longer stops at disabled accounts",
                "'  stricter:' | '  locked-mailbox: true\n  stricter:' | accepts mailboxes that the same password opens"
            })
    void each_thing_that_becomes_weaker_is_named(String was, String is, String sentence) {
        var found = after(BASE.replace(was, is), Map.of());
        if (sentence == null) {
            assertThat(found).isEmpty();
        } else {
            assertThat(found).isNotEmpty().allMatch(s -> s.contains(sentence));
        }
    }

    @Test
    void which_people_and_which_rules_a_policy_has_counts() {
        var crew = files(BASE).get("policies/crew.yaml");
        assertThat(after(BASE, Map.of("policies/crew.yaml", crew.replace("who: scope crew", "who: scope all"))))
                .containsExactly("Policy crew covers another scope.");
        assertThat(after(BASE + "password: other\n", Map.of())).containsExactly("Policy crew uses another rule set.");
        var second = "policy: second\nwho: scope all\n";
        var order = "order: [crew, second]\n";
        assertThat(after(BASE, Map.of("policies/second.yaml", second, "order.yaml", order)))
                .as("one that allows nothing")
                .isEmpty();
        var allows = Map.of("policies/second.yaml", second + "allow: [unlock]\n", "order.yaml", order);
        assertThat(after(BASE, allows)).containsExactly("Policy second is new and allows something.");
        var two = files(BASE);
        two.putAll(allows);
        assertThat(Weakening.of(read(two), read(files(BASE))))
                .containsExactly("Policy second is removed, so another may cover its people.");
        var swapped = new LinkedHashMap<>(two);
        swapped.put("order.yaml", "order: [second, crew]\n");
        assertThat(Weakening.of(read(two), read(swapped))).containsExactly("The order of the policies changes.");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "ask: 2 | ask: 1",
                "own: 1 | own: 2",
                "shortest-answer: 4 | shortest-answer: 3",
                "case-matters: true | case-matters: false",
                "[harbour] | []",
            })
    void questions_that_take_weaker_answers_are_named(String was, String is) {
        var questions = FILES.get("questions.yaml");
        assertThat(after(BASE, Map.of("questions.yaml", questions.replace(was, is))))
                .containsExactly("Security questions accept weaker answers, or fewer.");
        var weaker = files(BASE);
        weaker.put("questions.yaml", questions.replace(was, is));
        assertThat(Weakening.of(read(weaker), read(files(BASE))))
                .as("the other way round")
                .isEmpty();
    }

    @Test
    void other_questions_are_weaker_whichever_they_are_and_those_of_the_help_desk_as_well() {
        var questions = FILES.get("questions.yaml");
        assertThat(after(BASE, Map.of("questions.yaml", questions.replace("Which book?", "Which book lately?"))))
                .containsExactly("Security questions are others: book.");
        assertThat(after(BASE, Map.of("questions.yaml", questions + "  pet: { texts: { en: Which pet? } }\n")))
                .containsExactly("Security questions are others: pet.");
        assertThat(after(BASE, Map.of("questions.yaml", questions.replace("register: 3", "register: 2"))))
                .containsExactly("Security questions accept weaker answers, or fewer.");
        assertThat(after(BASE, Map.of("questions.yaml", "shown: true\n" + questions)))
                .containsExactly("Security questions accept weaker answers, or fewer.");
        assertThat(
                        after(
                                BASE,
                                Map.of(
                                        "questions.yaml",
                                        questions
                                                + "spoken: { register: 1, questions: { port: { texts: { en: Which port? } } } }\n")))
                .anyMatch(sentence -> sentence.startsWith("Questions of the help desk are others: "));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "min-length: 12 | min-length: 11",
                "kinds: 3 | kinds: 2",
                "no-personal-details: true | no-personal-details: false",
                "[quay] | []",
            })
    void a_rule_set_that_takes_weaker_passwords_is_named(String was, String is) {
        var rules = "password: rules\nmin-length: 12\nkinds: 3\nno-personal-details: true\nblocked-words: [quay]\n";
        var before = files(BASE);
        before.put("passwords/rules.yaml", rules);
        var after = files(BASE);
        after.put("passwords/rules.yaml", rules.replace(was, is));
        assertThat(Weakening.of(read(before), read(after))).containsExactly("Rule set rules accepts weaker passwords.");
        assertThat(Weakening.of(read(after), read(before))).isEmpty();
    }

    @Test
    void what_a_method_takes_and_where_devices_are_remembered_counts() {
        var few = files(BASE);
        few.put("methods.yaml", "passkey: { authenticators: [6028b017-b1d4-4c02-b4b3-afcdafc96bb2] }\n");
        var more = files(BASE);
        more.put(
                "methods.yaml",
                "passkey: { authenticators: [6028b017-b1d4-4c02-b4b3-afcdafc96bb2, d8522d9f-575b-4866-88a9-ba99fa02f35b] }\n");
        assertThat(Weakening.of(read(few), read(more))).containsExactly("passkey takes other authenticators.");
        assertThat(Weakening.of(read(more), read(few))).isEmpty();
        assertThat(Weakening.of(read(few), read(files(BASE)))).containsExactly("passkey takes other authenticators.");
        assertThat(Weakening.of(read(files(BASE)), read(few))).isEmpty();
        var ships = FILES.get("networks/ships.yaml").replace("shared: true", "shared: false");
        assertThat(after(BASE, Map.of("networks/ships.yaml", ships)))
                .containsExactly("Devices in network ships are remembered.");
    }

    @Test
    void what_stands_in_other_files_counts_too() {
        assertThat(after(
                        BASE,
                        Map.of(
                                "methods.yaml",
                                        "email-code: { life: 30m, tries: 9 }\nrecovery-code: { alone: true, factor: knowledge }\n",
                                "passwords/rules.yaml", "password: rules\nmin-length: 8\n",
                                "networks/ships.yaml", "network: ships\nranges: [10.0.0.0/8]\n",
                                "scopes/crew.yaml", "scope: crew\nnone: []\n")))
                .anyMatch(s -> s.contains("email-code lives longer"))
                .anyMatch(s -> s.contains("tried more often"))
                .anyMatch(s -> s.contains("recovery-code may be enough alone"))
                .contains("recovery-code counts as knowledge instead of possession.")
                .anyMatch(s -> s.contains("weaker passwords"))
                .anyMatch(s -> s.contains("Network ships"))
                .anyMatch(s -> s.contains("Scope crew"));
    }
}
