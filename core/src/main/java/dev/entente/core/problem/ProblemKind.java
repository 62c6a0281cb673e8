package dev.entente.core.problem;

import com.ibm.icu.text.MessageFormat;
import java.util.HashMap;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;

/**
 * One kind of problem: its type, the status that it is answered with, and what it says.
 *
 * @param key the type, and after a slash which of several sentences of it
 * @param status of the answer (RFC 9110)
 * @param members that its document has beside those of RFC 9457
 * @param says a sentence by language, as an ICU message: what is filled in by its name
 * @param about what documents say of it instead, where the sentence is not its own; null elsewhere
 */
public record ProblemKind(String key, int status, Set<String> members, Map<String, MessageFormat> says, String about) {

    /** The stable type, such as {@code code-wrong}. */
    public String type() {
        return key.replaceFirst("/.*", "");
    }

    /** What it has to be told: what is filled in, and its members. */
    public Set<String> named() {
        var named = new TreeSet<>(members);
        says.values().forEach(format -> named.addAll(format.getArgumentNames()));
        return named;
    }

    /** The sentence with what is filled in; what was not told is left out. */
    public String words(Map<String, Object> values, String language) {
        var format = says.getOrDefault(language, says.get("en"));
        var filled = new HashMap<String, Object>();
        // A number is grouped only where it decides between one and several.
        named().forEach(name -> {
            var value = values.get(name);
            filled.put(
                    name,
                    value instanceof Number && format.toPattern().contains("{" + name + ", plural")
                            ? value
                            : value == null ? "" : value.toString());
        });
        // A format is no good for two at once.
        return ((MessageFormat) format.clone()).format(filled);
    }
}
