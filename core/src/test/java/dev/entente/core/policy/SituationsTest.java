package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;

/** Every situation that conditions can tell apart is looked at, not only the present moment. */
class SituationsTest {
    private static final Instant NOON = Instant.parse("2026-11-25T12:00:00Z");

    private static Configuration configuration(String conditions) {
        var read = ConfigurationReader.read(
                Map.of(
                        "networks/office.yaml", "network: office\ntitle: the office\nranges: [10.1.0.0/16]\n",
                        "networks/fleet.yaml",
                                "network: fleet\ntitle: the fleet\nranges: [10.1.128.0/17, 10.2.0.0/16]\n",
                        "scopes/all.yaml", "scope: all\nnone: []\n",
                        "passwords/p.yaml", "password: p\n",
                        "policies/one.yaml", """
                                policy: one
                                who: scope all
                                allow: [reset, unlock]
                                password: p
                                deliver: { to: [shore] }
                                """ + conditions),
                List.of("shore"));
        return read.configuration().orElseThrow(() -> new AssertionError(read.problems()));
    }

    private static List<String> words(Configuration configuration, Action action) {
        return Situations.of(List.of(configuration), Set.of(action), NOON, false, null, Set.of()).stream()
                .map(Situations.Situation::words)
                .toList();
    }

    @Test
    void where_no_condition_asks_there_is_one() {
        assertThat(words(configuration(""), Action.RESET)).containsExactly("");
    }

    @Test
    void where_a_known_device_counts_as_a_proof_devices_are_told_apart() {
        assertThat(words(
                        configuration(
                                "prove:\n  reset: { methods: 2, any-of: [email-code, sms-code, known-device] }\n"),
                        Action.RESET))
                .containsExactly("on a known device", "on an unknown device");
    }

    @Test
    void networks_that_overlap_times_and_devices_are_told_apart() {
        var configuration = configuration("""
                refuse:
                  - { actions: [reset], when: outside office }
                prove:
                  stricter:
                    - { when: inside fleet, methods: 1 }
                    - { when: unknown-device, methods: 1 }
                    - { when: "Mon-Fri 22:00-06:00 Europe/Oslo", methods: 1 }
                """);
        var words = words(configuration, Action.RESET);
        assertThat(words).hasSize(4 * 2 * 2).doesNotHaveDuplicates();
        assertThat(words)
                .anyMatch(w -> w.startsWith("from inside the office and the fleet"))
                .anyMatch(w -> w.startsWith("from inside the office,"))
                .anyMatch(w -> w.startsWith("from inside the fleet,"))
                .anyMatch(w -> w.startsWith("from elsewhere"))
                .anyMatch(w -> w.contains("at other times") && w.endsWith("on a known device"));
    }

    @Test
    void every_situation_gives_what_its_words_say() {
        var configuration = configuration("""
                refuse:
                  - { actions: [reset], when: outside office }
                  - { actions: [unlock], when: inside fleet }
                """);
        var refusal = configuration.policies().get(0).refuse().value().get(0).when();
        var situations = Situations.of(List.of(configuration), Set.of(Action.RESET), NOON, false, null, Set.of());
        assertThat(situations).hasSize(2);
        for (var situation : situations) {
            assertThat(refusal.holds(null, situation.circumstances()))
                    .isEqualTo(situation.words().equals("from elsewhere"));
        }
        assertThat(Situations.of(List.of(configuration), Set.of(Action.RESET), NOON, false, "10.1.2.3", Set.of()))
                .extracting(Situations.Situation::words)
                .containsExactly("from 10.1.2.3");
    }

    @Test
    void a_policy_that_asks_for_what_nobody_can_ever_set_up_is_a_finding_with_the_way_out() {
        var files = new java.util.TreeMap<>(Map.of(
                "scopes/all.yaml", "scope: all\nnone: []\n",
                "passwords/p.yaml", "password: p\n",
                "policies/one.yaml", """
                        policy: one
                        who: scope all
                        allow: [reset, details]
                        password: p
                        deliver: { to: [shore] }
                        prove:
                          reset: { any-of: [app-code] }
                        """));
        var never = ConfigurationReader.read(files, List.of("shore"));
        assertThat(never.configuration()).isPresent();
        assertThat(never.findings())
                .singleElement()
                .satisfies(
                        f -> assertThat(f.message()).contains("can never reset", "Accept email-code for details too"));
        files.compute("policies/one.yaml", (path, text) -> text + "  details: { any-of: [email-code] }\n");
        assertThat(ConfigurationReader.read(files, List.of("shore")).findings()).isEmpty();
    }
}
