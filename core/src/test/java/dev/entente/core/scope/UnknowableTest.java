package dev.entente.core.scope;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.scope.Expression.AllOf;
import dev.entente.core.scope.Expression.AnyOf;
import dev.entente.core.scope.Expression.InScope;
import dev.entente.core.scope.Expression.Named;
import dev.entente.core.scope.Expression.NoneOf;
import dev.entente.core.scope.Expression.Unknowable;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.UUID;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestFactory;

/** What cannot be known brings nobody in and lets nobody in, however it is nested, one by one and all at once alike. */
class UnknowableTest {
    private static final LocalDate TODAY = LocalDate.of(2026, 11, 28);
    private static final Expression GONE = new Unknowable(new Named(List.of("x")), "it is gone");
    private static final List<Subject> PEOPLE = IntStream.range(0, 8)
            .mapToObj(i -> new Subject(new UUID(1, i), Set.of(), List.of(), Set.of("p" + i), Map.of()))
            .toList();

    private static boolean covers(Subject subject, Map<String, Scope> scopes) {
        return new Membership(scopes, subject, new GroupGraph(Map.of()), TODAY)
                .in("s")
                .covers();
    }

    private static Map<String, Scope> scope(Expression expression) {
        return Map.of("s", new Scope("s", "S", expression, Optional.empty()));
    }

    @Test
    void nobody_is_let_in_by_an_exclusion_that_cannot_be_known_not_even_by_a_double_one() {
        var everybody =
                new Named(PEOPLE.stream().map(p -> p.logins().iterator().next()).toList());
        var one = PEOPLE.get(0);
        assertThat(covers(one, scope(everybody))).isTrue();
        assertThat(covers(one, scope(GONE))).isFalse();
        assertThat(covers(one, scope(new AnyOf(List.of(GONE, everybody))))).isTrue();
        assertThat(covers(one, scope(new AllOf(List.of(everybody, new NoneOf(List.of(GONE)))))))
                .isFalse();
        assertThat(covers(one, scope(new NoneOf(List.of(new NoneOf(List.of(GONE)))))))
                .isFalse();
    }

    private static Expression random(Random random, int depth) {
        if (depth == 0 || random.nextInt(4) == 0) {
            return random.nextInt(3) == 0
                    ? GONE
                    : new Named(IntStream.range(0, 8)
                            .filter(i -> random.nextBoolean())
                            .mapToObj(i -> "p" + i)
                            .toList());
        }
        var parts = new ArrayList<Expression>();
        for (var i = random.nextInt(3); i >= 0; i--) {
            parts.add(random(random, depth - 1));
        }
        return switch (random.nextInt(3)) {
            case 0 -> new AnyOf(parts);
            case 1 -> new AllOf(parts);
            default -> new NoneOf(parts);
        };
    }

    /** What it would be if what is gone were known: covered for sure only if so for every answer that it could have. */
    private static boolean covered(Expression expression, String login, boolean gone) {
        if (expression instanceof Unknowable) {
            return gone;
        }
        if (expression instanceof AnyOf any) {
            return any.parts().stream().anyMatch(p -> covered(p, login, gone));
        }
        if (expression instanceof AllOf all) {
            return all.parts().stream().allMatch(p -> covered(p, login, gone));
        }
        if (expression instanceof NoneOf none) {
            return none.parts().stream().noneMatch(p -> covered(p, login, gone));
        }
        return ((Named) expression).logins().contains(login);
    }

    @TestFactory
    Stream<DynamicTest> one_by_one_and_all_at_once_agree_and_cover_nobody_whom_any_answer_would_leave_out() {
        return IntStream.range(0, 200)
                .mapToObj(seed -> DynamicTest.dynamicTest("world " + seed, () -> {
                    var random = new Random(seed);
                    var expression = random(random, 4);
                    var scopes = Map.of(
                            "s", new Scope("s", "S", new InScope("t"), Optional.empty()),
                            "t", new Scope("t", "T", expression, Optional.empty()));
                    var population = new Population();
                    PEOPLE.forEach(population::add);
                    var sets = new ScopeSets(population, scopes, TODAY);
                    for (var person : PEOPLE) {
                        var login = person.logins().iterator().next();
                        var covers = covers(person, scopes);
                        assertThat(sets.of("s").contains(population.number(person.id())))
                                .isEqualTo(covers);
                        if (covers) {
                            assertThat(covered(expression, login, true)).isTrue();
                            assertThat(covered(expression, login, false)).isTrue();
                        }
                    }
                }));
    }
}
