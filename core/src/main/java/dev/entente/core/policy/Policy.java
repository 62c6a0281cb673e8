package dev.entente.core.policy;

import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Method;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/**
 * What a scope may do and must prove, complete: whatever the file did not say is inherited, and each value tells from where.
 *
 * @param name as files refer to it
 * @param title for people
 * @param scope the name of the scope it covers
 * @param allow actions that are switched on
 * @param refuse what is refused all the same, and when
 * @param prove what must be proved, by action
 * @param stricter when more is asked for
 * @param lockedMailbox whether a mailbox counts that the person's own password opens: who has lost it is locked out of both, and
 *     who has stolen it is in both
 * @param password the name of the rule set
 * @param deliverTo directories whose accounts get the new password
 * @param clearLockout clear a lockout together with the reset
 * @param mustChange ask for another password at the next sign-in
 * @param resets how many resets in a window
 * @param tries how many wrong answers in a window, over all attempts
 * @param pause how long after one reset the next is possible
 * @param inactiveAfter without a sign-in for so long nothing is possible; empty for no such limit
 * @param leaveOutDisabled whether disabled accounts are passed over; otherwise one of them stands in the way
 * @param terms the text to be accepted before a password is chosen; empty for none
 * @param checklist what the help desk has to do before it confirms who somebody is
 * @param managerConfirms whether the person's manager can confirm it instead
 * @param tellPerson what the person is told of
 * @param maySwitchOff what a person may choose not to be told of
 * @param closeOnAlarm whether a person who says "this wasn't me" can do nothing here until somebody has looked
 * @param tellAdministrators whether administrators are told of a privileged account's new password
 */
public record Policy(
        String name,
        String title,
        String scope,
        Setting<Set<Action>> allow,
        Setting<List<Refusal>> refuse,
        Map<Action, Setting<Requirement>> prove,
        Setting<List<Stricter>> stricter,
        Setting<Boolean> lockedMailbox,
        Setting<String> password,
        Setting<List<String>> deliverTo,
        Setting<Boolean> clearLockout,
        Setting<Boolean> mustChange,
        Setting<Rate> resets,
        Setting<Rate> tries,
        Setting<Duration> pause,
        Setting<Optional<Duration>> inactiveAfter,
        Setting<Boolean> leaveOutDisabled,
        Setting<Optional<String>> terms,
        Setting<List<String>> checklist,
        Setting<Boolean> managerConfirms,
        Setting<Set<Occasion>> tellPerson,
        Setting<Set<Occasion>> maySwitchOff,
        Setting<Boolean> closeOnAlarm,
        Setting<Boolean> tellAdministrators) {

    /** What administrators can be told of. */
    static final String PRIVILEGED_RESET = "privileged-reset";

    /** What happens when a person says "this wasn't me": they are told whom to call, or self-service is closed for them as well. */
    static final List<String> ON_ALARM = List.of("tell", "close");

    public Policy {
        prove = Map.copyOf(prove);
    }

    /**
     * A value and where it was said.
     *
     * @param source a file's path, or {@code built in}
     */
    public record Setting<T>(T value, String source) {}

    /** Actions that are refused when a condition holds. */
    public record Refusal(Set<Action> actions, When when) {
        public Refusal {
            actions = Set.copyOf(actions);
        }
    }

    /** At most {@code count} in any window of this length. */
    public record Rate(int count, Duration per) {
        @Override
        public String toString() {
            return count + " per " + span(per);
        }
    }

    /** What has to be proved for an action: as it says, or as a reset if it says nothing. */
    public Setting<Requirement> proof(Action action) {
        return prove.getOrDefault(action, prove.get(Action.RESET));
    }

    /** Methods that somebody could use here. */
    public Set<Method> methodsOf(PersonFacts person) {
        if (!lockedMailbox.value() || person.behindPassword().isEmpty()) {
            return person.enrolled();
        }
        var all = new TreeSet<>(person.enrolled());
        all.addAll(person.behindPassword());
        return all;
    }

    /** What is asked for under these circumstances, and which conditions asked for more. */
    public Required required(Action action, PersonFacts person, Circumstances circumstances) {
        var requirement = proof(action).value();
        var because = new ArrayList<String>();
        for (var more : stricter.value()) {
            if (more.concerns(action) && more.when().holds(person, circumstances)) {
                requirement = requirement.and(more);
                because.add(more.when().words() + ": " + more.words());
            }
        }
        return new Required(requirement, proof(action).source(), List.copyOf(because));
    }

    /**
     * What is asked for.
     *
     * @param source where the requirement was said
     * @param because each condition that asked for more, and what
     */
    public record Required(Requirement requirement, String source, List<String> because) {}

    /**
     * Whether somebody who has these methods could meet a requirement after setting up by themselves what they lack.
     *
     * @param details what is asked for before that
     */
    boolean couldEnrol(Requirement requirement, Requirement details, Collection<Method> have) {
        if (!allow.value().contains(Action.DETAILS) || !details.withinReachOf(have)) {
            return false;
        }
        var more = new ArrayList<>(have);
        Method.known().stream()
                .filter(m -> m.selfEnrolled() && !more.contains(m))
                .forEach(more::add);
        return requirement.withinReachOf(more);
    }

    /** Every method that it may ask for. */
    public List<Method> methods() {
        return prove.values().stream()
                .flatMap(p -> p.value().anyOf().stream())
                .distinct()
                .sorted()
                .toList();
    }

    /** Every value as text with its source, by its path in a file, in the order of the file. */
    public Map<String, Setting<String>> facts() {
        var facts = new LinkedHashMap<String, Setting<String>>();
        facts.put("allow", text(allow, labels(allow.value())));
        facts.put(
                "refuse",
                text(
                        refuse,
                        listed(
                                refuse.value().stream()
                                        .map(r -> labels(r.actions()) + " "
                                                + r.when().words())
                                        .toList(),
                                "; ")));
        for (var action : List.of(Action.RESET, Action.UNLOCK, Action.CHANGE, Action.DETAILS)) {
            var said = prove.get(action);
            if (said == null) {
                continue;
            }
            var at = "prove." + action.label() + ".";
            facts.put(at + "methods", text(said, String.valueOf(said.value().methods())));
            facts.put(at + "factors", text(said, String.valueOf(said.value().factors())));
            facts.put(at + "any-of", text(said, names(said.value().anyOf())));
            facts.put(at + "must-include", text(said, names(said.value().mustInclude())));
            facts.put(at + "first", text(said, names(said.value().first())));
        }
        facts.put(
                "prove.stricter",
                text(
                        stricter,
                        listed(
                                stricter.value().stream()
                                        .map(s -> s.when().words() + ": " + s.words())
                                        .toList(),
                                "; ")));
        facts.put("prove.locked-mailbox", text(lockedMailbox, yes(lockedMailbox.value())));
        facts.put("password", text(password, password.value()));
        facts.put("deliver.to", text(deliverTo, String.join(", ", deliverTo.value())));
        facts.put("deliver.clear-lockout", text(clearLockout, yes(clearLockout.value())));
        facts.put("deliver.must-change", text(mustChange, yes(mustChange.value())));
        facts.put("limit.resets", text(resets, resets.value().toString()));
        facts.put("limit.tries", text(tries, tries.value().toString()));
        facts.put("limit.wait", text(pause, pause.value().isZero() ? "none" : span(pause.value())));
        facts.put(
                "limit.inactive-account",
                text(inactiveAfter, inactiveAfter.value().map(Policy::span).orElse("no limit")));
        facts.put("limit.disabled-account", text(leaveOutDisabled, leaveOutDisabled.value() ? "leave-out" : "refuse"));
        facts.put("terms", text(terms, terms.value().orElse("none")));
        facts.put("help-desk.checklist", text(checklist, listed(checklist.value(), "; ")));
        facts.put("help-desk.manager", text(managerConfirms, managerConfirms.value() ? "yes" : "no"));
        facts.put("tell.person", occasions(tellPerson));
        facts.put("tell.may-switch-off", occasions(maySwitchOff));
        facts.put("tell.alarm", text(closeOnAlarm, ON_ALARM.get(closeOnAlarm.value() ? 1 : 0)));
        facts.put(
                "tell.administrators",
                text(tellAdministrators, tellAdministrators.value() ? PRIVILEGED_RESET : "none"));
        return facts;
    }

    /**
     * A sentence that a person could say aloud.
     *
     * @param facts names of the {@link #facts()} that it tells
     */
    public record Sentence(String text, List<String> facts) {
        public Sentence {
            facts = List.copyOf(facts);
        }

        private static Sentence of(String text, String... facts) {
            return new Sentence(text, List.of(facts));
        }

        /** What is asked for before an action. */
        private static Sentence proof(Action action, String text) {
            var part = "prove." + action.label() + ".";
            return of(text, part + "methods", part + "factors", part + "any-of", part + "must-include", part + "first");
        }
    }

    /** The policy as sentences; the texts alone. */
    List<String> texts(String scopeTitle) {
        return sentences(scopeTitle).stream().map(Sentence::text).toList();
    }

    /** The policy as sentences. */
    public List<Sentence> sentences(String scopeTitle) {
        var sentences = new ArrayList<Sentence>();
        var passwords = allow.value().stream()
                .filter(a -> a != Action.DETAILS)
                .sorted()
                .map(Action::label)
                .toList();
        var may = new ArrayList<String>();
        if (!passwords.isEmpty()) {
            may.add(said(passwords, "and") + " their own password");
        }
        if (allow.value().contains(Action.DETAILS)) {
            may.add("set up their methods");
        }
        sentences.add(Sentence.of(
                scopeTitle + (may.isEmpty() ? " can't do anything here" : " can " + said(may, "and")) + ".", "allow"));
        refuse.value()
                .forEach(r -> sentences.add(Sentence.of(
                        "They can't "
                                + said(
                                        r.actions().stream()
                                                .sorted()
                                                .map(Action::label)
                                                .toList(),
                                        "or") + " "
                                + r.when().words() + ".",
                        "refuse")));
        sentences.add(Sentence.proof(
                Action.RESET,
                "To reset, they verify with " + prove.get(Action.RESET).value().words() + "."));
        for (var action : List.of(Action.UNLOCK, Action.CHANGE, Action.DETAILS)) {
            var said = prove.get(action);
            if (said != null && allow.value().contains(action)) {
                sentences.add(Sentence.proof(
                        action,
                        "To " + (action == Action.DETAILS ? "change their methods" : action.label())
                                + ", they verify with "
                                + said.value().words() + "."));
            }
        }
        stricter.value()
                .forEach(s -> sentences.add(
                        Sentence.of(capital(s.when().words()) + " it takes " + s.words() + ".", "prove.stricter")));
        if (lockedMailbox.value() && methods().stream().anyMatch(m -> m.facts().by() == Channel.MAIL)) {
            sentences.add(Sentence.of(
                    "Codes and links may go to a mailbox that the same password opens.", "prove.locked-mailbox"));
        }
        terms.value().ifPresent(t -> sentences.add(Sentence.of("They accept the terms " + t + " first.", "terms")));
        if (methods().stream().anyMatch(m -> m.facts().source() == Method.Source.STAFF)) {
            sentences.add(Sentence.of(
                    "Before confirming who someone is, the help desk checks: " + String.join("; ", checklist.value())
                            + ".",
                    "help-desk.checklist"));
            if (managerConfirms.value()) {
                sentences.add(Sentence.of(
                        "Their manager can confirm it instead, by the same list, once they have shown something else.",
                        "help-desk.manager"));
            }
        }
        sentences.add(Sentence.of(
                "A new password has to meet the rule set " + password.value() + " and the directory's own rules.",
                "password"));
        sentences.add(Sentence.of(
                "It is written to " + String.join(" and ", deliverTo.value())
                        + (clearLockout.value() ? ", clearing a lockout" : "")
                        + (mustChange.value() ? ", and must be changed at the next sign-in" : "") + ".",
                "deliver.to",
                "deliver.clear-lockout",
                "deliver.must-change"));
        sentences.add(Sentence.of(
                "One person may reset at most " + resets.value().toString().replace(" per ", " times in ")
                        + (pause.value().isZero() ? "" : ", with " + span(pause.value()) + " in between")
                        + inactiveAfter
                                .value()
                                .map(d -> ", and not after " + span(d) + " without a sign-in")
                                .orElse("")
                        + ".",
                "limit.resets",
                "limit.wait",
                "limit.inactive-account"));
        sentences.add(Sentence.of(told(tellPerson.value()), "tell.person"));
        if (!maySwitchOff.value().isEmpty()) {
            sentences.add(Sentence.of(
                    "They may choose not to be told of "
                            + said(
                                    maySwitchOff.value().stream()
                                            .sorted()
                                            .map(o -> o.label().replace('-', ' '))
                                            .toList(),
                                    "or")
                            + ".",
                    "tell.may-switch-off"));
        }
        if (closeOnAlarm.value()) {
            sentences.add(Sentence.of(
                    "If the person says that something wasn't them, self-service is closed for them until an administrator"
                            + " has looked.",
                    "tell.alarm"));
        }
        if (tellAdministrators.value()) {
            sentences.add(Sentence.of(
                    "Administrators are told when a privileged account gets a new password.", "tell.administrators"));
        }
        return List.copyOf(sentences);
    }

    private static String told(Set<Occasion> occasions) {
        var after = occasions.stream()
                .filter(o -> !o.ahead())
                .sorted()
                .map(o -> o.label().replace('-', ' '))
                .toList();
        var told = new ArrayList<String>();
        if (!after.isEmpty()) {
            told.add("The person is told after each " + said(after, "or") + ".");
        }
        if (occasions.contains(Occasion.EXPIRY)) {
            told.add("They are told before their password ends.");
        }
        if (occasions.contains(Occasion.INVITATION)) {
            told.add("They are invited to set up what they lack for a reset.");
        }
        return told.isEmpty() ? "No one is told." : String.join(" ", told);
    }

    private static Setting<String> occasions(Setting<Set<Occasion>> setting) {
        return text(
                setting,
                listed(setting.value().stream().sorted().map(Occasion::label).toList(), ", "));
    }

    static String said(List<String> items, String last) {
        return items.size() < 2
                ? String.join("", items)
                : String.join(", ", items.subList(0, items.size() - 1)) + " " + last + " "
                        + items.get(items.size() - 1);
    }

    static String capital(String text) {
        return Character.toUpperCase(text.charAt(0)) + text.substring(1);
    }

    private static String yes(boolean value) {
        return value ? "yes" : "no";
    }

    private static String listed(List<String> items, String separator) {
        return items.isEmpty() ? "none" : String.join(separator, items);
    }

    private static String names(java.util.Collection<Method> methods) {
        return listed(methods.stream().map(Method::label).toList(), ", ");
    }

    /** A time as it is written in files: {@code 90m}, {@code 24h}, {@code 90d}. */
    static String span(Duration time) {
        var minutes = time.toMinutes();
        if (minutes >= 2880 && minutes % 1440 == 0) {
            return minutes / 1440 + "d";
        }
        return minutes >= 60 && minutes % 60 == 0 ? minutes / 60 + "h" : minutes + "m";
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
