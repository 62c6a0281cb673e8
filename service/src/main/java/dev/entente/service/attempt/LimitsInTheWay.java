package dev.entente.service.attempt;

import dev.entente.core.guess.Familiarity;
import dev.entente.core.policy.Circumstances;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.Decision.Obstacle;
import dev.entente.core.policy.Requirement;
import dev.entente.core.verify.Method;
import dev.entente.service.attempt.Guesses.Origin;
import dev.entente.service.people.Person;
import dev.entente.service.platform.ClientNetwork;
import dev.entente.service.platform.Limits;
import dev.entente.service.policy.Hindrance;
import dev.entente.service.policy.Stops;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Limits that are used up: resets of the person's own, and tries that strangers spent. */
@Component
class LimitsInTheWay implements Hindrance {
    private final ResetLimits resets;
    private final Guesses guesses;
    private final KnownPlaces places;
    private final Stops stops;
    private final ClosedPeople closed;

    LimitsInTheWay(ResetLimits resets, Guesses guesses, KnownPlaces places, Stops stops, ClosedPeople closed) {
        this.closed = closed;
        this.resets = resets;
        this.guesses = guesses;
        this.places = places;
        this.stops = stops;
    }

    @Override
    @Transactional(readOnly = true)
    public Found of(Person person, Decision decision, Circumstances circumstances) {
        var address = circumstances.network();
        var obstacles = new ArrayList<Obstacle>();
        var notes = new ArrayList<String>();
        var policy = decision.policy().orElseThrow();
        closed.obstacle(person).ifPresent(obstacles::add);
        resets.reached(person.id(), decision.action(), policy).ifPresent(obstacles::add);
        if (address != null) {
            stops.inForce().stream()
                    .filter(stop -> stop.stopsNetwork(address))
                    .forEach(stop -> obstacles.add(new Obstacle(
                            "network-stopped",
                            "An administrator has stopped " + stop.what() + ": " + stop.reason() + ".",
                            "End the stop when it's time: entente resume " + stop.what() + ".",
                            true)));
        }
        var network = address == null ? null : ClientNetwork.oneNetwork(address);
        var onKnownDevice = Boolean.TRUE.equals(circumstances.knownDevice());
        var from = new Origin(onKnownDevice ? Familiarity.BROWSER : places.of(person.id(), null, network), network);
        var spent = guesses.spent(person.id(), from, policy, Optional.empty());
        if (spent.isEmpty()) {
            return new Found(obstacles, notes, Map.of());
        }
        var closed = spent.entrySet().stream()
                .collect(Collectors.toMap(Map.Entry::getKey, s -> "enrolled, but " + usedUp(s, from.familiarity())));
        var requirement = decision.required().orElseThrow().requirement();
        var left = decision.methods().stream()
                .filter(m -> m.enrolled() && !spent.containsKey(m.method()))
                .map(Decision.Standing::method)
                .toList();
        var had = decision.methods().stream()
                .filter(Decision.Standing::enrolled)
                .map(Decision.Standing::method)
                .toList();
        var asked =
                spent.entrySet().stream().filter(s -> had.contains(s.getKey())).toList();
        if (requirement.withinReachOf(had)
                && !requirement.withinReachOf(left)
                && (address != null || circumstances.knownDevice() != null)) {
            asked.forEach(s -> obstacles.add(new Obstacle(
                    "tries-used-up",
                    sentence(s, from.familiarity()),
                    "The person can use a browser or network they have used before. If it's really them who's held up, lift"
                            + " the limit: entente person lift-limits " + person.login() + " --reason TEXT.",
                    true)));
        } else {
            asked.forEach(s -> notes.add(sentence(s, from.familiarity())));
        }
        return new Found(obstacles, notes, closed);
    }

    private static String sentence(Map.Entry<Method, Limits.Reached> spent, Familiarity from) {
        return "Tries by " + Requirement.name(spent.getKey()) + " are "
                + usedUp(spent, from).replaceFirst("^tries are ", "") + ".";
    }

    private static String usedUp(Map.Entry<Method, Limits.Reached> spent, Familiarity from) {
        return "tries are used up "
                + switch (from) {
                    case BROWSER -> "on browsers this person has used before";
                    case NETWORK -> "for known networks";
                    case NONE -> "for places this person hasn't used before";
                }
                + (spent.getValue().until() == null
                        ? " until the person succeeds from a known place, or an administrator lifts the limit"
                        : " until " + minute(spent.getValue().until()));
    }

    private static Instant minute(Instant at) {
        return at.truncatedTo(ChronoUnit.MINUTES);
    }

    /** For the page of an attempt: what is used up now where it came from. */
    List<String> sentences(Person person, Attempts.Attempt attempt) {
        var network = ClientNetwork.oneNetwork(attempt.network());
        var from = new Origin(places.of(person.id(), attempt.browser(), network), network);
        return guesses.spent(person.id(), from, null, Optional.empty()).entrySet().stream()
                .map(s -> sentence(s, from.familiarity()))
                .toList();
    }
}
