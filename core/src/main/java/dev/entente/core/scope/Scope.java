package dev.entente.core.scope;

import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.function.UnaryOperator;

/**
 * A named set of people.
 *
 * @param name as policies refer to it
 * @param title for people; the name if none was given
 * @param expression who is meant
 * @param portion a stable share of those; empty for all of them
 */
public record Scope(String name, String title, Expression expression, Optional<Portion> portion) {

    /**
     * A share that is the same people each time, and keeps everybody when it grows.
     *
     * @param basisPoints hundredths of a percent, 1 to 10,000
     * @param seed which people come first; the name of the scope unless the file says another
     */
    public record Portion(int basisPoints, String seed) {
        /** Whether somebody is in the share. */
        public boolean holds(UUID person) {
            return place(person) < basisPoints;
        }

        /** A place from 0 to 9,999 that depends on person and seed alone. */
        private int place(UUID person) {
            // Mixing as in SplitMix64: each bit of the input moves about half of the output.
            var hash = 0xcbf29ce484222325L;
            for (var i = 0; i < seed.length(); i++) {
                hash = (hash ^ seed.charAt(i)) * 0x100000001b3L;
            }
            hash = mix(hash ^ person.getMostSignificantBits());
            hash = mix(hash + person.getLeastSignificantBits());
            return (int) Long.remainderUnsigned(hash, 10_000);
        }

        private static long mix(long value) {
            var z = value + 0x9e3779b97f4a7c15L;
            z = (z ^ (z >>> 30)) * 0xbf58476d1ce4e5b9L;
            z = (z ^ (z >>> 27)) * 0x94d049bb133111ebL;
            return z ^ (z >>> 31);
        }

        /** As in a file: {@code 25%}, {@code 0.5%}. */
        @Override
        public String toString() {
            var whole = basisPoints / 100;
            var part = basisPoints % 100;
            return whole + (part == 0 ? "" : part % 10 == 0 ? "." + part / 10 : ".%02d".formatted(part)) + "%";
        }
    }

    /** The same with leaves of its expression replaced, such as what names something that is gone. */
    public Scope with(UnaryOperator<Expression> leaf) {
        return new Scope(name, title, replaced(expression, leaf), portion);
    }

    private static Expression replaced(Expression expression, UnaryOperator<Expression> leaf) {
        if (expression instanceof Expression.AnyOf any) {
            return new Expression.AnyOf(replaced(any.parts(), leaf));
        }
        if (expression instanceof Expression.AllOf all) {
            return new Expression.AllOf(replaced(all.parts(), leaf));
        }
        if (expression instanceof Expression.NoneOf none) {
            return new Expression.NoneOf(replaced(none.parts(), leaf));
        }
        return leaf.apply(expression);
    }

    private static List<Expression> replaced(List<Expression> parts, UnaryOperator<Expression> leaf) {
        return parts.stream().map(part -> replaced(part, leaf)).toList();
    }

    /** In words, to follow "people". */
    public String words() {
        return portion.map(p -> "in a stable " + p + " of those ").orElse("") + expression.words();
    }
}
