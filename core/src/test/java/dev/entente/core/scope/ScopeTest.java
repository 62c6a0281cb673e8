package dev.entente.core.scope;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.scope.Expression.AllOf;
import dev.entente.core.scope.Expression.AnyOf;
import dev.entente.core.scope.Expression.InGroup;
import dev.entente.core.scope.Expression.Named;
import dev.entente.core.scope.Expression.NoneOf;
import dev.entente.core.scope.Expression.Unknowable;
import dev.entente.core.scope.Expression.Where;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class ScopeTest {
    /** Who is in a portion may not change with the version: somebody who was let in would be shut out by an upgrade. */
    @ParameterizedTest
    @CsvSource({
        "pilot, 00000000-0000-0000-0000-000000000000, 8078",
        "pilot, 00000000-0000-0001-0000-000000000001, 1020",
        "pilot, ffffffff-ffff-ffff-0000-00000000002a, 9172",
        "pilot, 6f1c2a3e-90b1-4c57-8d2f-0a1b2c3d4e5f, 4958",
        "'', 00000000-0000-0000-0000-000000000000, 1126",
        "'', 6f1c2a3e-90b1-4c57-8d2f-0a1b2c3d4e5f, 9181",
        "Überfahrt, ffffffff-ffff-ffff-0000-00000000002a, 50"
    })
    void a_portion_holds_the_same_people_in_every_version(String seed, UUID person, int from) {
        assertThat(new Scope.Portion(from - 1, seed).holds(person)).isFalse();
        assertThat(new Scope.Portion(from, seed).holds(person)).isTrue();
        assertThat(new Scope.Portion(10_000, seed).holds(person)).isTrue();
    }

    @Test
    void leaves_are_replaced_wherever_they_stand() {
        var gone = new InGroup("CN=Gone,DC=x");
        var stays = new Named(List.of("anna"));
        var scope = new Scope(
                "s",
                "S",
                new AllOf(List.of(new AnyOf(List.of(gone, stays)), new NoneOf(List.of(gone)))),
                Optional.of(new Scope.Portion(2_550, "s")));
        var replaced = scope.with(leaf -> leaf.equals(gone) ? new Unknowable(leaf, "it is gone") : leaf);
        assertThat(replaced)
                .isEqualTo(new Scope(
                        "s",
                        "S",
                        new AllOf(List.of(
                                new AnyOf(List.of(new Unknowable(gone, "it is gone"), stays)),
                                new NoneOf(List.of(new Unknowable(gone, "it is gone"))))),
                        scope.portion()));
        assertThat(replaced.words())
                .isEqualTo("in a stable 25.5% of those in the group Gone (it is gone) or named anna but not in the"
                        + " group Gone (it is gone)");
        assertThat(new Scope("s", "S", new Where("department", new Condition.Present()), Optional.empty()).words())
                .isEqualTo("whose department has a value");
    }

    @ParameterizedTest
    @CsvSource({"2500, 25%", "50, 0.5%", "5, 0.05%", "10000, 100%", "1234, 12.34%"})
    void a_portion_is_told_as_in_a_file(int basisPoints, String told) {
        assertThat(new Scope.Portion(basisPoints, "s")).hasToString(told);
    }

    @ParameterizedTest
    @ValueSource(strings = {"department", "employeeNumber", "cn", "extensionAttribute1", "a;lang-en"})
    void what_may_be_read(String attribute) {
        assertThat(ReadableAttributes.refused(attribute)).isEmpty();
        assertThat(ReadableAttributes.refused(List.of(attribute, "title"))).isEmpty();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            nullValues = "null",
            value = {
                "userPassword | may hold a secret",
                "unicodePwd | may hold a secret",
                "mail | contact value",
                "otherMobile | contact value",
                "1st | is not the name",
                "'a b' | is not the name",
                "null | is not the name"
            })
    void what_is_never_read_and_why(String attribute, String why) {
        assertThat(ReadableAttributes.refused(attribute)).get().asString().contains(why);
        if (attribute != null) {
            assertThat(ReadableAttributes.refused(List.of("title", attribute)))
                    .get()
                    .asString()
                    .contains(why);
        }
    }
}
