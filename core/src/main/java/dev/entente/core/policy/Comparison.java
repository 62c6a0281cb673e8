package dev.entente.core.policy;

import com.github.difflib.DiffUtils;
import com.github.difflib.UnifiedDiffUtils;
import dev.entente.core.scope.Scope;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import java.util.TreeSet;

/**
 * What changes from one state of the configuration to another.
 *
 * @param sentences one for each change that matters to people; empty if the states mean the same
 * @param diff the same as changed files in unified format
 */
public record Comparison(List<String> sentences, String diff) {
    /** Compares by meaning. */
    public static Comparison of(
            Configuration before,
            Map<String, String> filesBefore,
            Configuration after,
            Map<String, String> filesAfter) {
        var sentences = new ArrayList<String>();
        compare(sentences, "Scope", scopes(before), scopes(after));
        compare(sentences, "Password rules", passwords(before), passwords(after));
        compare(sentences, "Network", networks(before), networks(after));
        compare(sentences, "Terms", terms(before), terms(after));
        compare(sentences, "Method", methods(before), methods(after));
        messages(sentences, before, after);
        for (var policy : after.policies()) {
            if (before.policies().stream().noneMatch(p -> p.name().equals(policy.name()))) {
                sentences.add("Policy " + policy.name() + " is new: "
                        + String.join(
                                " ",
                                policy.texts(after.scopes().get(policy.scope()).title())));
            }
        }
        var known = before.policies().stream().map(Policy::name).toList();
        compare(sentences, "Policy", policies(before, known), policies(after, known));
        var orderBefore = before.policies().stream().map(Policy::name).toList();
        var orderAfter = after.policies().stream().map(Policy::name).toList();
        if (!orderBefore.equals(orderAfter) && orderBefore.size() == orderAfter.size()) {
            sentences.add("Order of policies: " + String.join(", ", orderAfter) + " (was "
                    + String.join(", ", orderBefore) + ").");
        }
        return new Comparison(List.copyOf(sentences), diff(filesBefore, filesAfter));
    }

    private static void compare(
            List<String> sentences,
            String noun,
            Map<String, Map<String, String>> before,
            Map<String, Map<String, String>> after) {
        var names = new TreeSet<>(before.keySet());
        names.addAll(after.keySet());
        for (var name : names) {
            if (!before.containsKey(name)) {
                sentences.add(noun + " " + name + " is new: " + describe(after.get(name)) + ".");
            } else if (!after.containsKey(name)) {
                sentences.add(noun + " " + name + " is removed.");
            } else {
                var facts = new LinkedHashSet<>(before.get(name).keySet());
                facts.addAll(after.get(name).keySet());
                for (var fact : facts) {
                    var old = before.get(name).get(fact);
                    var value = after.get(name).get(fact);
                    if (!Objects.equals(old, value)) {
                        sentences.add(noun + " " + name + ": " + fact
                                + (value == null ? " is no longer said" : " becomes " + value)
                                + (old == null ? "." : " (was " + old + ")."));
                    }
                }
            }
        }
    }

    private static String describe(Map<String, String> facts) {
        return String.join(
                "; ",
                facts.entrySet().stream()
                        .map(e -> e.getKey() + " " + e.getValue())
                        .toList());
    }

    private static Map<String, Map<String, String>> scopes(Configuration configuration) {
        var all = new LinkedHashMap<String, Map<String, String>>();
        configuration.scopes().forEach((name, scope) -> {
            var facts = new LinkedHashMap<String, String>();
            facts.put("people", scope.expression().words());
            facts.put("portion", scope.portion().map(Scope.Portion::toString).orElse("all of them"));
            all.put(name, facts);
        });
        return all;
    }

    private static Map<String, Map<String, String>> passwords(Configuration configuration) {
        var all = new LinkedHashMap<String, Map<String, String>>();
        configuration.passwords().forEach((name, rules) -> {
            var facts = new LinkedHashMap<String, String>();
            facts.put("min-length", String.valueOf(rules.minLength()));
            facts.put("max-length", String.valueOf(rules.maxLength()));
            facts.put("kinds", String.valueOf(rules.kinds()));
            facts.put("no-personal-details", rules.noPersonalDetails() ? "yes" : "no");
            facts.put(
                    "blocked-words", rules.blockedWords().isEmpty() ? "none" : String.join(", ", rules.blockedWords()));
            all.put(name, facts);
        });
        return all;
    }

    private static Map<String, Map<String, String>> networks(Configuration configuration) {
        var all = new LinkedHashMap<String, Map<String, String>>();
        configuration
                .networks()
                .forEach((name, network) -> all.put(
                        name,
                        Map.of(
                                "ranges",
                                String.join(", ", network.ranges()),
                                "shared",
                                network.shared() ? "yes" : "no")));
        return all;
    }

    private static Map<String, Map<String, String>> terms(Configuration configuration) {
        var all = new LinkedHashMap<String, Map<String, String>>();
        configuration.terms().forEach((name, terms) -> {
            var facts = new TreeMap<String, String>();
            terms.texts().forEach((language, text) -> facts.put("text in " + language, "\"" + text + "\""));
            all.put(name, facts);
        });
        return all;
    }

    private static Map<String, Map<String, String>> methods(Configuration configuration) {
        var all = new LinkedHashMap<String, Map<String, String>>();
        configuration.methods().forEach((method, settings) -> {
            var facts = new LinkedHashMap<String, String>();
            if (settings.life() != null) {
                facts.put("life", Policy.span(settings.life()));
            }
            facts.put("tries", String.valueOf(settings.tries()));
            facts.put("alone", settings.alone() ? "yes" : "no");
            facts.put("factor", settings.factor().label());
            method.ownSettings()
                    .forEach(own -> facts.put(
                            own.name(),
                            settings.own(own.name()).isEmpty() ? "any" : String.join(", ", settings.own(own.name()))));
            all.put(method.label(), facts);
        });
        return all;
    }

    /** Texts are too long for a sentence: which they are is told, and the files show how. */
    private static void messages(List<String> sentences, Configuration before, Configuration after) {
        for (var message : Message.values()) {
            var was = before.text(message);
            var is = after.text(message);
            var languages = new TreeSet<>(was.texts().keySet());
            languages.addAll(is.texts().keySet());
            for (var language : languages) {
                var same = Objects.equals(
                                was.subjects().get(language), is.subjects().get(language))
                        && Objects.equals(was.texts().get(language), is.texts().get(language));
                if (!same) {
                    sentences.add("Message " + message.label() + " in " + language
                            + (!was.texts().containsKey(language)
                                    ? " is new."
                                    : is.texts().containsKey(language) ? " has another text." : " is removed."));
                }
            }
        }
    }

    private static Map<String, Map<String, String>> policies(Configuration configuration, List<String> names) {
        var all = new LinkedHashMap<String, Map<String, String>>();
        for (var policy : configuration.policies()) {
            var facts = new LinkedHashMap<String, String>();
            facts.put("who", "scope " + policy.scope());
            policy.facts().forEach((fact, setting) -> facts.put(fact, setting.value()));
            if (names.contains(policy.name())) {
                all.put(policy.name(), facts);
            }
        }
        return all;
    }

    private static String diff(Map<String, String> before, Map<String, String> after) {
        var paths = new TreeSet<>(before.keySet());
        paths.addAll(after.keySet());
        var out = new StringBuilder();
        for (var path : paths) {
            var old = lines(before.get(path));
            var patch = DiffUtils.diff(old, lines(after.get(path)));
            for (var line : UnifiedDiffUtils.generateUnifiedDiff(
                    before.containsKey(path) ? "a/" + path : "/dev/null",
                    after.containsKey(path) ? "b/" + path : "/dev/null",
                    old,
                    patch,
                    3)) {
                out.append(line).append('\n');
            }
        }
        return out.toString();
    }

    private static List<String> lines(String text) {
        return text == null ? List.of() : text.lines().toList();
    }
}
