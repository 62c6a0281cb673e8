package dev.entente.service.verify;

import dev.entente.service.approval.Approvals;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.springframework.stereotype.Component;

/** Lists that administrators bring in for people. What can't be used is told one by one, and the rest waits or is made together. */
@Component
public class BroughtIn {
    private final Approvals approvals;

    BroughtIn(Approvals approvals) {
        this.approvals = approvals;
    }

    /**
     * What became of one item.
     *
     * @param state {@code imported}, {@code waits} or {@code refused}
     * @param why it was refused; null otherwise
     */
    public record Outcome<T>(T item, String state, String why) {}

    /**
     * What became of all.
     *
     * @param made false if those that can be used wait for another administrator
     */
    public record Outcomes<T>(boolean made, List<Outcome<T>> each) {}

    /**
     * Looks at each, and makes or proposes those that can be used.
     *
     * @param kind of the change, as {@link Approvals} knows it
     * @param key what may appear once only
     * @param twice why one that appears again is refused
     * @param wrong why one is refused; empty if it can be used
     * @param says what the change is, a sentence
     * @param wanted the change, written as JSON
     */
    public <T> Outcomes<T> bring(
            String kind,
            List<T> items,
            Function<T, String> key,
            String twice,
            Function<T, Optional<String>> wrong,
            Function<List<T>, String> says,
            Function<List<T>, Object> wanted,
            String administrator) {
        var keys = new HashSet<String>();
        var good = new ArrayList<T>();
        var refused = new ArrayList<Optional<String>>();
        for (var item : items) {
            var why = keys.add(key.apply(item)) ? wrong.apply(item) : Optional.of(twice);
            refused.add(why);
            if (why.isEmpty()) {
                good.add(item);
            }
        }
        var made = good.isEmpty()
                || approvals.make(kind, "", List.of(says.apply(good)), wanted.apply(good), administrator);
        var outcomes = new ArrayList<Outcome<T>>();
        for (var i = 0; i < items.size(); i++) {
            var why = refused.get(i);
            outcomes.add(new Outcome<>(
                    items.get(i), why.isPresent() ? "refused" : made ? "imported" : "waits", why.orElse(null)));
        }
        return new Outcomes<>(made, outcomes);
    }

    /** All names, since an approver approves each of them. */
    public static String named(List<String> names) {
        return String.join(", ", names);
    }
}
