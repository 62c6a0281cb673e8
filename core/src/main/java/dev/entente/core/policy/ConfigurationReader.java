package dev.entente.core.policy;

import dev.entente.core.password.PasswordRules;
import dev.entente.core.policy.Policy.Rate;
import dev.entente.core.policy.Policy.Requirement;
import dev.entente.core.policy.Policy.Setting;
import dev.entente.core.policy.YamlDocument.Members;
import dev.entente.core.scope.GroupGraph;
import dev.entente.core.scope.Scope;
import dev.entente.core.verify.Method;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * Reads a folder of configuration files: {@code defaults.yaml}, {@code order.yaml}, {@code scopes/*.yaml},
 * {@code policies/*.yaml} and {@code passwords/*.yaml}. Tells every problem with its place, not only the first. Words of
 * the format that this version cannot carry out are refused, never ignored.
 */
public final class ConfigurationReader {
    /** More files than this are refused. */
    public static final int MAX_FILES = 1000;

    private static final Pattern NAME = Pattern.compile("[a-z0-9][a-z0-9-]{0,62}");
    private static final Pattern RATE = Pattern.compile("([1-9][0-9]{0,3}) per ([1-9][0-9]{0,3})([mhd])");
    private static final Set<String> SETTINGS = Set.of("allow", "prove", "password", "deliver", "limit", "tell");
    private static final Set<String> LATER_SETTINGS = Set.of("refuse", "terms");

    private final List<ConfigurationProblem> problems = new ArrayList<>();
    private final Map<String, Scope> scopes = new LinkedHashMap<>();
    private final Map<String, PasswordRules> passwords = new LinkedHashMap<>();
    private final Collection<String> directories;

    private ConfigurationReader(Collection<String> directories) {
        this.directories = directories;
    }

    /**
     * What was read.
     *
     * @param configuration empty if there is any problem
     */
    public record Result(Optional<Configuration> configuration, List<ConfigurationProblem> problems) {}

    /**
     * Reads all files.
     *
     * @param files text by path within the folder
     * @param directories names that {@code deliver.to} may use; null for a state that was published, whose directories may
     *     have been removed since
     */
    public static Result read(Map<String, String> files, Collection<String> directories) {
        return new ConfigurationReader(directories).readAll(new TreeMap<>(files));
    }

    private Result readAll(TreeMap<String, String> files) {
        if (files.size() > MAX_FILES) {
            problems.add(new ConfigurationProblem("", 0, 0, "", "more than " + MAX_FILES + " files"));
            return new Result(Optional.empty(), problems);
        }
        files.forEach((path, text) -> {
            if (path.startsWith("scopes/")) {
                scope(path, text);
            } else if (path.startsWith("passwords/")) {
                passwordRules(path, text);
            } else if (!path.startsWith("policies/") && !path.equals("defaults.yaml") && !path.equals("order.yaml")) {
                problems.add(new ConfigurationProblem(
                        path,
                        0,
                        0,
                        "",
                        "this file has no place here; there are defaults.yaml, order.yaml, scopes/, policies/ and"
                                + " passwords/"));
            }
        });
        var defaults = builtIn();
        if (files.containsKey("defaults.yaml")) {
            var document = new YamlDocument("defaults.yaml", problems);
            defaults = document.root(files.get("defaults.yaml"), SETTINGS, LATER_SETTINGS)
                    .map(inherited(document, defaults))
                    .orElse(defaults);
        }
        var policies = new LinkedHashMap<String, Policy>();
        for (var entry : files.entrySet()) {
            if (entry.getKey().startsWith("policies/")) {
                policy(entry.getKey(), entry.getValue(), defaults)
                        .ifPresent(policy -> policies.put(policy.name(), policy));
            }
        }
        var order = order(files.get("order.yaml"), policies.keySet());
        if (!problems.isEmpty()) {
            return new Result(Optional.empty(), List.copyOf(problems));
        }
        var inOrder = order.stream().map(policies::get).toList();
        return new Result(Optional.of(new Configuration(0, scopes, inOrder, passwords)), List.of());
    }

    private static Policy builtIn() {
        var source = "built in";
        return new Policy(
                "",
                "",
                "",
                new Setting<>(Set.of(), source),
                new Setting<>(new Requirement(1, List.of(Method.EMAIL_CODE)), source),
                new Setting<>("", source),
                new Setting<>(List.of(), source),
                new Setting<>(true, source),
                new Setting<>(false, source),
                new Setting<>(new Rate(3, Duration.ofHours(24)), source),
                new Setting<>(Set.of(Action.RESET), source));
    }

    private void scope(String path, String text) {
        var document = new YamlDocument(path, problems);
        document.root(text, List.of("scope", "title", "any", "none"), Set.of("all", "portion", "where", "people"))
                .ifPresent(root -> {
                    var name = name(document, root, "scope");
                    var title = document.text(root, "title");
                    var any = groups(document, root, "any");
                    var none = groups(document, root, "none");
                    if (any.isEmpty() && !root.has("any")) {
                        document.problem(root.node(), "", "\"any\" is missing: a scope names at least one group");
                    }
                    name.ifPresent(n -> scopes.put(n, new Scope(n, title.orElse(n), any, none)));
                });
    }

    private List<String> groups(YamlDocument document, Members root, String name) {
        var groups = new ArrayList<String>();
        for (var item : document.list(root, name).orElse(List.of())) {
            document.members(
                            item.node(),
                            item.pointer(),
                            Set.of("group"),
                            Set.of("where", "ou", "scope", "people", "any", "all", "none"))
                    .flatMap(members -> document.value(members, "group", "a distinguished name is expected", text -> {
                        try {
                            GroupGraph.key(text);
                            return Optional.of(text);
                        } catch (IllegalArgumentException e) {
                            return Optional.empty();
                        }
                    }))
                    .ifPresent(groups::add);
        }
        return groups;
    }

    private void passwordRules(String path, String text) {
        var document = new YamlDocument(path, problems);
        document.root(
                        text,
                        List.of(
                                "password",
                                "min-length",
                                "max-length",
                                "kinds",
                                "no-personal-details",
                                "blocked-words"),
                        Set.of("breached", "strength", "sequences"))
                .ifPresent(root -> {
                    var name = name(document, root, "password");
                    var min = document.integer(root, "min-length", 1, 128).orElse(12);
                    var max = document.integer(root, "max-length", 1, 128).orElse(128);
                    var kinds = document.integer(root, "kinds", 1, 4).orElse(1);
                    var personal = document.flag(root, "no-personal-details").orElse(true);
                    var blocked = document.texts(root, "blocked-words").orElse(List.of());
                    if (max < min) {
                        document.problem(
                                root.values().getOrDefault("max-length", root.node()),
                                "/max-length",
                                "max-length is below min-length, so no password would do");
                    } else if (blocked.size() > 1000) {
                        document.problem(
                                root.values().get("blocked-words"),
                                "/blocked-words",
                                "at most 1,000 words are possible");
                    } else {
                        name.ifPresent(n -> passwords.put(n, new PasswordRules(min, max, kinds, personal, blocked)));
                    }
                });
    }

    private Optional<Policy> policy(String path, String text, Policy defaults) {
        var document = new YamlDocument(path, problems);
        var names = new ArrayList<>(List.of("policy", "title", "who"));
        names.addAll(SETTINGS);
        return document.root(text, names, LATER_SETTINGS).flatMap(root -> {
            var name = name(document, root, "policy");
            var title = document.text(root, "title");
            if (!root.has("who")) {
                document.problem(root.node(), "", "\"who\" is missing: say \"who: scope NAME\"");
            }
            var who = document.value(
                    root,
                    "who",
                    "say \"scope NAME\" with a scope of this folder"
                            + (scopes.isEmpty() ? "" : ": " + String.join(", ", scopes.keySet())),
                    text1 -> Optional.of(text1)
                            .filter(t -> t.startsWith("scope "))
                            .map(t -> t.substring(6).strip())
                            .filter(scopes::containsKey));
            var merged = inherited(document, defaults).apply(root);
            if (merged.password().value().isEmpty()) {
                document.problem(root.node(), "", "\"password\" is missing, here and in defaults.yaml");
            }
            if (merged.deliverTo().value().isEmpty()) {
                document.problem(root.node(), "", "\"deliver: {to: […]}\" is missing, here and in defaults.yaml");
            }
            return name.flatMap(n -> who.map(scope -> new Policy(
                    n,
                    title.orElse(n),
                    scope,
                    merged.allow(),
                    merged.prove(),
                    merged.password(),
                    merged.deliverTo(),
                    merged.clearLockout(),
                    merged.mustChange(),
                    merged.resets(),
                    merged.tellPerson())));
        });
    }

    /** What a file says laid over what it inherits. */
    private Function<Members, Policy> inherited(YamlDocument document, Policy base) {
        return root -> {
            var prove = part(
                            document, root, "prove", Set.of("reset"), Set.of("unlock", "change", "details", "stricter"))
                    .flatMap(p -> part(
                            document,
                            p,
                            "reset",
                            Set.of("methods", "any-of"),
                            Set.of("factors", "must-include", "first", "not-alone")));
            var deliver = part(document, root, "deliver", Set.of("to", "clear-lockout", "must-change"), Set.of());
            var limit = part(
                    document,
                    root,
                    "limit",
                    Set.of("resets"),
                    Set.of("wait", "tries", "inactive-account", "disabled-account"));
            var tell = part(document, root, "tell", Set.of("person"), Set.of("administrators"));
            var file = document.file();
            return new Policy(
                    base.name(),
                    base.title(),
                    base.scope(),
                    said(actions(document, root, "allow"), base.allow(), file),
                    said(prove.flatMap(p -> requirement(document, p)), base.prove(), file),
                    said(known(document, root, "password", passwords.keySet()), base.password(), file),
                    said(deliver.flatMap(d -> targets(document, d)), base.deliverTo(), file),
                    said(deliver.flatMap(d -> document.flag(d, "clear-lockout")), base.clearLockout(), file),
                    said(deliver.flatMap(d -> document.flag(d, "must-change")), base.mustChange(), file),
                    said(limit.flatMap(l -> rate(document, l)), base.resets(), file),
                    said(tell.flatMap(t -> actions(document, t, "person")), base.tellPerson(), file));
        };
    }

    private static <T> Setting<T> said(Optional<T> here, Setting<T> inherited, String file) {
        return here.map(value -> new Setting<>(value, file)).orElse(inherited);
    }

    private Optional<Members> part(
            YamlDocument document, Members root, String name, Set<String> names, Set<String> later) {
        return Optional.ofNullable(root.values().get(name))
                .flatMap(node -> document.members(node, root.pointer() + "/" + name, names, later));
    }

    private Optional<Set<Action>> actions(YamlDocument document, Members in, String name) {
        return document.list(in, name)
                .map(items -> items.stream()
                        .flatMap(item -> document.scalar(item.node(), item.pointer()).stream()
                                .flatMap(text -> action(document, item, text).stream()))
                        .collect(Collectors.toSet()));
    }

    private Optional<Action> action(YamlDocument document, YamlDocument.Item item, String text) {
        var action = Action.labelled(text);
        if (action.isEmpty()) {
            var all = List.of(Action.values()).stream()
                    .filter(a -> a != Action.TEMPORARY)
                    .map(Action::label)
                    .toList();
            document.problem(
                    item.node(),
                    item.pointer(),
                    "there is no action \"" + text + "\"" + YamlDocument.suggestion(text, all));
        } else if (!action.get().available()) {
            document.problem(
                    item.node(),
                    item.pointer(),
                    "the action \"" + text + "\" is not available in this version yet; leave it out");
        }
        return action.filter(Action::available);
    }

    private Optional<Requirement> requirement(YamlDocument document, Members in) {
        var count = document.integer(in, "methods", 1, 5).orElse(1);
        var methods = new ArrayList<Method>();
        for (var item : document.list(in, "any-of").orElse(List.of())) {
            var text = document.scalar(item.node(), item.pointer()).orElse("");
            var method = Method.labelled(text);
            if (method.isEmpty() && !text.isEmpty()) {
                var all = List.of(Method.values()).stream().map(Method::label).toList();
                document.problem(
                        item.node(),
                        item.pointer(),
                        "there is no method \"" + text + "\"" + YamlDocument.suggestion(text, all));
            } else if (method.isPresent() && !method.get().available()) {
                document.problem(
                        item.node(),
                        item.pointer(),
                        "the method \"" + text + "\" is not available in this version yet; use email-code");
            }
            method.ifPresent(methods::add);
        }
        if (methods.isEmpty()) {
            document.problem(in.node(), in.pointer(), "\"any-of\" is missing: name the methods to choose from");
            return Optional.empty();
        }
        if (count > methods.size()) {
            document.problem(
                    in.values().get("methods"),
                    in.pointer() + "/methods",
                    "methods asks for " + count + ", but any-of names only " + methods.size());
        }
        return Optional.of(new Requirement(count, List.copyOf(methods)));
    }

    private Optional<String> known(YamlDocument document, Members in, String name, Collection<String> names) {
        return document.text(in, name).filter(text -> {
            if (!names.contains(text)) {
                document.problem(
                        in.values().get(name),
                        in.pointer() + "/" + name,
                        "there is no rule set \"" + text + "\"" + YamlDocument.suggestion(text, names));
            }
            return names.contains(text);
        });
    }

    private Optional<List<String>> targets(YamlDocument document, Members in) {
        return document.list(in, "to").map(items -> {
            var names = new ArrayList<String>();
            for (var item : items) {
                var text = document.scalar(item.node(), item.pointer()).orElse("");
                if (!text.isEmpty() && directories != null && !directories.contains(text)) {
                    document.problem(
                            item.node(),
                            item.pointer(),
                            "there is no directory \"" + text + "\"" + YamlDocument.suggestion(text, directories));
                }
                names.add(text);
            }
            return List.copyOf(names);
        });
    }

    private Optional<Rate> rate(YamlDocument document, Members in) {
        return document.value(in, "resets", "say for example \"3 per 24h\"", text -> {
            var match = RATE.matcher(text);
            if (!match.matches()) {
                return Optional.empty();
            }
            var unit = Integer.parseInt(match.group(2));
            var per = switch (match.group(3)) {
                case "m" -> Duration.ofMinutes(unit);
                case "h" -> Duration.ofHours(unit);
                default -> Duration.ofDays(unit);
            };
            return per.compareTo(Duration.ofDays(31)) <= 0
                    ? Optional.of(new Rate(Integer.parseInt(match.group(1)), per))
                    : Optional.empty();
        });
    }

    private Optional<String> name(YamlDocument document, Members root, String noun) {
        var name = document.required(root, noun);
        name.ifPresent(text -> {
            var base = document.file().substring(document.file().indexOf('/') + 1);
            if (!NAME.matcher(text).matches()) {
                document.problem(
                        root.values().get(noun),
                        "/" + noun,
                        "a name is made of lower-case letters, digits and dashes, at most 63");
            } else if (!base.equals(text + ".yaml")) {
                document.problem(
                        root.values().get(noun),
                        "/" + noun,
                        "the file of \"" + text + "\" has to be called " + text + ".yaml");
            }
        });
        return name;
    }

    private List<String> order(String text, Collection<String> policies) {
        if (text == null) {
            if (policies.size() > 1) {
                problems.add(new ConfigurationProblem(
                        "order.yaml",
                        0,
                        0,
                        "",
                        "with more than one policy their order has to be said: order: [" + String.join(", ", policies)
                                + "]"));
            }
            return List.copyOf(policies);
        }
        var document = new YamlDocument("order.yaml", problems);
        var named = document.root(text, Set.of("order"), Set.of())
                .flatMap(root -> document.list(root, "order"))
                .orElse(List.of());
        var order = new ArrayList<String>();
        for (var item : named) {
            var name = document.scalar(item.node(), item.pointer()).orElse("");
            if (!policies.contains(name)) {
                document.problem(
                        item.node(),
                        item.pointer(),
                        "there is no policy \"" + name + "\"" + YamlDocument.suggestion(name, policies));
            } else if (order.contains(name)) {
                document.problem(item.node(), item.pointer(), "\"" + name + "\" is listed twice");
            }
            order.add(name);
        }
        for (var policy : policies) {
            if (!order.contains(policy)) {
                problems.add(new ConfigurationProblem(
                        "order.yaml", 0, 0, "/order", "the policy \"" + policy + "\" is not listed"));
            }
        }
        return order;
    }
}
