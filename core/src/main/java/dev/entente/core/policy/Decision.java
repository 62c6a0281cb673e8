package dev.entente.core.policy;

import dev.entente.core.scope.GroupGraph;
import dev.entente.core.verify.Method;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * Whether one person may do one thing, and why: what runs and what explains is this one computation.
 *
 * @param action what was asked
 * @param revision the configuration that decided
 * @param considered every policy up to the one that decided, in order, with why it did or did not
 * @param policy the one that decided; empty if none covers the person
 * @param obstacles what stands in the way now; empty if the person can do it
 */
public record Decision(
        Action action, int revision, List<Considered> considered, Optional<Policy> policy, List<Obstacle> obstacles) {

    /** One policy that was looked at. */
    public record Considered(String policy, boolean covers, String because) {}

    /**
     * Something that stands in the way.
     *
     * @param code a stable word
     * @param cause a sentence
     * @param whatToDo a sentence
     */
    public record Obstacle(String code, String cause, String whatToDo) {}

    /** Whether the person can do it now. */
    public boolean possible() {
        return obstacles.isEmpty();
    }

    /**
     * Decides by order: the first policy whose scope covers the person.
     *
     * @param stops what is stopped now
     */
    public static Decision of(
            Configuration configuration, GroupGraph graph, PersonFacts person, Action action, List<Stop> stops) {
        var considered = new ArrayList<Considered>();
        Policy decides = null;
        for (var policy : configuration.policies()) {
            var membership = configuration.scopes().get(policy.scope()).membership(person.groups(), graph);
            considered.add(new Considered(policy.name(), membership.covers(), membership.because()));
            if (membership.covers()) {
                decides = policy;
                break;
            }
        }
        return new Decision(
                action,
                configuration.revision(),
                List.copyOf(considered),
                Optional.ofNullable(decides),
                obstacles(decides, person, action, stops));
    }

    private static List<Obstacle> obstacles(Policy policy, PersonFacts person, Action action, List<Stop> stops) {
        if (policy == null) {
            return List.of(new Obstacle(
                    "not-covered",
                    "No published policy covers this person.",
                    "Add the person to a group of a scope, or a policy for a scope that holds them."));
        }
        var obstacles = new ArrayList<Obstacle>();
        for (var stop : stops) {
            if (stop.stops(action) || stop.stopsPolicy(policy.name())) {
                obstacles.add(stopped(stop));
            }
        }
        var methods = policy.prove().value().anyOf();
        if (methods.stream().allMatch(method -> stops.stream().anyMatch(stop -> stop.stops(method)))) {
            stops.stream()
                    .filter(stop -> methods.stream().anyMatch(stop::stops))
                    .forEach(stop -> obstacles.add(stopped(stop)));
        }
        if (!policy.allow().value().contains(action)) {
            obstacles.add(new Obstacle(
                    "action-off",
                    "The policy " + policy.name() + " does not allow " + action.label() + ".",
                    "Add " + action.label() + " to allow in " + policy.allow().source() + "."));
        }
        var targets = person.accounts().stream()
                .filter(a -> policy.deliverTo().value().contains(a.directory()))
                .toList();
        if (targets.isEmpty()) {
            obstacles.add(new Obstacle(
                    "no-account",
                    "The person has no account in "
                            + String.join(" or ", policy.deliverTo().value()) + ".",
                    "Check deliver.to in " + policy.deliverTo().source() + ", and synchronise the directory."));
        }
        for (var account : targets) {
            if (account.disabled()) {
                obstacles.add(new Obstacle(
                        "account-disabled",
                        "The account " + account.login() + " in " + account.directory() + " is disabled.",
                        "Enable it in the directory if the person should have access, then synchronise."));
            }
        }
        if (policy.prove().value().anyOf().contains(Method.EMAIL_CODE) && !person.hasMail()) {
            obstacles.add(new Obstacle(
                    "no-mail",
                    "No e-mail address is known to send a code to.",
                    "Add a mail attribute in the directory, then synchronise."));
        }
        return List.copyOf(obstacles);
    }

    private static Obstacle stopped(Stop stop) {
        return new Obstacle(
                "stopped",
                "An administrator has stopped " + stop.what() + ": " + stop.reason() + ".",
                stop.until() == null
                        ? "Let it go on when it is time: entente resume " + stop.what() + "."
                        : "It goes on by itself at " + stop.until().truncatedTo(ChronoUnit.MINUTES)
                                + ", or before: entente resume " + stop.what() + ".");
    }
}
