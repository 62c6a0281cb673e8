package dev.entente.core.policy;

import dev.entente.core.password.PasswordRules;
import dev.entente.core.policy.YamlDocument.Members;
import dev.entente.core.scope.Scope;
import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.questions.QuestionSet;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Collections;
import java.util.EnumMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * Reads a folder of configuration files: {@code defaults.yaml}, {@code order.yaml}, {@code methods.yaml},
 * {@code questions.yaml}, {@code scopes/*.yaml}, {@code policies/*.yaml}, {@code passwords/*.yaml}, {@code networks/*.yaml},
 * {@code terms/*.yaml} and
 * {@code messages/*.yaml}. Tells every problem with its place, not only the first. Words of the format that this version cannot
 * carry out are refused, never ignored.
 */
public final class ConfigurationReader {
    /** More files than this are refused. */
    public static final int MAX_FILES = 1000;

    private static final int LONGEST_SUBJECT = 150;
    private static final int LONGEST_TEXT = 5000;

    private static final Pattern NAME = Pattern.compile("[a-z0-9][a-z0-9-]{0,62}");
    /** In the order in which methods are named. */
    private static final Map<Method, MethodSettings> METHODS = Collections.unmodifiableMap(Method.known().stream()
            .collect(
                    Collectors.toMap(method -> method, ConfigurationReader::usual, (one, other) -> one, TreeMap::new)));

    private static final int MOST_QUOTED = 60;

    private final List<ConfigurationProblem> problems = new ArrayList<>();
    private final Map<String, Scope> scopes = new LinkedHashMap<>();
    private final Map<String, PasswordRules> passwords = new LinkedHashMap<>();
    private final Map<String, Network> networks = new LinkedHashMap<>();
    private final Map<String, Terms> terms = new LinkedHashMap<>();
    private final Map<Method, MethodSettings> methods = new TreeMap<>(METHODS);
    private final Map<Message, MessageText> messages = new EnumMap<>(Message.class);
    private QuestionSet questions = QuestionSet.usual();
    private final Surroundings surroundings;

    private ConfigurationReader(Surroundings surroundings) {
        this.surroundings = surroundings;
    }

    /**
     * What was read.
     *
     * @param configuration empty if there is any problem
     * @param findings what can be published, but is hardly meant
     */
    public record Result(
            Optional<Configuration> configuration,
            List<ConfigurationProblem> problems,
            List<ConfigurationProblem> findings) {
        private static Result refused(List<ConfigurationProblem> problems) {
            return new Result(Optional.empty(), List.copyOf(problems), List.of());
        }
    }

    /**
     * Reads all files.
     *
     * @param files text by path within the folder
     * @param directories names that {@code deliver.to} may use; null for a state that was published, whose directories may
     *     have been removed since
     */
    public static Result read(Map<String, String> files, Collection<String> directories) {
        return new ConfigurationReader(directories == null ? null : Surroundings.ofDirectories(directories))
                .readAll(new TreeMap<>(files));
    }

    /** Reads all files, and looks whether what scopes name is there. */
    public static Result readWithin(Map<String, String> files, Surroundings surroundings) {
        return new ConfigurationReader(surroundings).readAll(new TreeMap<>(files));
    }

    private Result readAll(TreeMap<String, String> files) {
        if (files.size() > MAX_FILES) {
            problems.add(new ConfigurationProblem("", 0, 0, "", "more than " + MAX_FILES + " files"));
            return Result.refused(problems);
        }
        var scopeFiles = new ScopeReader(problems, surroundings);
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
            } else if (path.equals("questions.yaml")) {
                questions = new QuestionsReader(new YamlDocument(path, problems))
                        .read(text)
                        .orElse(questions);
            } else if (!path.startsWith("policies/") && !path.equals("defaults.yaml") && !path.equals("order.yaml")) {
                problems.add(new ConfigurationProblem(
                        path,
                        0,
                        0,
                        "",
                        "this file has no place here; there are defaults.yaml, order.yaml, methods.yaml,"
                                + " questions.yaml, scopes/,"
                                + " policies/, passwords/, networks/, terms/ and messages/"));
            }
        });
        scopes.putAll(scopeFiles.scopes());
        var lists = new PolicyReader.Lists(
                scopes.keySet(),
                passwords.keySet(),
                networks,
                terms.keySet(),
                methods,
                surroundings == null ? null : surroundings.directories());
        var defaults = Optional.ofNullable(files.get("defaults.yaml"))
                .flatMap(text -> policyFile("defaults.yaml", lists).defaults(text))
                .orElse(PolicyReader.builtIn());
        var policies = new LinkedHashMap<String, Policy>();
        for (var entry : files.entrySet()) {
            if (entry.getKey().startsWith("policies/")) {
                policyFile(entry.getKey(), lists)
                        .policy(entry.getValue(), defaults)
                        .ifPresent(policy -> policies.put(policy.name(), policy));
            }
        }
        var order = order(files.get("order.yaml"), policies.keySet());
        if (!problems.isEmpty()) {
            return Result.refused(problems);
        }
        var inOrder = order.stream().map(policies::get).toList();
        return new Result(
                Optional.of(new Configuration(
                        0, scopes, inOrder, passwords, networks, terms, methods, messages, questions)),
                List.of(),
                inOrder.stream()
                        .flatMap(policy -> neverEnrolled(policy, files).stream())
                        .toList());
    }

    /** A policy that asks for what nobody has yet, and asks for it also of whoever wants to set it up, covers people in vain. */
    private static Optional<ConfigurationProblem> neverEnrolled(Policy policy, Map<String, String> files) {
        var details = policy.proof(Action.DETAILS).value();
        for (var action : policy.allow().value().stream().sorted().toList()) {
            var requirement = policy.proof(action).value();
            var given = new ArrayList<>(requirement.anyOf());
            given.addAll(details.anyOf());
            given.removeIf(m -> !m.fromTheStart());
            if (action != Action.DETAILS
                    && !requirement.withinReachOf(given)
                    && !policy.couldEnrol(requirement, details, given)) {
                var file = "policies/" + policy.name() + ".yaml";
                return Optional.of(new ConfigurationProblem(
                        files.containsKey(file) ? file : policy.proof(action).source(),
                        0,
                        0,
                        "/prove",
                        "people who haven't enrolled a method yet can never " + action.label() + ": that requires "
                                + requirement.words() + ", and "
                                + (policy.allow().value().contains(Action.DETAILS)
                                        ? "enrolling one requires " + details.words()
                                                + ". Accept email-code for details too"
                                        : "they can't enrol one themselves. Add details to allow, with"
                                                + " email-code")));
            }
        }
        return Optional.empty();
    }

    private PolicyReader policyFile(String path, PolicyReader.Lists lists) {
        return new PolicyReader(new YamlDocument(path, problems), lists);
    }

    private void network(String path, String text) {
        var document = new YamlDocument(path, problems);
        document.root(text, List.of("network", "title", "ranges", "shared"), Set.of())
                .ifPresent(root -> {
                    var name = name(document, root, "network");
                    var title = document.text(root, "title");
                    var ranges = new ArrayList<String>();
                    for (var item : document.list(root, "ranges").orElse(List.of())) {
                        document.scalar(item.node(), item.pointer()).ifPresent(range -> {
                            if (Network.range(range).isEmpty()) {
                                document.problem(
                                        item.node(),
                                        item.pointer(),
                                        "\"" + range
                                                + "\" isn't an address range; write for example 10.20.0.0/16 or 2001:db8::/32");
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
                        document.problem(
                                root.node(), "", "\"ranges\" is missing: name at least one, such as [10.20.0.0/16]");
                    } else if (ranges.size() > 1000) {
                        document.problem(root.values().get("ranges"), "/ranges", "at most 1,000 ranges are possible");
                    }
                    name.ifPresent(n -> networks.put(
                            n,
                            new Network(
                                    n,
                                    title.orElse(n),
                                    ranges,
                                    document.flag(root, "shared").orElse(false))));
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
    static Map<String, String> languages(YamlDocument document, Members in, String name) {
        var texts = new LinkedHashMap<String, String>();
        var pointer = in.pointer() + "/" + name;
        Optional.ofNullable(in.values().get(name))
                .flatMap(node -> document.mapping(node, pointer))
                .ifPresent(said -> said.values().forEach((language, node) -> {
                    if (!language.matches("[a-z]{2,3}(-[A-Za-z0-9]{2,8})*")) {
                        document.problem(
                                node,
                                pointer + "/" + language,
                                "\"" + language + "\" isn't a language; write for example en or nb");
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
                                + Nearest.suggestion(
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
    private void places(
            YamlDocument document, Members root, String part, String language, String said, Message message) {
        MessageText.PLACE
                .matcher(said)
                .results()
                .map(found -> found.group(1))
                .distinct()
                .forEach(place -> {
                    var attribute = MessageText.ATTRIBUTE.matcher(place).matches();
                    // What was published before this was looked at stays readable.
                    if (attribute && surroundings != null && message.audience() == Message.Audience.ADMINISTRATORS) {
                        document.problem(
                                root.values().get(part),
                                "/" + part + "/" + language,
                                "{" + place + "} is of a person, and this message goes to administrators");
                    } else if (!attribute && !message.placeholders().contains(place)) {
                        document.problem(
                                root.values().get(part),
                                "/" + part + "/" + language,
                                "{" + place + "} is not known in this message"
                                        + Nearest.suggestion(place, message.placeholders()));
                    }
                });
    }

    private static MethodSettings usual(Method method) {
        var facts = method.facts();
        return new MethodSettings(facts.life(), facts.tries(), facts.alone(), facts.factor(), Map.of());
    }

    private void methods(String text) {
        var document = new YamlDocument("methods.yaml", problems);
        var known = METHODS.keySet().stream().sorted().map(Method::label).toList();
        document.root(text, known, Set.of())
                .ifPresent(root -> METHODS.forEach((method, usual) -> {
                    document.part(root, method.label(), names(method, usual), Set.of())
                            .ifPresent(in -> {
                                if (!method.mayStandAlone()
                                        && document.flag(in, "alone").orElse(false)) {
                                    document.problem(
                                            in.values().get("alone"),
                                            in.pointer() + "/alone",
                                            method.label() + " is never enough alone; leave alone out");
                                }
                                methods.put(
                                        method,
                                        new MethodSettings(
                                                document.span(in, "life", Duration.ofMinutes(1), Duration.ofHours(1))
                                                        .orElse(usual.life()),
                                                document.integer(in, "tries", 1, 10)
                                                        .orElse(usual.tries()),
                                                document.flag(in, "alone").orElse(usual.alone()),
                                                document.value(
                                                                in,
                                                                "factor",
                                                                "possession, knowledge or inherence is expected",
                                                                Factor::labelled)
                                                        .orElse(usual.factor()),
                                                own(document, in, method)));
                            });
                }));
    }

    private static List<String> names(Method method, MethodSettings usual) {
        var names = new ArrayList<String>();
        if (usual.life() != null) {
            names.add("life");
        }
        names.addAll(List.of("tries", "alone", "factor"));
        method.ownSettings().forEach(setting -> names.add(setting.name()));
        return names;
    }

    private static Map<String, List<String>> own(YamlDocument document, Members in, Method method) {
        var own = new LinkedHashMap<String, List<String>>();
        for (var setting : method.ownSettings()) {
            document.texts(in, setting.name()).ifPresent(texts -> {
                var node = in.values().get(setting.name());
                var pointer = in.pointer() + "/" + setting.name();
                if (texts.isEmpty() || texts.size() > setting.most()) {
                    document.problem(
                            node, pointer, "name 1 to " + setting.most() + ", or leave " + setting.name() + " out");
                }
                texts.stream()
                        .filter(text -> !setting.each().test(text))
                        .forEach(text -> document.problem(
                                node, pointer, "\"" + beginning(text) + "\" isn't one: " + setting.says()));
                own.put(setting.name(), texts);
            });
        }
        return own;
    }

    private static String beginning(String text) {
        var line = text.lines().findFirst().orElse("");
        return line.length() <= MOST_QUOTED ? line : line.substring(0, MOST_QUOTED) + "…";
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
                                "max-length is below min-length, so no password could meet both");
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

    /** The name that a file gives what it describes, which has to be the file's own. */
    static Optional<String> name(YamlDocument document, Members root, String noun) {
        var name = document.required(root, noun);
        name.ifPresent(text -> {
            var base = document.file().substring(document.file().indexOf('/') + 1);
            if (!NAME.matcher(text).matches()) {
                document.problem(
                        root.values().get(noun),
                        "/" + noun,
                        "a name has at most 63 lower-case letters, digits and dashes");
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
                        "with more than one policy, give their order: order: [" + String.join(", ", policies) + "]"));
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
                        "there is no policy \"" + name + "\"" + Nearest.suggestion(name, policies));
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
