package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

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
            + "tell: { person: [reset, unlock], may-switch-off: [unlock], alarm: close }\n";

    private static Configuration base() {
        return DecisionTest.read(DecisionTest.files(BASE));
    }

    private static List<String> after(String policy, Map<String, String> others) {
        var files = DecisionTest.files(policy);
        files.putAll(others);
        return Weakening.of(base(), DecisionTest.read(files));
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
                "alarm: close | alarm: tell | no longer closes self-service"
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
