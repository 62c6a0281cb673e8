package dev.entente.core.policy;

import dev.entente.core.verify.questions.QuestionSet;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;

/**
 * What a change makes easier for whoever is not the person: worked out from the two states alone, without regard to who is in
 * which scope. Where it cannot be told whether something is weaker, it counts as weaker.
 */
public final class Weakening {
    private final List<String> found = new ArrayList<>();

    private Weakening() {}

    /** Sentences, one for each thing that becomes weaker; empty if the change only asks for the same or more. */
    public static List<String> of(Configuration before, Configuration after) {
        var weakening = new Weakening();
        weakening.compare(before, after);
        return List.copyOf(weakening.found);
    }

    private void compare(Configuration before, Configuration after) {
        var known = new LinkedHashMap<String, Policy>();
        before.policies().forEach(p -> known.put(p.name(), p));
        for (var policy : after.policies()) {
            var was = known.remove(policy.name());
            if (was == null) {
                if (!policy.allow().value().isEmpty()) {
                    found.add("Policy " + policy.name() + " is new and allows something.");
                }
            } else {
                compare(was, policy);
            }
        }
        known.keySet().forEach(name -> found.add("Policy " + name + " is removed, so another may cover its people."));
        var order = after.policies().stream().map(Policy::name).toList();
        var orderBefore = before.policies().stream().map(Policy::name).toList();
        if (!order.stream()
                .filter(orderBefore::contains)
                .toList()
                .equals(orderBefore.stream().filter(order::contains).toList())) {
            found.add("The order of the policies changes.");
        }
        before.scopes().forEach((name, scope) -> {
            var is = after.scopes().get(name);
            if (is != null
                    && (!is.expression().equals(scope.expression())
                            || !is.portion().equals(scope.portion()))) {
                found.add("Scope " + name + " may hold other people.");
            }
        });
        before.networks().forEach((name, network) -> {
            var is = after.networks().get(name);
            if (is != null && !is.ranges().equals(network.ranges())) {
                found.add("Network " + name + " holds other addresses.");
            }
            if (network.shared() && (is == null || !is.shared())) {
                found.add("Devices in network " + name + " are remembered.");
            }
        });
        after.methods().forEach((method, is) -> {
            var was = before.methods().get(method);
            if (was == null) {
                return;
            }
            if (is.life() != null && was.life() != null && is.life().compareTo(was.life()) > 0) {
                found.add("A code of " + method.label() + " lives longer.");
            }
            if (is.tries() > was.tries()) {
                found.add("A code of " + method.label() + " may be tried more often.");
            }
            if (is.alone() && !was.alone()) {
                found.add(method.label() + " may be enough alone.");
            }
            for (var own : method.ownSettings()) {
                var taken = was.own(own.name());
                if (!taken.isEmpty() && (is.own(own.name()).isEmpty() || !taken.containsAll(is.own(own.name())))) {
                    found.add(method.label() + " takes other " + own.name() + ".");
                }
            }
            if (is.factor() != was.factor()) {
                found.add(method.label() + " counts as " + is.factor().label() + " instead of "
                        + was.factor().label() + ".");
            }
        });
        compare(before.questions(), after.questions(), "Security questions");
        compare(before.questions().spoken(), after.questions().spoken(), "Questions of the help desk");
        before.passwords().forEach((name, old) -> {
            var now = after.passwords().get(name);
            if (now != null
                    && (now.minLength() < old.minLength()
                            || now.kinds() < old.kinds()
                            || (old.noPersonalDetails() && !now.noPersonalDetails())
                            || !now.blockedWords().containsAll(old.blockedWords()))) {
                found.add("Rule set " + name + " accepts weaker passwords.");
            }
        });
    }

    /** Which of two questions is weaker can't be judged, so every change of the list counts as weaker. */
    private void compare(QuestionSet was, QuestionSet is, String which) {
        weaker(
                is.ask() < was.ask()
                        || is.register() < was.register()
                        || is.own() > was.own()
                        || is.shortest() < was.shortest()
                        || (was.caseMatters() && !is.caseMatters())
                        || (is.shown() && !was.shown())
                        || !is.blocked().containsAll(was.blocked()),
                which + " accept weaker answers, or fewer.");
        var changed = new TreeSet<>(is.questions().keySet());
        changed.addAll(was.questions().keySet());
        changed.removeIf(
                name -> Objects.equals(was.questions().get(name), is.questions().get(name)));
        weaker(!changed.isEmpty(), which + " are others: " + String.join(", ", changed) + ".");
    }

    private void compare(Policy was, Policy is) {
        var name = "Policy " + is.name();
        for (var action : is.allow().value()) {
            if (!was.allow().value().contains(action)) {
                found.add(name + " allows " + action.label() + ".");
            } else if (!is.proof(action)
                    .value()
                    .atLeastAsStrictAs(was.proof(action).value())) {
                found.add(name + " requires less, or something else, for " + action.label() + ".");
            }
        }
        weaker(!refusals(is).containsAll(refusals(was)), name + " refuses less.");
        weaker(!stricter(is).containsAll(stricter(was)), name + " requires less under a condition.");
        weaker(
                is.lockedMailbox().value() && !was.lockedMailbox().value(),
                name + " accepts mailboxes that the same password opens.");
        weaker(!is.scope().equals(was.scope()), name + " covers another scope.");
        weaker(!is.password().value().equals(was.password().value()), name + " uses another rule set.");
        weaker(
                !Set.copyOf(was.deliverTo().value()).containsAll(is.deliverTo().value()),
                name + " writes to another directory.");
        weaker(was.mustChange().value() && !is.mustChange().value(), name + " no longer asks to change the password.");
        weaker(more(was.resets().value(), is.resets().value()), name + " lets people reset more often.");
        weaker(more(was.tries().value(), is.tries().value()), name + " allows more wrong answers.");
        weaker(is.pause().value().compareTo(was.pause().value()) < 0, name + " has a shorter wait between resets.");
        weaker(
                was.inactiveAfter().value().isPresent()
                        && is.inactiveAfter()
                                .value()
                                .map(d ->
                                        d.compareTo(was.inactiveAfter().value().get()) > 0)
                                .orElse(true),
                name + " lets inactive people in for longer.");
        weaker(
                is.leaveOutDisabled().value() && !was.leaveOutDisabled().value(),
                name + " no longer stops at disabled accounts.");
        weaker(
                was.terms().value().isPresent()
                        && !is.terms().value().equals(was.terms().value()),
                name + " has other terms, or none.");
        weaker(
                !is.checklist().value().containsAll(was.checklist().value()),
                name + " has the help desk check less before it confirms.");
        weaker(
                is.managerConfirms().value() && !was.managerConfirms().value(),
                name + " lets managers confirm who somebody is.");
        weaker(!is.tellPerson().value().containsAll(was.tellPerson().value()), name + " tells the person about less.");
        weaker(
                !was.maySwitchOff().value().containsAll(is.maySwitchOff().value()),
                name + " lets people choose not to be told.");
        weaker(
                was.closeOnAlarm().value() && !is.closeOnAlarm().value(),
                name + " no longer closes self-service after an alarm.");
        weaker(
                was.tellAdministrators().value() && !is.tellAdministrators().value(),
                name + " no longer tells administrators about privileged accounts.");
    }

    private static List<List<Object>> refusals(Policy policy) {
        return policy.refuse().value().stream()
                .map(r -> List.of(r.actions(), condition(r.when())))
                .toList();
    }

    private static List<List<Object>> stricter(Policy policy) {
        return policy.stricter().value().stream()
                .map(s ->
                        List.of(condition(s.when()), s.actions(), s.methods(), s.factors(), s.mustInclude(), s.anyOf()))
                .toList();
    }

    /** Networks by their names: what changes in a network itself is told of the network, once. */
    private static Object condition(When when) {
        if (when instanceof When.Outside outside) {
            return "outside " + outside.network().name();
        }
        return when instanceof When.Inside inside ? "inside " + inside.network().name() : when;
    }

    private void weaker(boolean weaker, String sentence) {
        if (weaker) {
            found.add(sentence);
        }
    }

    /** More in a window, or a shorter window. */
    private static boolean more(Policy.Rate was, Policy.Rate is) {
        return is.count() > was.count() || is.per().compareTo(was.per()) < 0;
    }
}
