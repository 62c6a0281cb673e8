package dev.entente.core.policy;

import dev.entente.core.verify.Method;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * What a scope may do and must prove, complete: whatever the file did not say is inherited, and each value tells from where.
 *
 * @param name as files refer to it
 * @param title for people
 * @param scope the name of the scope it covers
 * @param allow actions that are switched on
 * @param prove what must be proved before a reset
 * @param password the name of the rule set
 * @param deliverTo directories whose accounts get the new password
 * @param clearLockout clear a lockout together with the reset
 * @param mustChange ask for another password at the next sign-in
 * @param resets how many resets in a window
 * @param tellPerson actions after which the person is told
 */
public record Policy(
        String name,
        String title,
        String scope,
        Setting<Set<Action>> allow,
        Setting<Requirement> prove,
        Setting<String> password,
        Setting<List<String>> deliverTo,
        Setting<Boolean> clearLockout,
        Setting<Boolean> mustChange,
        Setting<Rate> resets,
        Setting<Set<Action>> tellPerson) {

    /**
     * A value and where it was said.
     *
     * @param source a file's path, or {@code built in}
     */
    public record Setting<T>(T value, String source) {}

    /**
     * What must be proved.
     *
     * @param methods how many
     * @param anyOf from which
     */
    public record Requirement(int methods, List<Method> anyOf) {}

    /** At most {@code count} in any window of this length. */
    public record Rate(int count, Duration per) {
        @Override
        public String toString() {
            var hours = per.toHours();
            return count + " per " + (hours * 60 == per.toMinutes() ? hours + "h" : per.toMinutes() + "m");
        }
    }

    /** Every value as text with its source, by its path in a file, in the order of the file. */
    public Map<String, Setting<String>> facts() {
        var facts = new LinkedHashMap<String, Setting<String>>();
        facts.put("allow", text(allow, labels(allow.value())));
        facts.put(
                "prove.reset.methods", text(prove, String.valueOf(prove.value().methods())));
        facts.put(
                "prove.reset.any-of",
                text(
                        prove,
                        String.join(
                                ", ",
                                prove.value().anyOf().stream()
                                        .map(Method::label)
                                        .toList())));
        facts.put("password", text(password, password.value()));
        facts.put("deliver.to", text(deliverTo, String.join(", ", deliverTo.value())));
        facts.put("deliver.clear-lockout", text(clearLockout, clearLockout.value() ? "yes" : "no"));
        facts.put("deliver.must-change", text(mustChange, mustChange.value() ? "yes" : "no"));
        facts.put("limit.resets", text(resets, resets.value().toString()));
        facts.put("tell.person", text(tellPerson, labels(tellPerson.value())));
        return facts;
    }

    /** The policy as sentences that a person could say aloud. */
    public List<String> sentences(String scopeTitle) {
        var methods = String.join(
                " or ",
                prove.value().anyOf().stream()
                        .map(m -> m.label().replace('-', ' '))
                        .toList());
        return List.of(
                scopeTitle + " may "
                        + (allow.value().isEmpty()
                                ? "do nothing by themselves"
                                : labels(allow.value()) + " their password by themselves")
                        + ".",
                prove.value().methods() == 1
                        ? "First they prove that it is them by " + methods + "."
                        : "First they prove " + prove.value().methods() + " of: " + methods + ".",
                "A new password meets the rule set " + password.value() + " and every rule of the directory itself.",
                "It is written to " + String.join(" and ", deliverTo.value())
                        + (clearLockout.value() ? ", clearing a lockout" : "")
                        + (mustChange.value() ? ", and must be changed at the next sign-in" : "") + ".",
                "One person may reset at most " + resets.value().toString().replace(" per ", " times in ") + ".",
                tellPerson.value().isEmpty()
                        ? "Nobody is told."
                        : "The person is told by e-mail after each " + labels(tellPerson.value()) + ".");
    }

    private static String labels(Set<Action> actions) {
        return actions.isEmpty()
                ? "nothing"
                : String.join(", ", actions.stream().sorted().map(Action::label).toList());
    }

    private static Setting<String> text(Setting<?> of, String value) {
        return new Setting<>(value, of.source());
    }
}
