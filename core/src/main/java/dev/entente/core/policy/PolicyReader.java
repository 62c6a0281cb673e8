package dev.entente.core.policy;

import dev.entente.core.policy.Policy.Rate;
import dev.entente.core.policy.Policy.Refusal;
import dev.entente.core.policy.Policy.Setting;
import dev.entente.core.policy.YamlDocument.Members;
import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.emailcode.EmailCodeMethod;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** Reads one file of policy settings: the defaults, or a policy laid over them. */
final class PolicyReader {
    private static final List<String> SETTINGS =
            List.of("allow", "refuse", "prove", "password", "deliver", "limit", "tell", "terms", "help-desk");
    private static final int LONGEST_CHECKLIST = 20;
    private static final int LONGEST_CHECK = 200;
    private static final List<Action> PROVED = List.of(Action.RESET, Action.UNLOCK, Action.CHANGE, Action.DETAILS);

    /**
     * What policies can name.
     *
     * @param directories null where any name will do
     */
    record Lists(
            Collection<String> scopes,
            Collection<String> passwords,
            Map<String, Network> networks,
            Collection<String> terms,
            Map<Method, MethodSettings> methods,
            Collection<String> directories) {}

    private final YamlDocument document;
    private final Lists lists;

    PolicyReader(YamlDocument document, Lists lists) {
        this.document = document;
        this.lists = lists;
    }

    /** What holds where no file says anything. */
    static Policy builtIn() {
        var source = "built in";
        return new Policy(
                "",
                "",
                "",
                new Setting<>(Set.of(), source),
                new Setting<>(List.of(), source),
                Map.of(Action.RESET, new Setting<>(Requirement.one(Method.of(EmailCodeMethod.LABEL)), source)),
                new Setting<>(List.of(), source),
                new Setting<>(false, source),
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
                new Setting<>(
                        List.of("They were called back on a number that the directory has, not one they gave"), source),
                new Setting<>(false, source),
                new Setting<>(Set.of(Occasion.RESET), source),
                new Setting<>(Set.of(), source),
                new Setting<>(false, source),
                new Setting<>(false, source));
    }

    /** What holds where no policy says anything. */
    Optional<Policy> defaults(String text) {
        return document.root(text, SETTINGS, Set.of()).map(root -> inherited(root, builtIn()));
    }

    /** Of a policy's file. */
    Optional<Policy> policy(String text, Policy defaults) {
        var names = new ArrayList<>(List.of("policy", "title", "who"));
        names.addAll(SETTINGS);
        return document.root(text, names, Set.of()).flatMap(root -> {
            var name = ConfigurationReader.name(document, root, "policy");
            var title = document.text(root, "title");
            if (!root.has("who")) {
                document.problem(root.node(), "", "\"who\" is missing: say \"who: scope NAME\"");
            }
            var who = document.value(
                    root,
                    "who",
                    "say \"scope NAME\" with a scope of this folder"
                            + (lists.scopes().isEmpty() ? "" : ": " + String.join(", ", lists.scopes())),
                    said -> Optional.of(said)
                            .filter(t -> t.startsWith("scope "))
                            .map(t -> t.substring(6).strip())
                            .filter(lists.scopes()::contains));
            var merged = inherited(root, defaults);
            if (merged.password().value().isEmpty()) {
                document.problem(root.node(), "", "\"password\" is missing, here and in defaults.yaml");
            }
            if (merged.deliverTo().value().isEmpty()) {
                document.problem(root.node(), "", "\"deliver: {to: […]}\" is missing, here and in defaults.yaml");
            }
            merged.prove().forEach((action, proof) -> possible(root, action, proof.value(), merged));
            return name.flatMap(n -> who.map(scope -> new Policy(
                    n,
                    title.orElse(n),
                    scope,
                    merged.allow(),
                    merged.refuse(),
                    merged.prove(),
                    merged.stricter(),
                    merged.lockedMailbox(),
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
                    merged.checklist(),
                    merged.managerConfirms(),
                    merged.tellPerson(),
                    merged.maySwitchOff(),
                    merged.closeOnAlarm(),
                    merged.tellAdministrators())));
        });
    }

    /** A condition that asks for what nobody could ever prove would lock people out without saying so. */
    private void possible(Members root, Action action, Requirement proof, Policy merged) {
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
                        more.when().words() + " no one could meet what is required for " + action.label() + ": "
                                + one.words());
                return;
            }
            all = all.and(more);
        }
        if (!all.withinReachOf(all.anyOf())) {
            document.problem(
                    root.values().getOrDefault("prove", root.node()),
                    "/prove/stricter",
                    "when all conditions hold no one could meet what is required for " + action.label() + ": "
                            + all.words());
        }
    }

    /** What a file says laid over what it inherits. */
    private Policy inherited(Members root, Policy base) {
        var prove = document.part(
                root, "prove", List.of("reset", "unlock", "change", "details", "stricter", "locked-mailbox"), Set.of());
        var proofs = new EnumMap<Action, Setting<Requirement>>(base.prove());
        for (var action : PROVED) {
            prove.flatMap(p -> document.part(
                            p,
                            action.label(),
                            List.of("methods", "factors", "any-of", "must-include", "first"),
                            Set.of()))
                    .flatMap(p -> requirement(p))
                    .ifPresent(r -> proofs.put(action, new Setting<>(r, document.file())));
        }
        var deliver = document.part(root, "deliver", List.of("to", "clear-lockout", "must-change"), Set.of());
        var limit = document.part(
                root, "limit", List.of("resets", "tries", "wait", "inactive-account", "disabled-account"), Set.of());
        var tell =
                document.part(root, "tell", List.of("person", "may-switch-off", "alarm", "administrators"), Set.of());
        var helpDesk = document.part(root, "help-desk", List.of("checklist", "manager"), Set.of());
        var file = document.file();
        return new Policy(
                base.name(),
                base.title(),
                base.scope(),
                said(actions(root, "allow"), base.allow(), file),
                said(refusals(root), base.refuse(), file),
                proofs,
                said(prove.flatMap(p -> stricter(p)), base.stricter(), file),
                said(prove.flatMap(p -> document.flag(p, "locked-mailbox")), base.lockedMailbox(), file),
                said(known(root, "password", "rule set", lists.passwords()), base.password(), file),
                said(deliver.flatMap(d -> targets(d)), base.deliverTo(), file),
                said(deliver.flatMap(d -> document.flag(d, "clear-lockout")), base.clearLockout(), file),
                said(deliver.flatMap(d -> document.flag(d, "must-change")), base.mustChange(), file),
                said(limit.flatMap(l -> document.rate(l, "resets")), base.resets(), file),
                said(limit.flatMap(l -> document.rate(l, "tries")), base.tries(), file),
                said(
                        limit.flatMap(l -> document.span(l, "wait", Duration.ofMinutes(1), Duration.ofDays(31))),
                        base.pause(),
                        file),
                said(
                        limit.flatMap(l ->
                                        document.span(l, "inactive-account", Duration.ofDays(1), Duration.ofDays(3650)))
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
                                : known(root, "terms", "text of terms", lists.terms())
                                        .map(Optional::of),
                        base.terms(),
                        file),
                said(helpDesk.flatMap(h -> checklist(h)), base.checklist(), file),
                said(helpDesk.flatMap(h -> document.flag(h, "manager")), base.managerConfirms(), file),
                said(tell.flatMap(t -> occasions(t, "person")), base.tellPerson(), file),
                said(tell.flatMap(t -> dispensable(t)), base.maySwitchOff(), file),
                said(
                        tell.flatMap(t -> document.value(
                                t,
                                "alarm",
                                "tell or close is expected",
                                word -> Optional.of(word)
                                        .filter(Policy.ON_ALARM::contains)
                                        .map(w -> w.equals(Policy.ON_ALARM.get(1))))),
                        base.closeOnAlarm(),
                        file),
                said(tell.flatMap(t -> forAdministrators(t)), base.tellAdministrators(), file));
    }

    private Optional<List<String>> checklist(Members in) {
        return document.texts(in, "checklist").map(items -> {
            var at = in.pointer() + "/checklist";
            if (items.isEmpty() || items.size() > LONGEST_CHECKLIST) {
                document.problem(
                        in.values().get("checklist"), at, "a checklist has 1 to " + LONGEST_CHECKLIST + " entries");
            } else if (items.stream().anyMatch(i -> i.length() > LONGEST_CHECK)) {
                document.problem(
                        in.values().get("checklist"),
                        at,
                        "an entry of a checklist has at most " + LONGEST_CHECK + " characters");
            } else if (Set.copyOf(items).size() < items.size()) {
                document.problem(in.values().get("checklist"), at, "an entry appears twice; write it once");
            }
            return items;
        });
    }

    private Optional<List<Refusal>> refusals(Members root) {
        return document.list(root, "refuse")
                .map(items -> items.stream()
                        .flatMap(item -> document
                                .members(item.node(), item.pointer(), List.of("actions", "when"), Set.of())
                                .flatMap(in -> {
                                    var actions = actions(in, "actions");
                                    if (actions.isEmpty() || actions.get().isEmpty()) {
                                        document.problem(in.node(), in.pointer(), "\"actions\" is missing: name them");
                                    }
                                    return when(in).flatMap(when ->
                                            actions.filter(a -> !a.isEmpty()).map(a -> new Refusal(a, when)));
                                })
                                .stream())
                        .toList());
    }

    private Optional<List<Stricter>> stricter(Members prove) {
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
                                                "nothing is required; add methods, factors, must-include or any-of");
                                    }
                                    var more = new Stricter(
                                            when(in).orElse(new When.Privileged()),
                                            actions(in, "actions").orElse(Set.of()),
                                            document.integer(in, "methods", 1, 5)
                                                    .orElse(0),
                                            document.integer(in, "factors", 1, 3)
                                                    .orElse(0),
                                            methodList(in, "must-include"),
                                            methodList(in, "any-of"));
                                    return in.has("when") ? Optional.of(more) : Optional.empty();
                                })
                                .stream())
                        .toList());
    }

    private Optional<When> when(Members in) {
        if (!in.has("when")) {
            document.problem(in.node(), in.pointer(), "\"when\" is missing: say when it holds, such as privileged");
            return Optional.empty();
        }
        return document.text(in, "when").flatMap(text -> {
            var read = new WhenReader(lists.networks()).read(text);
            read.problem().ifPresent(p -> document.problem(in.values().get("when"), in.pointer() + "/when", p));
            return read.when();
        });
    }

    private static <T> Setting<T> said(Optional<T> here, Setting<T> inherited, String file) {
        return here.map(value -> new Setting<>(value, file)).orElse(inherited);
    }

    private Optional<Set<Action>> actions(Members in, String name) {
        return document.list(in, name)
                .map(items -> items.stream()
                        .flatMap(item -> document.scalar(item.node(), item.pointer()).stream()
                                .flatMap(text -> action(item, text).stream()))
                        .collect(Collectors.toSet()));
    }

    private Optional<Action> action(YamlDocument.Item item, String text) {
        var action = Action.labelled(text);
        if (action.isEmpty()) {
            var all = List.of(Action.values()).stream()
                    .filter(a -> a != Action.TEMPORARY)
                    .map(Action::label)
                    .toList();
            document.problem(
                    item.node(), item.pointer(), "there is no action \"" + text + "\"" + Nearest.suggestion(text, all));
        } else if (!action.get().available()) {
            document.problem(
                    item.node(),
                    item.pointer(),
                    "the action \"" + text + "\" is not available in this version yet; leave it out");
        }
        return action.filter(Action::available);
    }

    private Optional<Set<Occasion>> occasions(Members in, String name) {
        return document.list(in, name)
                .map(items -> items.stream()
                        .flatMap(item -> document.scalar(item.node(), item.pointer()).stream()
                                .flatMap(text -> occasion(item, text).stream()))
                        .collect(Collectors.toSet()));
    }

    /** Of another way in people are told whatever they want, or whoever added it could have them not told. */
    private Optional<Set<Occasion>> dispensable(Members in) {
        var found = occasions(in, "may-switch-off");
        if (found.filter(all -> all.contains(Occasion.NEW_METHOD)).isPresent()) {
            document.problem(
                    in.values().get("may-switch-off"),
                    in.pointer() + "/may-switch-off",
                    "of new methods people are always told; leave new-method out");
        }
        return found;
    }

    private Optional<Occasion> occasion(YamlDocument.Item item, String text) {
        var occasion = Occasion.labelled(text);
        if (occasion.isEmpty()) {
            document.problem(
                    item.node(),
                    item.pointer(),
                    "no one can be told about \"" + text + "\""
                            + Nearest.suggestion(
                                    text,
                                    Arrays.stream(Occasion.values())
                                            .map(Occasion::label)
                                            .toList()));
        }
        return occasion;
    }

    private Optional<Boolean> forAdministrators(Members in) {
        return document.list(in, "administrators").map(items -> {
            for (var item : items) {
                var text = document.scalar(item.node(), item.pointer()).orElse(Policy.PRIVILEGED_RESET);
                if (!text.equals(Policy.PRIVILEGED_RESET)) {
                    document.problem(
                            item.node(),
                            item.pointer(),
                            "administrators can't be told about \"" + text + "\""
                                    + Nearest.suggestion(text, List.of(Policy.PRIVILEGED_RESET)));
                }
            }
            return !items.isEmpty();
        });
    }

    private Optional<Requirement> requirement(Members in) {
        var from = methodList(in, "any-of");
        if (from.isEmpty()) {
            document.problem(in.node(), in.pointer(), "\"any-of\" is missing: name the methods to choose from");
            return Optional.empty();
        }
        var must = among(in, "must-include", from);
        var first = among(in, "first", from);
        var requirement = new Requirement(
                document.integer(in, "methods", 1, 5).orElse(1),
                document.integer(in, "factors", 1, 3).orElse(1),
                from,
                must,
                first,
                from.stream()
                        .filter(m -> lists.methods().containsKey(m)
                                && !lists.methods().get(m).alone())
                        .collect(Collectors.toSet()),
                from.stream()
                        .filter(lists.methods()::containsKey)
                        .collect(Collectors.toMap(
                                m -> m, m -> lists.methods().get(m).factor())));
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
        } else if (from.stream().noneMatch(Method::mayComeFirst)) {
            document.problem(
                    in.values().get("any-of"),
                    in.pointer() + "/any-of",
                    from.get(0).label()
                            + " can't come first, since what it asks depends on the person; add a method that can");
        } else if (from.size() == 1 && requirement.notAlone().containsAll(from)) {
            document.problem(
                    in.values().get("any-of"),
                    in.pointer() + "/any-of",
                    from.get(0).label()
                            + " is never enough alone; add another method too, or change alone in methods.yaml");
        }
        return Optional.of(requirement);
    }

    private Set<Method> among(Members in, String name, List<Method> from) {
        var named = methodList(in, name);
        for (var method : named) {
            if (!from.contains(method)) {
                document.problem(
                        in.values().get(name),
                        in.pointer() + "/" + name,
                        method.label() + " is not among any-of: "
                                + from.stream().map(Method::label).collect(Collectors.joining(", ")));
            }
        }
        return Method.set(named);
    }

    private List<Method> methodList(Members in, String name) {
        var named = new ArrayList<Method>();
        for (var item : document.list(in, name).orElse(List.of())) {
            var text = document.scalar(item.node(), item.pointer()).orElse("");
            var method = Method.labelled(text);
            if (method.isEmpty() && !text.isEmpty()) {
                var all = Method.known().stream().map(Method::label).toList();
                document.problem(
                        item.node(),
                        item.pointer(),
                        "there is no method \"" + text + "\"" + Nearest.suggestion(text, all));
            } else if (method.isPresent() && named.contains(method.get())) {
                document.problem(item.node(), item.pointer(), "\"" + text + "\" appears twice; write it once");
            }
            method.filter(m -> !named.contains(m)).ifPresent(named::add);
        }
        return named;
    }

    private Optional<String> known(Members in, String name, String noun, Collection<String> names) {
        return document.text(in, name).filter(text -> {
            if (!names.contains(text)) {
                document.problem(
                        in.values().get(name),
                        in.pointer() + "/" + name,
                        "there is no " + noun + " \"" + text + "\"" + Nearest.suggestion(text, names));
            }
            return names.contains(text);
        });
    }

    private Optional<List<String>> targets(Members in) {
        return document.list(in, "to").map(items -> {
            var names = new ArrayList<String>();
            for (var item : items) {
                var text = document.scalar(item.node(), item.pointer()).orElse("");
                if (!text.isEmpty()
                        && lists.directories() != null
                        && !lists.directories().contains(text)) {
                    document.problem(
                            item.node(),
                            item.pointer(),
                            "there is no directory \"" + text + "\"" + Nearest.suggestion(text, lists.directories()));
                }
                names.add(text);
            }
            return List.copyOf(names);
        });
    }
}
