package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.verify.Method;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What has to be proved: in words, what may come first, and what comes next. */
class RequirementTest {
    private static Requirement reset(String proof) {
        return DecisionTest.read(DecisionTest.files("prove:\n  reset: { " + proof + " }\n"))
                .policies()
                .get(0)
                .proof(Action.RESET)
                .value();
    }

    private static List<Method> methods(String... labels) {
        return Stream.of(labels).map(Method::of).toList();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "any-of: [email-code] | an email code",
                "any-of: [email-code, passkey] | an email code or a passkey",
                "any-of: [email-code, recovery-code] | an email code or a recovery code; a recovery code isn't enough alone",
                "'any-of: [email-code, recovery-code, known-device]' | 'an email code or a recovery code or a known device; a known device and a recovery code aren''t enough alone'",
                "'methods: 2, any-of: [email-code, app-code]' | 2 of email code and app code",
                "'methods: 2, any-of: [email-code, app-code, sms-code]' | '2 of email code, app code and text code'",
                "'methods: 2, factors: 2, any-of: [email-code, passkey]' | '2 of email code and passkey, with 2 different factors'",
                "'methods: 2, any-of: [email-code, app-code], must-include: [app-code]'"
                        + " | '2 of email code and app code, including an app code'",
                "'methods: 2, any-of: [email-code, app-code], first: [app-code]'"
                        + " | '2 of email code and app code, starting with an app code'",
            })
    void it_reads_as_a_sentence_goes_on(String proof, String words) {
        assertThat(reset(proof).words()).isEqualTo(words);
    }

    @Test
    void what_may_not_come_first_counts_only_after_something_else() {
        var late = Method.known().stream().filter(m -> !m.mayComeFirst()).toList();
        assertThat(late).isNotEmpty();
        for (var method : late) {
            var requirement = reset("methods: 2, any-of: [email-code, " + method.label() + "]");
            assertThat(requirement.metBy(methods("email-code", method.label()))).isTrue();
            assertThat(requirement.metBy(methods(method.label(), "email-code")))
                    .as(method.label() + " first")
                    .isFalse();
            assertThat(requirement.next(List.of())).containsExactly(Method.of("email-code"));
            assertThat(requirement.next(methods("email-code"))).containsExactly(method);
        }
    }

    @Test
    void what_has_to_be_among_them_is_asked_for_once_nothing_else_would_help() {
        var requirement =
                reset("methods: 3, any-of: [email-code, app-code, sms-code, passkey], must-include: [app-code]");
        assertThat(requirement.next(List.of())).hasSize(4);
        assertThat(requirement.next(methods("email-code")))
                .as("one other may still come")
                .containsExactlyInAnyOrderElementsOf(methods("app-code", "sms-code", "passkey"));
        assertThat(requirement.next(methods("email-code", "sms-code"))).containsExactly(Method.of("app-code"));
        assertThat(requirement.next(methods("app-code", "email-code")))
                .containsExactlyInAnyOrderElementsOf(methods("sms-code", "passkey"));
        assertThat(requirement.next(methods("app-code", "email-code", "passkey")))
                .isEmpty();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "methods: 2 | 2 methods",
                "'methods: 2, factors: 2' | '2 methods, 2 factors'",
                "must-include: [app-code, email-code] | app code and email code among them",
                "any-of: [app-code, email-code] | only by app code or email code",
                "'methods: 2, factors: 2, any-of: [app-code, passkey], actions: [unlock, reset]'"
                        + " | '2 methods, 2 factors, only by app code or passkey for reset, unlock'",
            })
    void what_a_condition_asks_for_besides_reads_as_words(String more, String words) {
        var stricter = DecisionTest.read(DecisionTest.files(
                        "prove:\n  reset: { any-of: [email-code, app-code, passkey] }\n  stricter: [{ when: privileged, "
                                + more + " }]\n"))
                .policies()
                .get(0)
                .stricter()
                .value()
                .get(0);
        assertThat(stricter.words()).isEqualTo(words);
        assertThat(stricter.concerns(Action.RESET)).isTrue();
        assertThat(stricter.concerns(Action.CHANGE)).isEqualTo(!more.contains("actions"));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "outside ships | from outside the ships | true",
                "inside ships | from inside the ships | true",
                "privileged | for privileged accounts | false",
                "unknown-device | from an unknown device | true",
                "Mon-Tue 08:00-18:00 UTC | 'on Mon, Tue from 08:00 to 18:00 (UTC)' | true",
            })
    void a_condition_reads_as_words_and_says_whether_circumstances_decide_it(
            String when, String words, boolean circumstantial) {
        var refusal = DecisionTest.read(DecisionTest.files("refuse: [{ actions: [unlock], when: " + when + " }]\n"))
                .policies()
                .get(0)
                .refuse()
                .value()
                .get(0);
        assertThat(refusal.when().words()).isEqualTo(words);
        assertThat(refusal.when().circumstantial()).isEqualTo(circumstantial);
    }
}
