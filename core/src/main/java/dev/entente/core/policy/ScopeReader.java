package dev.entente.core.policy;

import dev.entente.core.policy.YamlDocument.Item;
import dev.entente.core.policy.YamlDocument.Members;
import dev.entente.core.scope.Condition;
import dev.entente.core.scope.Expression;
import dev.entente.core.scope.Expression.AllOf;
import dev.entente.core.scope.Expression.AnyOf;
import dev.entente.core.scope.Expression.InScope;
import dev.entente.core.scope.Expression.NoneOf;
import dev.entente.core.scope.GroupGraph;
import dev.entente.core.scope.Scope;
import dev.entente.core.scope.Scope.Portion;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.regex.Pattern;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.ScalarNode;

/** Reads {@code scopes/*.yaml}. Names of other scopes are looked at when all files are read. */
final class ScopeReader {
    private static final List<String> WORDS = List.of("group", "ou", "where", "people", "scope", "any", "all", "none");
    private static final List<String> CONDITIONS = List.of("starts-with", "present", "matches", "before", "after");
    private static final Pattern DAYS = Pattern.compile("today|[+-]?[0-9]{1,5}d");
    private static final int DEEPEST = 20;

    private final List<ConfigurationProblem> problems;
    private final Surroundings surroundings;
    private final Map<String, Scope> scopes = new LinkedHashMap<>();
    private final List<Named> named = new ArrayList<>();

    private record Named(YamlDocument document, Node node, String pointer, String inScope, String scope) {}

    /** @param surroundings what can be named; null where any name will do */
    ScopeReader(List<ConfigurationProblem> problems, Surroundings surroundings) {
        this.problems = problems;
        this.surroundings = surroundings;
    }

    void read(String path, String text) {
        var document = new YamlDocument(path, problems);
        document.root(text, List.of("scope", "title", "any", "all", "none", "portion", "seed"), Set.of())
                .ifPresent(root -> {
                    var name = ConfigurationReader.name(document, root, "scope");
                    var own = name.orElse("");
                    var title = document.text(root, "title");
                    if (!root.has("any") && !root.has("all") && !root.has("none")) {
                        document.problem(root.node(), "", "\"any\" is missing: name the people with any, all or none");
                    }
                    var expression = combined(document, root, own, 0);
                    var portion = document.value(
                            root,
                            "portion",
                            "a share from 0.01% to 100% is expected, such as 25%",
                            ScopeReader::portion);
                    var seed = document.text(root, "seed").orElse(own);
                    name.ifPresent(n -> scopes.put(
                            n, new Scope(n, title.orElse(n), expression, portion.map(p -> new Portion(p, seed)))));
                });
    }

    private static Optional<Integer> portion(String text) {
        if (!text.matches("[0-9]{1,3}(\\.[0-9]{1,2})?%")) {
            return Optional.empty();
        }
        var share = new BigDecimal(text.substring(0, text.length() - 1))
                .movePointRight(2)
                .intValue();
        return Optional.of(share).filter(s -> s >= 1 && s <= 10_000);
    }

    /** {@code any}, {@code all} and {@code none} side by side all have to hold. */
    private Expression combined(YamlDocument document, Members in, String own, int depth) {
        var parts = new ArrayList<Expression>();
        if (in.has("any")) {
            parts.add(new AnyOf(list(document, in, "any", own, depth)));
        }
        if (in.has("all")) {
            parts.addAll(list(document, in, "all", own, depth));
        }
        if (in.has("none")) {
            parts.add(new NoneOf(list(document, in, "none", own, depth)));
        }
        return parts.size() == 1 ? parts.get(0) : new AllOf(parts);
    }

    private List<Expression> list(YamlDocument document, Members in, String name, String own, int depth) {
        if (depth > DEEPEST) {
            document.problem(in.node(), in.pointer(), "nested more than " + DEEPEST + " deep");
            return List.of();
        }
        var items = document.list(in, name).orElse(List.of());
        if (items.isEmpty() && !name.equals("none") && in.values().get(name) != null) {
            document.problem(in.values().get(name), in.pointer() + "/" + name, "the list is empty, so no one is in it");
        }
        return items.stream()
                .flatMap(item -> item(document, item, own, depth + 1).stream())
                .toList();
    }

    private Optional<Expression> item(YamlDocument document, Item item, String own, int depth) {
        var words = new ArrayList<>(WORDS);
        words.add("below");
        return document.members(item.node(), item.pointer(), words, Set.of()).flatMap(in -> {
            var parts = new ArrayList<Expression>();
            dn(document, in, "group").ifPresent(dn -> parts.add(new Expression.InGroup(dn)));
            dn(document, in, "ou")
                    .ifPresent(dn -> parts.add(
                            new Expression.InOu(dn, document.flag(in, "below").orElse(true))));
            if (in.has("below") && !in.has("ou")) {
                document.problem(in.values().get("below"), in.pointer() + "/below", "below goes with ou");
            }
            if (in.has("where")) {
                document.mapping(in.values().get("where"), in.pointer() + "/where")
                        .ifPresent(where -> where.values()
                                .forEach((attribute, node) -> condition(
                                                document, node, where.pointer() + "/" + attribute)
                                        .ifPresent(c -> parts.add(new Expression.Where(attribute, c)))));
            }
            document.texts(in, "people").ifPresent(p -> parts.add(new Expression.Named(p)));
            document.text(in, "scope").ifPresent(scope -> {
                named.add(new Named(document, in.values().get("scope"), in.pointer() + "/scope", own, scope));
                parts.add(new InScope(scope));
            });
            if (in.has("any") || in.has("all") || in.has("none")) {
                parts.add(combined(document, in, own, depth));
            }
            if (surroundings != null) {
                for (var part : parts) {
                    surroundings
                            .missing(part)
                            .forEach(why -> document.problem(
                                    in.values().getOrDefault(word(part), item.node()),
                                    in.pointer() + "/" + word(part),
                                    why));
                }
            }
            if (parts.isEmpty() && in.values().isEmpty()) {
                document.problem(item.node(), item.pointer(), "use one of " + String.join(", ", WORDS));
            }
            return parts.isEmpty()
                    ? Optional.empty()
                    : Optional.of(parts.size() == 1 ? parts.get(0) : new AllOf(parts));
        });
    }

    private static String word(Expression part) {
        return part instanceof Expression.Where
                ? "where"
                : part instanceof Expression.Named ? "people" : part instanceof Expression.InOu ? "ou" : "group";
    }

    private static Optional<String> dn(YamlDocument document, Members in, String name) {
        return document.value(in, name, "a distinguished name is expected", text -> {
            try {
                GroupGraph.key(text);
                return Optional.of(text);
            } catch (IllegalArgumentException e) {
                return Optional.empty();
            }
        });
    }

    private Optional<Condition> condition(YamlDocument document, Node node, String pointer) {
        if (node instanceof ScalarNode) {
            return document.scalar(node, pointer).map(v -> new Condition.OneOf(List.of(v)));
        }
        if (node instanceof org.snakeyaml.engine.v2.nodes.SequenceNode sequence) {
            var values = sequence.getValue().stream()
                    .flatMap(n -> document.scalar(n, pointer).stream())
                    .toList();
            return values.isEmpty() ? Optional.empty() : Optional.of(new Condition.OneOf(values));
        }
        return document.members(node, pointer, CONDITIONS, Set.of()).flatMap(in -> {
            if (in.values().isEmpty() && !((MappingNode) node).getValue().isEmpty()) {
                // What is not known was told already.
                return Optional.empty();
            }
            if (in.values().size() != 1) {
                document.problem(node, pointer, "use exactly one of " + String.join(", ", CONDITIONS));
                return Optional.empty();
            }
            Optional<Condition> condition = document.text(in, "starts-with").map(Condition.StartsWith::new);
            condition = condition.or(() -> document.text(in, "matches").map(Condition.Matches::new));
            condition = condition.or(() -> document.value(
                    in,
                    "present",
                    "only true is possible; to ask for no value put it under none",
                    t -> t.equals("true") ? Optional.<Condition>of(new Condition.Present()) : Optional.empty()));
            condition = condition.or(() -> days(document, in, "before", Condition.Before::new));
            return condition.or(() -> days(document, in, "after", Condition.After::new));
        });
    }

    private static Optional<Condition> days(
            YamlDocument document, Members in, String name, Function<Integer, Condition> make) {
        return document.value(
                in,
                name,
                "a day relative to today is expected, such as -30d, today or +7d",
                text -> DAYS.matcher(text).matches()
                        ? Optional.of(make.apply(
                                text.equals("today")
                                        ? 0
                                        : Integer.parseInt(text.replace("+", "").replace("d", ""))))
                        : Optional.empty());
    }

    /** All that were read; tells names that are not there, and scopes that would hold themselves. */
    Map<String, Scope> scopes() {
        var sound = true;
        var uses = new LinkedHashMap<String, Set<String>>();
        for (var use : named) {
            if (!scopes.containsKey(use.scope())) {
                sound = false;
                use.document()
                        .problem(
                                use.node(),
                                use.pointer(),
                                "there is no scope \"" + use.scope() + "\""
                                        + Nearest.suggestion(use.scope(), scopes.keySet()));
            }
            uses.computeIfAbsent(use.inScope(), s -> new LinkedHashSet<>()).add(use.scope());
        }
        for (var use : named) {
            if (sound && reaches(uses, use.scope(), use.inScope(), new LinkedHashSet<>())) {
                use.document()
                        .problem(
                                use.node(),
                                use.pointer(),
                                "the scope \"" + use.inScope() + "\" would depend on itself by way of \"" + use.scope()
                                        + "\"");
            }
        }
        return scopes;
    }

    private static boolean reaches(Map<String, Set<String>> uses, String from, String to, Set<String> seen) {
        return from.equals(to)
                || seen.add(from)
                        && uses.getOrDefault(from, Set.of()).stream().anyMatch(next -> reaches(uses, next, to, seen));
    }
}
