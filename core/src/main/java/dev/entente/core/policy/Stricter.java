package dev.entente.core.policy;

import dev.entente.core.verify.Method;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;

/**
 * What is asked for in addition when a condition holds. It can only ask for more.
 *
 * @param when the condition
 * @param actions for which it asks; empty for all
 * @param methods at least so many; 0 for no more than before
 * @param factors at least so many factors; 0 for no more than before
 * @param mustInclude these have to be among the proved as well
 * @param anyOf only these of the methods count; empty for all
 */
public record Stricter(
        When when, Set<Action> actions, int methods, int factors, List<Method> mustInclude, List<Method> anyOf) {
    public Stricter {
        actions = Set.copyOf(actions);
        mustInclude = List.copyOf(mustInclude);
        anyOf = List.copyOf(anyOf);
    }

    /** Whether it asks anything for an action. */
    public boolean concerns(Action action) {
        return actions.isEmpty() || actions.contains(action);
    }

    /** In words, to follow the condition. */
    public String words() {
        var parts = new ArrayList<String>();
        if (methods > 0) {
            parts.add(methods + " methods");
        }
        if (factors > 0) {
            parts.add(factors + " factors");
        }
        if (!mustInclude.isEmpty()) {
            parts.add(String.join(
                            " and ", mustInclude.stream().map(Requirement::name).toList()) + " among them");
        }
        if (!anyOf.isEmpty()) {
            parts.add("only by "
                    + String.join(" or ", anyOf.stream().map(Requirement::name).toList()));
        }
        return String.join(", ", parts)
                + (actions.isEmpty()
                        ? ""
                        : " for "
                                + String.join(
                                        ", ",
                                        actions.stream()
                                                .sorted()
                                                .map(Action::label)
                                                .toList()));
    }
}
