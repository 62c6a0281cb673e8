package dev.entente.core.password;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestFactory;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

class PasswordRulesTest {
    private record Vector(PasswordRules rules, List<String> details, String password, List<String> met) {}

    /** The page's guidance in TypeScript is held to the same file. */
    @TestFactory
    Stream<DynamicTest> vectors() {
        var vectors = JsonMapper.shared()
                .readValue(
                        getClass().getResourceAsStream("password-vectors.json"), new TypeReference<List<Vector>>() {});
        return vectors.stream()
                .map(v -> DynamicTest.dynamicTest(
                        "\"" + v.password() + "\"",
                        () -> assertThat(v.rules().check(v.password(), v.details()).stream()
                                        .filter(PasswordRules.Check::met)
                                        .map(PasswordRules.Check::rule))
                                .containsExactlyElementsOf(v.met())));
    }

    @Test
    void rules_have_bounds() {
        assertThatThrownBy(() -> new PasswordRules(0, 10, 1, true, List.of()))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new PasswordRules(12, 8, 1, true, List.of()))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new PasswordRules(1, 200, 1, true, List.of()))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new PasswordRules(1, 20, 5, true, List.of()))
                .isInstanceOf(IllegalArgumentException.class);
    }
}
