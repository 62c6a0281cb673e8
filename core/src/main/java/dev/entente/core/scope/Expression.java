package dev.entente.core.scope;

import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Which people are meant. */
public sealed interface Expression {
    /** In words, to follow "people". */
    String words();

    /**
     * Members of a group, nested members included.
     *
     * @param group its distinguished name
     * @param key the name as it is compared: worked out once, as it is asked for at every decision
     * @param name as people know it
     */
    record InGroup(String group, String key, String name) implements Expression {
        public InGroup(String group) {
            this(group, GroupGraph.key(group), GroupGraph.shortName(group));
        }

        @Override
        public String words() {
            return "in the group " + name;
        }
    }

    /**
     * Accounts in an OU.
     *
     * @param ou its distinguished name
     * @param below whether OUs below it count too
     * @param key the name as it is compared
     * @param name as people know it
     */
    record InOu(String ou, boolean below, String key, String name) implements Expression {
        public InOu(String ou, boolean below) {
            this(ou, below, GroupGraph.key(ou), GroupGraph.shortName(ou));
        }

        @Override
        public String words() {
            return "in the OU " + name + (below ? " or below" : " itself");
        }
    }

    /** An attribute of one of the accounts. */
    record Where(String attribute, Condition condition) implements Expression {
        @Override
        public String words() {
            return "whose " + attribute + " " + condition.words();
        }
    }

    /** People by the names that they sign in with. */
    record Named(List<String> logins) implements Expression {
        public Named {
            logins = List.copyOf(logins);
        }

        @Override
        public String words() {
            return "named " + String.join(" or ", logins);
        }
    }

    /**
     * Something that cannot be known, since what it names is not there: an attribute that no directory is read for, a group or
     * an OU that is gone. Whoever it leaves out counts as left out, and whoever it would bring in is not in.
     *
     * @param meant what was written
     * @param why a sentence part
     */
    record Unknowable(Expression meant, String why) implements Expression {
        @Override
        public String words() {
            return meant.words() + " (" + why + ")";
        }
    }

    /** People of another scope. */
    record InScope(String scope) implements Expression {
        @Override
        public String words() {
            return "in the scope " + scope;
        }
    }

    /** In at least one of these; nobody if there is none. */
    record AnyOf(List<Expression> parts) implements Expression {
        public AnyOf {
            parts = List.copyOf(parts);
        }

        @Override
        public String words() {
            return joined(parts, " or ");
        }
    }

    /** In every one of these. */
    record AllOf(List<Expression> parts) implements Expression {
        public AllOf {
            parts = List.copyOf(parts);
        }

        @Override
        public String words() {
            var in = parts.stream().filter(p -> !(p instanceof NoneOf)).toList();
            var out = parts.stream().filter(p -> p instanceof NoneOf).map(Expression::words);
            return Stream.concat(Stream.of(joined(in, " and ")).filter(w -> !w.isEmpty()), out)
                    .collect(Collectors.joining(" "));
        }
    }

    /** In none of these. */
    record NoneOf(List<Expression> parts) implements Expression {
        public NoneOf {
            parts = List.copyOf(parts);
        }

        @Override
        public String words() {
            return parts.isEmpty() ? "whoever they are" : "but not " + joined(parts, " or ");
        }
    }

    private static boolean several(Expression expression) {
        return (expression instanceof AnyOf any && any.parts().size() > 1)
                || (expression instanceof AllOf all && all.parts().size() > 1);
    }

    private static String joined(List<Expression> parts, String word) {
        return String.join(
                word,
                parts.stream()
                        .map(p -> parts.size() > 1 && several(p) ? "(" + p.words() + ")" : p.words())
                        .toList());
    }
}
