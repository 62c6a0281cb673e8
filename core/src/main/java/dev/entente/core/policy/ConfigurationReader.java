package dev.entente.core.policy;

import dev.entente.core.password.PasswordRules;
import dev.entente.core.policy.Policy.Rate;
import dev.entente.core.policy.Policy.Refusal;
import dev.entente.core.policy.Policy.Setting;
import dev.entente.core.policy.YamlDocument.Members;
import dev.entente.core.scope.Scope;
import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Method;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Collections;
import java.util.EnumMap;
import java.util.EnumSet;
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
 * Reads a folder of configuration files: {@code defaults.yaml}, {@code order.yaml}, {@code methods.yaml},
 * {@code scopes/*.yaml}, {@code policies/*.yaml}, {@code passwords/*.yaml}, {@code networks/*.yaml}, {@code terms/*.yaml} and
 * {@code messages/*.yaml}. Tells every problem with its place, not only the first. Words of the format that this version cannot
 * carry out are refused, never ignored.
 */
public final class ConfigurationReader {
    /** More files than this are refused. */
    public static final int MAX_FILES = 1000;

    private static final int LONGEST_SUBJECT = 150;
    private static final int LONGEST_TEXT = 5000;

    private static final Pattern NAME = Pattern.compile("[a-z0-9][a-z0-9-]{0,62}");
    private static final Pattern RATE = Pattern.compile("([1-9][0-9]{0,3}) per ([1-9][0-9]{0,3})([mhd])");
    private static final Pattern SPAN = Pattern.compile("([1-9][0-9]{0,4})([mhd])");
    private static final List<String> SETTINGS =
            List.of("allow", "refuse", "prove", "password", "deliver", "limit", "tell", "terms");
    private static final List<Action> PROVED = List.of(Action.RESET, Action.UNLOCK, Action.CHANGE, Action.DETAILS);
    private static final Map<Method, MethodSettings> METHODS = Collections.unmodifiableMap(new EnumMap<>(Map.of(
            Method.EMAIL_CODE, usual(Method.EMAIL_CODE, Duration.ofMinutes(10), true),
            Method.APP_CODE, usual(Method.APP_CODE, null, true),
            Method.RECOVERY_CODE, usual(Method.RECOVERY_CODE, null, false))));

    private final List<ConfigurationProblem> problems = new ArrayList<>();
    private final Map<String, Scope> scopes = new LinkedHashMap<>();
    private final Map<String, PasswordRules> passwords = new LinkedHashMap<>();
    private final Map<String, Network> networks = new LinkedHashMap<>();
    private final Map<String, Terms> terms = new LinkedHashMap<>();
    private final Map<Method, MethodSettings> methods = new EnumMap<>(METHODS);
    private final Map<Message, MessageText> messages = new EnumMap<>(Message.class);
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
        var scopeFiles = new ScopeReader(problems);
        files.forEach((path, text) -> {
            if (path.startsWith("scopes/")) {
                scopeFiles.read(path, text);
            } else if (path.startsWith("passwords/")) {
                passwordRules(path, text);
            } else if (path.startsWith("networks/")) {
                network(path, text);
            } else if (path.startsWith("terms/")) {
                terms(path, text);
            } else if (path.startsWith("messages/")) {
                message(path, text);
            } else if (path.equals("methods.yaml")) {
                methods(text);
            } else if (!path.startsWith("policies/") && !path.equals("defaults.yaml") && !path.equals("order.yaml")) {
                problems.add(new ConfigurationProblem(
                        path,
                        0,
                        0,
                        "",
                        "this file has no place here; there are defaults.yaml, order.yaml, methods.yaml, scopes/,"
                                + " policies/, passwords/, networks/, terms/ and messages/"));
            }
        });
        scopes.putAll(scopeFiles.scopes());
        var defaults = builtIn();
        if (files.containsKey("defaults.yaml")) {
            var document = new YamlDocument("defaults.yaml", problems);
            defaults = document.root(files.get("defaults.yaml"), SETTINGS, Set.of())
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
        return new Result(
                Optional.of(new Configuration(0, scopes, inOrder, passwords, networks, terms, methods, messages)),
                List.of());
    }

    private static Policy builtIn() {
        var source = "built in";
        return new Policy(
                "",
                "",
                "",
                new Setting<>(Set.of(), source),
                new Setting<>(List.of(), source),
                Map.of(Action.RESET, new Setting<>(Requirement.one(Method.EMAIL_CODE), source)),
                new Setting<>(List.of(), source),
                new Setting<>("", source),
                new Setting<>(List.of(), source),
                new Setting<>(true, source),
                new Setting<>(false, source),
                new Setting<>(new Rate(3, Duration.ofHours(24)), source),
                new Setting<>(new Rate(30, Duration.ofHours(24)), source),
                new Setting<>(Duration.ZERO, source),
                new Setting<>(Optional.empty(), source),
                new Setting<>(false, source),
                new Setting<>(Optional.empty(), source),
                new Setting<>(Set.of(Occasion.RESET), source),
                new Setting<>(false, source));
    }

    private void network(String path, String text) {
        var document = new YamlDocument(path, problems);
        document.root(text, List.of("network", "title", "ranges"), Set.of()).ifPresent(root -> {
            var name = name(document, root, "network");
            var title = document.text(root, "title");
            var ranges = new ArrayList<String>();
            for (var item : document.list(root, "ranges").orElse(List.of())) {
                document.scalar(item.node(), item.pointer()).ifPresent(range -> {
                    if (Network.range(range).isEmpty()) {
                        document.problem(
                                item.node(),
                                item.pointer(),
                                "\"" + range + "\" is no address range; say for example 10.20.0.0/16 or 2001:db8::/32");
                    } else if (Network.hasStrayBits(range)) {
                        document.problem(
                                item.node(),
                                item.pointer(),
                                "\"" + range + "\" has bits set behind its prefix; meant is perhaps "
                                        + Network.range(range).orElseThrow());
                    } else {
                        ranges.add(range);
                    }
                });
            }
            if (!root.has("ranges")) {
                document.problem(root.node(), "", "\"ranges\" is missing: name at least one, such as [10.20.0.0/16]");
            } else if (ranges.size() > 1000) {
                document.problem(root.values().get("ranges"), "/ranges", "at most 1,000 ranges are possible");
            }
            name.ifPresent(n -> networks.put(n, new Network(n, title.orElse(n), ranges)));
        });
    }

    private void terms(String path, String text) {
        var document = new YamlDocument(path, problems);
        document.root(text, List.of("terms", "title", "texts"), Set.of()).ifPresent(root -> {
            var name = name(document, root, "terms");
            var title = document.text(root, "title");
            var texts = languages(document, root, "texts");
            if (texts.isEmpty()) {
                document.problem(root.node(), "", "\"texts\" is missing: give one for each language, such as en: …");
            }
            name.ifPresent(n -> terms.put(n, new Terms(n, title.orElse(n), texts)));
        });
    }

    /** Texts by language. */
    private static Map<String, String> languages(YamlDocument document, Members in, String name) {
        var texts = new LinkedHashMap<String, String>();
        var pointer = in.pointer() + "/" + name;
        Optional.ofNullable(in.values().get(name))
                .flatMap(node -> document.mapping(node, pointer))
                .ifPresent(said -> said.values().forEach((language, node) -> {
                    if (!language.matches("[a-z]{2,3}(-[A-Za-z0-9]{2,8})*")) {
                        document.problem(
                                node,
                                pointer + "/" + language,
                                "\"" + language + "\" is no language; say for example en or nb");
                    }
                    document.scalar(node, pointer + "/" + language).ifPresent(t -> texts.put(language, t));
                }));
        return texts;
    }

    private void message(String path, String text) {
        var document = new YamlDocument(path, problems);
        document.root(text, List.of("message", "subject", "text"), Set.of()).ifPresent(root -> {
            var named = name(document, root, "message");
            var message = named.flatMap(Message::labelled);
            if (named.isPresent() && message.isEmpty()) {
                document.problem(
                        root.values().get("message"),
                        "/message",
                        "there is no message \"" + named.get() + "\""
                                + YamlDocument.suggestion(
                                        named.get(),
                                        Arrays.stream(Message.values())
                                                .map(Message::label)
                                                .toList()));
            }
            var subjects = languages(document, root, "subject");
            var texts = languages(document, root, "text");
            var before = problems.size();
            for (var part : List.of("subject", "text")) {
                if (!root.has(part)) {
                    document.problem(
                            root.node(), "", "\"" + part + "\" is missing: give one for each language, such as en: …");
                }
            }
            if (problems.size() > before) {
                return;
            }
            texts.keySet().stream()
                    .filter(l -> !subjects.containsKey(l))
                    .forEach(l -> document.problem(
                            root.values().get("text"), "/text/" + l, "\"" + l + "\" has a text but no subject"));
            subjects.keySet().stream()
                    .filter(l -> !texts.containsKey(l))
                    .forEach(l -> document.problem(
                            root.values().get("subject"), "/subject/" + l, "\"" + l + "\" has a subject but no text"));
            message.ifPresent(m -> {
                subjects.forEach((language, said) -> {
                    if (said.length() > LONGEST_SUBJECT || said.contains("\n")) {
                        document.problem(
                                root.values().get("subject"),
                                "/subject/" + language,
                                "a subject is one line of at most " + LONGEST_SUBJECT + " characters");
                    }
                    places(document, root, "subject", language, said, m);
                });
                texts.forEach((language, said) -> {
                    if (said.length() > LONGEST_TEXT) {
                        document.problem(
                                root.values().get("text"),
                                "/text/" + language,
                                "a text has at most " + LONGEST_TEXT + " characters");
                    }
                    places(document, root, "text", language, said, m);
                    for (var needed : m.needed()) {
                        if (!said.contains("{" + needed + "}")) {
                            document.problem(
                                    root.values().get("text"),
                                    "/text/" + language,
                                    "{" + needed + "} is missing, without which the message is of no use");
                        }
                    }
                });
                messages.put(m, new MessageText(subjects, texts));
            });
        });
    }

    /** What stands in braces has to be something that this message knows. */
    private static void places(
            YamlDocument document, Members root, String part, String language, String said, Message message) {
        MessageText.PLACE
                .matcher(said)
                .results()
                .map(found -> found.group(1))
                .distinct()
                .forEach(place -> {
                    if (!message.placeholders().contains(place)
                            && !MessageText.ATTRIBUTE.matcher(place).matches()) {
                        document.problem(
                                root.values().get(part),
                                "/" + part + "/" + language,
                                "{" + place + "} is not known in this message"
                                        + YamlDocument.suggestion(place, message.placeholders()));
                    }
                });
    }

    private static MethodSettings usual(Method method, Duration life, boolean alone) {
        return new MethodSettings(life, 5, alone, method.factor());
    }

    private void methods(String text) {
        var document = new YamlDocument("methods.yaml", problems);
        var known = METHODS.keySet().stream().sorted().map(Method::label).toList();
        var later = List.of(Method.values()).stream()
                .map(Method::label)
                .filter(l -> !known.contains(l))
                .toList();
        document.root(text, known, later)
                .ifPresent(root -> METHODS.forEach((method, usual) -> {
                    part(
                                    document,
                                    root,
                                    method.label(),
                                    usual.life() == null
                                            ? List.of("tries", "alone", "factor")
                                            : List.of("life", "tries", "alone", "factor"),
                                    Set.of())
                            .ifPresent(in -> methods.put(
                                    method,
                                    new MethodSettings(
                                            span(document, in, "life", Duration.ofMinutes(1), Duration.ofHours(1))
                                                    .orElse(usual.life()),
                                            document.integer(in, "tries", 1, 10).orElse(usual.tries()),
                                            document.flag(in, "alone").orElse(usual.alone()),
                                            document.value(
                                                            in,
                                                            "factor",
                                                            "possession, knowledge or inherence is expected",
                                                            Factor::labelled)
                                                    .orElse(usual.factor()))));
                }));
    }

    private Optional<Duration> span(YamlDocument document, Members in, String name, Duration from, Duration to) {
        return document.value(
                in,
                name,
                "a time from " + Policy.span(from) + " to " + Policy.span(to) + " is expected, such as 10m, 24h or 90d",
                text -> {
                    var match = SPAN.matcher(text);
                    return match.matches()
                            ? Optional.of(time(Integer.parseInt(match.group(1)), match.group(2)))
                                    .filter(t -> t.compareTo(from) >= 0 && t.compareTo(to) <= 0)
                            : Optional.empty();
                });
    }

    private static Duration time(int count, String unit) {
        return switch (unit) {
            case "m" -> Duration.ofMinutes(count);
            case "h" -> Duration.ofHours(count);
            default -> Duration.ofDays(count);
        };
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
        return document.root(text, names, Set.of()).flatMap(root -> {
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
            merged.prove().forEach((action, proof) -> possible(document, root, action, proof.value(), merged));
            return name.flatMap(n -> who.map(scope -> new Policy(
                    n,
                    title.orElse(n),
                    scope,
                    merged.allow(),
                    merged.refuse(),
                    merged.prove(),
                    merged.stricter(),
                    merged.password(),
                    merged.deliverTo(),
                    merged.clearLockout(),
                    merged.mustChange(),
                    merged.resets(),
                    merged.tries(),
                    merged.pause(),
                    merged.inactiveAfter(),
                    merged.leaveOutDisabled(),
                    merged.terms(),
                    merged.tellPerson(),
                    merged.tellAdministrators())));
        });
    }

    /** A condition that asks for what nobody could ever prove would lock people out without saying so. */
    private void possible(YamlDocument document, Members root, Action action, Requirement proof, Policy merged) {
        if (!proof.withinReachOf(proof.anyOf())) {
            // Told where it was said.
            return;
        }
        var all = proof;
        for (var more : merged.stricter().value()) {
            if (!more.concerns(action)) {
                continue;
            }
            var one = proof.and(more);
            if (!one.withinReachOf(one.anyOf())) {
                document.problem(
                        root.values().getOrDefault("prove", root.node()),
                        "/prove/stricter",
                        more.when().words() + " nobody could meet what is asked for " + action.label() + ": "
                                + one.words());
                return;
            }
            all = all.and(more);
        }
        if (!all.withinReachOf(all.anyOf())) {
            document.problem(
                    root.values().getOrDefault("prove", root.node()),
                    "/prove/stricter",
                    "when all conditions hold nobody could meet what is asked for " + action.label() + ": "
                            + all.words());
        }
    }

    /** What a file says laid over what it inherits. */
    private Function<Members, Policy> inherited(YamlDocument document, Policy base) {
        return root -> {
            var prove = part(
                    document, root, "prove", List.of("reset", "unlock", "change", "details", "stricter"), Set.of());
            var proofs = new EnumMap<Action, Setting<Requirement>>(base.prove());
            for (var action : PROVED) {
                prove.flatMap(p -> part(
                                document,
                                p,
                                action.label(),
                                List.of("methods", "factors", "any-of", "must-include", "first"),
                                Set.of()))
                        .flatMap(p -> requirement(document, p))
                        .ifPresent(r -> proofs.put(action, new Setting<>(r, document.file())));
            }
            var deliver = part(document, root, "deliver", List.of("to", "clear-lockout", "must-change"), Set.of());
            var limit = part(
                    document,
                    root,
                    "limit",
                    List.of("resets", "tries", "wait", "inactive-account", "disabled-account"),
                    Set.of());
            var tell = part(document, root, "tell", List.of("person", "administrators"), Set.of());
            var file = document.file();
            return new Policy(
                    base.name(),
                    base.title(),
                    base.scope(),
                    said(actions(document, root, "allow"), base.allow(), file),
                    said(refusals(document, root), base.refuse(), file),
                    proofs,
                    said(prove.flatMap(p -> stricter(document, p)), base.stricter(), file),
                    said(known(document, root, "password", "rule set", passwords.keySet()), base.password(), file),
                    said(deliver.flatMap(d -> targets(document, d)), base.deliverTo(), file),
                    said(deliver.flatMap(d -> document.flag(d, "clear-lockout")), base.clearLockout(), file),
                    said(deliver.flatMap(d -> document.flag(d, "must-change")), base.mustChange(), file),
                    said(limit.flatMap(l -> rate(document, l, "resets")), base.resets(), file),
                    said(limit.flatMap(l -> rate(document, l, "tries")), base.tries(), file),
                    said(
                            limit.flatMap(l -> span(document, l, "wait", Duration.ofMinutes(1), Duration.ofDays(31))),
                            base.pause(),
                            file),
                    said(
                            limit.flatMap(l -> span(
                                            document, l, "inactive-account", Duration.ofDays(1), Duration.ofDays(3650)))
                                    .map(Optional::of),
                            base.inactiveAfter(),
                            file),
                    said(
                            limit.flatMap(l -> document.value(
                                    l, "disabled-account", "refuse or leave-out is expected", t -> switch (t) {
                                        case "refuse" -> Optional.of(false);
                                        case "leave-out" -> Optional.of(true);
                                        default -> Optional.empty();
                                    })),
                            base.leaveOutDisabled(),
                            file),
                    said(
                            "none".equals(document.text(root, "terms").orElse(""))
                                    ? Optional.of(Optional.empty())
                                    : known(document, root, "terms", "text of terms", terms.keySet())
                                            .map(Optional::of),
                            base.terms(),
                            file),
                    said(tell.flatMap(t -> occasions(document, t)), base.tellPerson(), file),
                    said(tell.flatMap(t -> forAdministrators(document, t)), base.tellAdministrators(), file));
        };
    }

    private Optional<List<Refusal>> refusals(YamlDocument document, Members root) {
        return document.list(root, "refuse")
                .map(items -> items.stream()
                        .flatMap(item -> document
                                .members(item.node(), item.pointer(), List.of("actions", "when"), Set.of())
                                .flatMap(in -> {
                                    var actions = actions(document, in, "actions");
                                    if (actions.isEmpty() || actions.get().isEmpty()) {
                                        document.problem(in.node(), in.pointer(), "\"actions\" is missing: name them");
                                    }
                                    return when(document, in)
                                            .flatMap(when -> actions.filter(a -> !a.isEmpty())
                                                    .map(a -> new Refusal(a, when)));
                                })
                                .stream())
                        .toList());
    }

    private Optional<List<Stricter>> stricter(YamlDocument document, Members prove) {
        return document.list(prove, "stricter")
                .map(items -> items.stream()
                        .flatMap(item -> document
                                .members(
                                        item.node(),
                                        item.pointer(),
                                        List.of("when", "actions", "methods", "factors", "must-include", "any-of"),
                                        Set.of())
                                .flatMap(in -> {
                                    if (!in.has("methods")
                                            && !in.has("factors")
                                            && !in.has("must-include")
                                            && !in.has("any-of")) {
                                        document.problem(
                                                in.node(),
                                                in.pointer(),
                                                "nothing is asked for: say methods, factors, must-include or any-of");
                                    }
                                    var more = new Stricter(
                                            when(document, in).orElse(new When.Privileged()),
                                            actions(document, in, "actions").orElse(Set.of()),
                                            document.integer(in, "methods", 1, 5)
                                                    .orElse(0),
                                            document.integer(in, "factors", 1, 3)
                                                    .orElse(0),
                                            methodList(document, in, "must-include"),
                                            methodList(document, in, "any-of"));
                                    return in.has("when") ? Optional.of(more) : Optional.empty();
                                })
                                .stream())
                        .toList());
    }

    private Optional<When> when(YamlDocument document, Members in) {
        if (!in.has("when")) {
            document.problem(in.node(), in.pointer(), "\"when\" is missing: say when it holds, such as privileged");
            return Optional.empty();
        }
        return document.text(in, "when").flatMap(text -> {
            var read = new WhenReader(networks).read(text);
            read.problem().ifPresent(p -> document.problem(in.values().get("when"), in.pointer() + "/when", p));
            return read.when();
        });
    }

    private static <T> Setting<T> said(Optional<T> here, Setting<T> inherited, String file) {
        return here.map(value -> new Setting<>(value, file)).orElse(inherited);
    }

    private Optional<Members> part(
            YamlDocument document, Members root, String name, Collection<String> names, Collection<String> later) {
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

    private static Optional<Set<Occasion>> occasions(YamlDocument document, Members in) {
        return document.list(in, "person")
                .map(items -> items.stream()
                        .flatMap(item -> document.scalar(item.node(), item.pointer()).stream()
                                .flatMap(text -> occasion(document, item, text).stream()))
                        .collect(Collectors.toSet()));
    }

    private static Optional<Occasion> occasion(YamlDocument document, YamlDocument.Item item, String text) {
        var occasion = Occasion.labelled(text);
        if (occasion.isEmpty()) {
            document.problem(
                    item.node(),
                    item.pointer(),
                    "nobody can be told of \"" + text + "\""
                            + YamlDocument.suggestion(
                                    text,
                                    Arrays.stream(Occasion.values())
                                            .map(Occasion::label)
                                            .toList()));
        }
        return occasion;
    }

    private static Optional<Boolean> forAdministrators(YamlDocument document, Members in) {
        return document.list(in, "administrators").map(items -> {
            for (var item : items) {
                var text = document.scalar(item.node(), item.pointer()).orElse(Policy.PRIVILEGED_RESET);
                if (!text.equals(Policy.PRIVILEGED_RESET)) {
                    document.problem(
                            item.node(),
                            item.pointer(),
                            "administrators cannot be told of \"" + text + "\""
                                    + YamlDocument.suggestion(text, List.of(Policy.PRIVILEGED_RESET)));
                }
            }
            return !items.isEmpty();
        });
    }

    private Optional<Requirement> requirement(YamlDocument document, Members in) {
        var from = methodList(document, in, "any-of");
        if (from.isEmpty()) {
            document.problem(in.node(), in.pointer(), "\"any-of\" is missing: name the methods to choose from");
            return Optional.empty();
        }
        var must = among(document, in, "must-include", from);
        var first = among(document, in, "first", from);
        var requirement = new Requirement(
                document.integer(in, "methods", 1, 5).orElse(1),
                document.integer(in, "factors", 1, 3).orElse(1),
                from,
                must,
                first,
                from.stream()
                        .filter(m -> methods.containsKey(m) && !methods.get(m).alone())
                        .collect(Collectors.toSet()),
                from.stream()
                        .filter(methods::containsKey)
                        .collect(Collectors.toMap(m -> m, m -> methods.get(m).factor())));
        var where = in.values().containsKey("methods") ? "methods" : "any-of";
        if (requirement.methods() > from.size()) {
            document.problem(
                    in.values().get(where),
                    in.pointer() + "/" + where,
                    "methods asks for " + requirement.methods() + ", but any-of names only " + from.size());
        } else if (requirement.factors() > requirement.factors(from).size()) {
            document.problem(
                    in.values().get("factors"),
                    in.pointer() + "/factors",
                    "factors asks for " + requirement.factors() + ", but the methods of any-of show only "
                            + requirement.factors(from).stream()
                                    .map(Factor::label)
                                    .collect(Collectors.joining(", "))
                            + "; factor in methods.yaml says what a method counts as");
        } else if (from.size() == 1 && requirement.notAlone().containsAll(from)) {
            document.problem(
                    in.values().get("any-of"),
                    in.pointer() + "/any-of",
                    from.get(0).label()
                            + " never suffices alone; name another method too, or change alone in methods.yaml");
        }
        return Optional.of(requirement);
    }

    private Set<Method> among(YamlDocument document, Members in, String name, List<Method> from) {
        var named = methodList(document, in, name);
        for (var method : named) {
            if (!from.contains(method)) {
                document.problem(
                        in.values().get(name),
                        in.pointer() + "/" + name,
                        method.label() + " is not among any-of: "
                                + from.stream().map(Method::label).collect(Collectors.joining(", ")));
            }
        }
        return named.isEmpty() ? Set.of() : EnumSet.copyOf(named);
    }

    private List<Method> methodList(YamlDocument document, Members in, String name) {
        var named = new ArrayList<Method>();
        for (var item : document.list(in, name).orElse(List.of())) {
            var text = document.scalar(item.node(), item.pointer()).orElse("");
            var method = Method.labelled(text);
            if (method.isEmpty() && !text.isEmpty()) {
                var all = List.of(Method.values()).stream().map(Method::label).toList();
                document.problem(
                        item.node(),
                        item.pointer(),
                        "there is no method \"" + text + "\"" + YamlDocument.suggestion(text, all));
            } else if (method.isPresent() && !METHODS.containsKey(method.get())) {
                document.problem(
                        item.node(),
                        item.pointer(),
                        "the method \"" + text + "\" is not available in this version yet; there are "
                                + METHODS.keySet().stream()
                                        .sorted()
                                        .map(Method::label)
                                        .collect(Collectors.joining(", ")));
            } else if (method.isPresent() && named.contains(method.get())) {
                document.problem(item.node(), item.pointer(), "\"" + text + "\" is said twice; say it once");
            }
            method.filter(m -> !named.contains(m)).ifPresent(named::add);
        }
        return named;
    }

    private Optional<String> known(
            YamlDocument document, Members in, String name, String noun, Collection<String> names) {
        return document.text(in, name).filter(text -> {
            if (!names.contains(text)) {
                document.problem(
                        in.values().get(name),
                        in.pointer() + "/" + name,
                        "there is no " + noun + " \"" + text + "\"" + YamlDocument.suggestion(text, names));
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

    private Optional<Rate> rate(YamlDocument document, Members in, String name) {
        return document.value(in, name, "say for example \"3 per 24h\", with a window of at most 31d", text -> {
            var match = RATE.matcher(text);
            return match.matches()
                    ? Optional.of(new Rate(
                                    Integer.parseInt(match.group(1)),
                                    time(Integer.parseInt(match.group(2)), match.group(3))))
                            .filter(r -> r.per().compareTo(Duration.ofDays(31)) <= 0)
                    : Optional.empty();
        });
    }

    /** The name that a file gives what it describes, which has to be the file's own. */
    static Optional<String> name(YamlDocument document, Members root, String noun) {
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
