package dev.entente.core.policy;

import dev.entente.core.policy.Policy.Required;
import dev.entente.core.scope.GroupGraph;
import dev.entente.core.scope.Membership;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.emailcode.EmailCodeMethod;
import java.time.Duration;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Whether one person may do one thing, and why: what runs and what explains is this one computation.
 *
 * @param action what was asked
 * @param revision the configuration that decided
 * @param considered every policy up to the one that decided, in order, with why it did or did not
 * @param policy the one that decided; empty if none covers the person
 * @param required what has to be proved; empty if no policy decides
 * @param methods how each method of the requirement stands for the person
 * @param obstacles what stands in the way now; empty if the person can do it
 */
public record Decision(
        Action action,
        int revision,
        List<Considered> considered,
        Optional<Policy> policy,
        Optional<Required> required,
        List<Standing> methods,
        List<Obstacle> obstacles) {

    /** One policy that was looked at. */
    public record Considered(String policy, boolean covers, String because) {}

    /**
     * One method that may be asked for.
     *
     * @param enrolled whether the person has it
     * @param usable whether it can be used now
     * @param why what hinders it; empty if nothing does
     */
    public record Standing(Method method, boolean enrolled, boolean usable, String why) {
        /** How it stands, in words. */
        public String words() {
            if (!usable) {
                return why;
            }
            // The staff can vouch for everybody, and nobody enrols that.
            return method.facts().source() == Method.Source.STAFF ? "usable" : "enrolled and usable";
        }
    }

    /**
     * Something that stands in the way.
     *
     * @param code a stable word
     * @param cause a sentence
     * @param whatToDo a sentence
     * @param told whether the person is told of it, after the proof; what is not told makes the attempt a decoy, so that nobody
     *     learns by it who exists
     */
    public record Obstacle(String code, String cause, String whatToDo, boolean told) {
        /** One that is not told. */
        public Obstacle(String code, String cause, String whatToDo) {
            this(code, cause, whatToDo, false);
        }
    }

    /**
     * The same with more that stands in the way.
     *
     * @param closed methods that can't be used now for other reasons than the policy's, and why, as {@link Standing#why} says it
     */
    public Decision with(List<Obstacle> more, Map<Method, String> closed) {
        var all = new ArrayList<>(obstacles);
        all.addAll(more);
        var standings = methods.stream()
                .map(m -> m.usable() && closed.containsKey(m.method())
                        ? new Standing(m.method(), m.enrolled(), false, closed.get(m.method()))
                        : m)
                .toList();
        return new Decision(action, revision, considered, policy, required, standings, List.copyOf(all));
    }

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
            Configuration configuration,
            GroupGraph graph,
            PersonFacts person,
            Action action,
            Circumstances circumstances,
            List<Stop> stops) {
        var membership = new Membership(
                configuration.scopes(),
                person.subject(),
                graph,
                LocalDate.ofInstant(circumstances.at(), ZoneOffset.UTC));
        var considered = new ArrayList<Considered>();
        Policy decides = null;
        for (var policy : configuration.policies()) {
            var answer = membership.in(policy.scope());
            considered.add(new Considered(policy.name(), answer.covers(), answer.because()));
            if (answer.covers()) {
                decides = policy;
                break;
            }
        }
        if (decides == null) {
            return new Decision(
                    action,
                    configuration.revision(),
                    List.copyOf(considered),
                    Optional.empty(),
                    Optional.empty(),
                    List.of(),
                    List.of(new Obstacle(
                            "not-covered",
                            "No published policy covers this person.",
                            "Add the person to a scope, or a policy for a scope that holds them.")));
        }
        var decided = decides;
        var required = decides.required(action, person, circumstances);
        var methods = required.requirement().anyOf().stream()
                .map(m -> standing(m, person, decided, circumstances, stops))
                .toList();
        return new Decision(
                action,
                configuration.revision(),
                List.copyOf(considered),
                Optional.of(decides),
                Optional.of(required),
                methods,
                obstacles(decides, required.requirement(), methods, person, action, circumstances, stops));
    }

    /**
     * The whole answer as text to pass on.
     *
     * @param who the person's name
     */
    public String text(String who, Circumstances circumstances) {
        var lines = new ArrayList<String>();
        lines.add(who + ", " + action.label() + ": " + (possible() ? "possible" : "not possible") + " (revision "
                + revision + ", " + circumstances.at().truncatedTo(ChronoUnit.SECONDS)
                + (circumstances.network() == null ? "" : ", from " + circumstances.network()) + ")");
        for (var one : considered) {
            lines.add((one.covers() ? "  decides: " : "  passes: ") + one.policy() + " - " + one.because());
        }
        required.ifPresent(r -> {
            lines.add("  verify with: " + r.requirement().words() + " (" + r.source() + ")");
            r.because().forEach(b -> lines.add("  stricter " + b));
        });
        methods.forEach(m -> lines.add("  method: " + m.method().label() + " - " + m.words()));
        obstacles.forEach(o -> lines.add("  in the way: " + o.cause() + " " + o.whatToDo()));
        policy.ifPresent(p -> p.facts()
                .forEach((name, fact) -> lines.add("  " + name + ": " + fact.value() + " (" + fact.source() + ")")));
        return String.join("\n", lines) + "\n";
    }

    private static Standing standing(
            Method method, PersonFacts person, Policy policy, Circumstances circumstances, List<Stop> stops) {
        var enrolled = policy.methodsOf(person).contains(method);
        var why = stops.stream().anyMatch(s -> s.stops(method))
                ? "stopped by an administrator"
                : circumstances.broken().contains(method)
                        ? "its channel isn't working"
                        : !enrolled
                                ? person.behindPassword().contains(method)
                                        ? "goes only to a mailbox that one of the person's own passwords opens"
                                        : "not enrolled"
                                : circumstances.allow(method)
                                        ? ""
                                        : "enrolled, but only on a device that was used before";
        return new Standing(method, enrolled, why.isEmpty(), why);
    }

    private static List<Obstacle> obstacles(
            Policy policy,
            Requirement requirement,
            List<Standing> methods,
            PersonFacts person,
            Action action,
            Circumstances circumstances,
            List<Stop> stops) {
        var obstacles = new ArrayList<Obstacle>();
        for (var stop : stops) {
            if (stop.stops(action) || stop.stopsPolicy(policy.name())) {
                obstacles.add(stopped(stop));
            }
        }
        var enrolled = methods.stream()
                .filter(Standing::enrolled)
                .map(Standing::method)
                .toList();
        // Of somebody who lacks methods that is told, and what is stopped only where nobody could meet it.
        var own = requirement.withinReachOf(enrolled) ? enrolled : requirement.anyOf();
        var working = enrolled.stream()
                .filter(m -> circumstances.allow(m) && !circumstances.broken().contains(m))
                .toList();
        // A stop and a broken channel may each leave a way open, and together none.
        if (!requirement.withinReachOf(running(own, stops))
                || (requirement.withinReachOf(working) && !requirement.withinReachOf(running(working, stops)))) {
            stops.stream()
                    .filter(stop -> requirement.anyOf().stream().anyMatch(stop::stops))
                    .forEach(stop -> obstacles.add(stopped(stop)));
        }
        if (!policy.allow().value().contains(action)) {
            obstacles.add(new Obstacle(
                    "action-off",
                    "The policy " + policy.name() + " doesn't allow " + action.label() + ".",
                    "Add " + action.label() + " to allow in " + policy.allow().source() + "."));
        }
        for (var refusal : policy.refuse().value()) {
            if (refusal.actions().contains(action) && refusal.when().holds(person, circumstances)) {
                obstacles.add(new Obstacle(
                        "refused",
                        "The policy " + policy.name() + " refuses " + action.label() + " "
                                + refusal.when().words() + ".",
                        refusal.when().circumstantial()
                                ? "The person can try under other circumstances, or you can change refuse in "
                                        + policy.refuse().source() + "."
                                : "Another policy has to cover the person, or refuse in "
                                        + policy.refuse().source() + " be changed."));
            }
        }
        accounts(obstacles, policy, person, circumstances);
        if (!requirement.withinReachOf(methods.stream()
                .filter(Standing::enrolled)
                .map(Standing::method)
                .toList())) {
            obstacles.add(methodsMissing(policy, requirement, methods, person));
        } else if (!requirement.withinReachOf(circumstances.allowed(methods.stream()
                .filter(Standing::enrolled)
                .map(Standing::method)
                .toList()))) {
            obstacles.add(new Obstacle(
                    "device-unknown",
                    "Without a device that was used before, the person has too few methods: it takes "
                            + requirement.words() + ".",
                    "The person can try on a device of theirs; or "
                            + whatToDo(methods.stream()
                                    .filter(m -> !m.enrolled())
                                    .map(Standing::method)
                                    .toList())
                            + "."));
        } else if (!requirement.withinReachOf(methods.stream()
                .filter(m -> m.enrolled() && !circumstances.broken().contains(m.method()))
                .map(Standing::method)
                .filter(circumstances::allow)
                .toList())) {
            obstacles.add(new Obstacle(
                    "channel-broken",
                    "A required method can't be used: "
                            + methods.stream()
                                    .filter(m -> circumstances.broken().contains(m.method()))
                                    .map(m -> Requirement.name(m.method()))
                                    .collect(Collectors.joining(", "))
                            + ".",
                    "Check its channel under Settings, and test it there."));
        }
        return List.copyOf(obstacles);
    }

    private static List<Method> running(List<Method> methods, List<Stop> stops) {
        return methods.stream()
                .filter(m -> stops.stream().noneMatch(s -> s.stops(m)))
                .toList();
    }

    private static void accounts(
            List<Obstacle> obstacles, Policy policy, PersonFacts person, Circumstances circumstances) {
        var targets = person.accounts().stream()
                .filter(a -> policy.deliverTo().value().contains(a.directory()))
                .toList();
        if (targets.isEmpty()) {
            obstacles.add(new Obstacle(
                    "no-account",
                    "The person has no account in "
                            + String.join(" or ", policy.deliverTo().value()) + ".",
                    "Check deliver.to in " + policy.deliverTo().source() + ", and synchronise the directory."));
            return;
        }
        var leaveOut = policy.leaveOutDisabled().value();
        for (var account : targets) {
            if (account.disabled() && (!leaveOut || targets.stream().allMatch(PersonFacts.Account::disabled))) {
                obstacles.add(new Obstacle(
                        "account-disabled",
                        "The account " + account.login() + " in " + account.directory() + " is disabled.",
                        "Enable it in the directory if the person should have access, then synchronise."));
            }
        }
        policy.inactiveAfter().value().ifPresent(longest -> {
            var last = targets.stream()
                    .map(PersonFacts.Account::lastSignIn)
                    .filter(Objects::nonNull)
                    .max(java.util.Comparator.naturalOrder());
            if (last.isEmpty()) {
                obstacles.add(new Obstacle(
                        "account-inactive",
                        "No directory tells when the person last signed in, and the policy " + policy.name()
                                + " asks for a sign-in within " + Policy.span(longest) + ".",
                        "Let the person sign in once, then synchronise; or change limit.inactive-account in "
                                + policy.inactiveAfter().source() + "."));
            } else if (last.get().plus(longest).isBefore(circumstances.at())) {
                obstacles.add(new Obstacle(
                        "account-inactive",
                        "The last sign-in was "
                                + Duration.between(last.get(), circumstances.at())
                                        .toDays()
                                + " days ago, longer than the " + Policy.span(longest) + " that the policy "
                                + policy.name() + " permits.",
                        "If the person should have access, set a password by hand or change limit.inactive-account in "
                                + policy.inactiveAfter().source() + "."));
            }
        });
    }

    /** What could bring somebody what they lack, to follow "or"; what directories say nobody sets up by themselves. */
    private static String whatToDo(List<Method> lacks) {
        var own = lacks.stream()
                .filter(Method::selfEnrolled)
                .map(Requirement::name)
                .toList();
        var directory = lacks.stream()
                .filter(Method::sent)
                .map(m -> m.costs() ? "a mobile number" : "an e-mail address")
                .distinct()
                .toList();
        var ways = new ArrayList<String>();
        if (!own.isEmpty()) {
            ways.add("let the person set up " + String.join(" or ", own));
        }
        if (!directory.isEmpty()) {
            ways.add("add " + String.join(" or ", directory) + " in the directory and synchronise");
        }
        if (ways.isEmpty()) {
            ways.add("let the person choose a new password once in a browser of their own");
        }
        return String.join(", or ", ways);
    }

    private static Obstacle methodsMissing(
            Policy policy, Requirement requirement, List<Standing> methods, PersonFacts person) {
        var has = methods.stream()
                .filter(Standing::enrolled)
                .map(Standing::method)
                .toList();
        var lacks = methods.stream()
                .filter(m -> !m.enrolled())
                .map(Standing::method)
                .toList();
        var behind = lacks.stream().filter(person.behindPassword()::contains).toList();
        if (!behind.isEmpty()
                && requirement.withinReachOf(
                        Stream.concat(has.stream(), behind.stream()).toList())) {
            return new Obstacle(
                    "mailbox-locked",
                    "The person's only mailbox opens with the password of their own account: once that is lost, no code can be"
                            + " read there.",
                    "Add another address in the directory and synchronise, let the person set up another method that the"
                            + " policy accepts, or set locked-mailbox in "
                            + policy.lockedMailbox().source().replace("built in", "defaults.yaml") + ".");
        }
        if (has.isEmpty() && lacks.contains(Method.of(EmailCodeMethod.LABEL))) {
            return new Obstacle(
                    "no-mail",
                    "No e-mail address is known to send a code to"
                            + (lacks.size() == 1 ? "." : ", and no other method is enrolled."),
                    "Add a mail attribute in the directory, then synchronise.");
        }
        return new Obstacle(
                "methods-missing",
                "The policy requires " + requirement.words() + ". The person has "
                        + (has.isEmpty()
                                ? "none of them"
                                : "only " + has.stream().map(Requirement::name).collect(Collectors.joining(" and ")))
                        + ".",
                Policy.capital(whatToDo(lacks)) + ", or ask for less in the policy.");
    }

    private static Obstacle stopped(Stop stop) {
        return new Obstacle(
                "stopped",
                "An administrator has stopped " + stop.what() + ": " + stop.reason() + ".",
                stop.until() == null
                        ? "End the stop when it's time: entente resume " + stop.what() + "."
                        : "It ends by itself at " + stop.until().truncatedTo(ChronoUnit.MINUTES)
                                + ", or end it now: entente resume " + stop.what() + ".",
                true);
    }
}
