package dev.entente.core.scope;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.scope.Expression.AllOf;
import dev.entente.core.scope.Expression.AnyOf;
import dev.entente.core.scope.Expression.InScope;
import dev.entente.core.scope.Expression.NoneOf;
import java.util.List;
import org.junit.jupiter.api.Test;

/** A scope in words reads one way only: what belongs together is in parentheses, and nothing else is. */
class ExpressionWordsTest {
    private static final Expression A = new InScope("a");
    private static final Expression B = new InScope("b");
    private static final Expression C = new InScope("c");
    private static final String WORDS_A = A.words();
    private static final String WORDS_B = B.words();
    private static final String WORDS_C = C.words();

    @Test
    void several_inside_several_are_in_parentheses() {
        assertThat(new AllOf(List.of(new AnyOf(List.of(A, B)), C)).words())
                .isEqualTo("(" + WORDS_A + " or " + WORDS_B + ") and " + WORDS_C);
        assertThat(new AnyOf(List.of(new AllOf(List.of(A, B)), C)).words())
                .isEqualTo("(" + WORDS_A + " and " + WORDS_B + ") or " + WORDS_C);
    }

    @Test
    void one_inside_several_and_several_alone_are_not() {
        assertThat(new AllOf(List.of(new AnyOf(List.of(A)), C)).words()).isEqualTo(WORDS_A + " and " + WORDS_C);
        assertThat(new AnyOf(List.of(new AllOf(List.of(A)), C)).words()).isEqualTo(WORDS_A + " or " + WORDS_C);
        assertThat(new AllOf(List.of(new AnyOf(List.of(A, B)))).words()).isEqualTo(WORDS_A + " or " + WORDS_B);
    }

    @Test
    void what_is_left_out_comes_last() {
        assertThat(new AllOf(List.of(new NoneOf(List.of(B, C)), A)).words())
                .isEqualTo(WORDS_A + " but not " + WORDS_B + " or " + WORDS_C);
    }
}
