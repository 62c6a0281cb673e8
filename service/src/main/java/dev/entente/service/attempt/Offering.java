package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Policy;
import dev.entente.core.policy.Requirement;
import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Hint;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.emailcode.EmailCodeMethod;
import dev.entente.service.attempt.Attempts.Attempt;
import dev.entente.service.attempt.Guesses.Origin;
import dev.entente.service.people.Addresses;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.ClientNetwork;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.policy.Configurations;
import dev.entente.service.policy.Stops;
import dev.entente.service.verify.Methods;
import dev.entente.wire.PortalApi;
import java.util.Arrays;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** What people can choose from. Until the first proof the same for every name. */
@Component
@Transactional(readOnly = true)
public class Offering {
    /** Bytes that tell a few addresses of one attempt apart. */
    private static final int ID = 9;

    private final Configurations configurations;
    private final People people;
    private final Stops stops;
    private final Guesses guesses;
    private final KnownPlaces places;
    private final Methods methods;
    private final FurtherProof further;
    private final AttemptProofs proofs;
    private final Addresses addresses;
    private final KeyRing keys;

    Offering(
            Configurations configurations,
            People people,
            Stops stops,
            Guesses guesses,
            KnownPlaces places,
            Methods methods,
            FurtherProof further,
            AttemptProofs proofs,
            Addresses addresses,
            KeyRing keys) {
        this.configurations = configurations;
        this.people = people;
        this.stops = stops;
        this.guesses = guesses;
        this.places = places;
        this.methods = methods;
        this.further = further;
        this.proofs = proofs;
        this.addresses = addresses;
        this.keys = keys;
    }

    /** What people may do by themselves: whatever any policy allows, the same for every name. */
    public List<String> actions() {
        var actions = configurations.current().policies().stream()
                .flatMap(p -> p.allow().value().stream())
                .distinct()
                .sorted()
                .map(Action::label)
                .toList();
        return actions.isEmpty() ? List.of(Action.RESET.label()) : actions;
    }

    /** What is stopped for everybody, and until when if that is known. */
    public List<PortalApi.Paused> paused() {
        return actions().stream()
                .map(label -> Action.labelled(label).orElseThrow())
                .flatMap(action -> stops.stopped(action).stream()
                        .map(until -> new PortalApi.Paused(action.label(), until.orElse(null))))
                .toList();
    }

    /**
     * The methods shown before the first proof: those that any policy lets come first for this action, that are not stopped
     * and whose channel works, the same for every name.
     */
    public List<Method> methods(Action action) {
        var methods = configurations.current().policies().stream()
                .map(p -> p.proof(action).value())
                .flatMap(r -> r.next(List.of()).stream())
                .distinct()
                .sorted()
                .toList();
        return usable(methods.isEmpty() ? List.of(Method.of(EmailCodeMethod.LABEL)) : methods);
    }

    /** Whether any action can be started with any method. */
    public boolean ready() {
        return actions().stream()
                .anyMatch(a -> !methods(Action.labelled(a).orElseThrow()).isEmpty());
    }

    private List<Method> usable(List<Method> methods) {
        var stopped = stops.inForce();
        var broken = configurations.now(null, null).broken();
        return methods.stream()
                .filter(m -> !broken.contains(m))
                .filter(m -> stopped.stream().noneMatch(s -> s.stops(m)))
                .toList();
    }

    /** The methods that can be chosen now: after the first proof those that bring this person nearer, and none once enough was proved. */
    public List<Method> methods(Attempt attempt) {
        if (attempt.state() != AttemptState.IDENTIFIED && attempt.state() != AttemptState.PROVING) {
            return List.of();
        }
        if (attempt.proved().isEmpty() || attempt.required().isEmpty()) {
            return methods(attempt.action());
        }
        var nearer = attempt.person()
                .map(p -> next(
                        attempt.id(),
                        p,
                        policy(attempt),
                        attempt.action(),
                        attempt.required().get(),
                        attempt.proved()))
                .orElse(List.of());
        if (nearer.isEmpty()) {
            return List.of();
        }
        var next = usable(nearer);
        var person = attempt.person().flatMap(people::find);
        var enrolled =
                person.map(p -> policy(attempt).methodsOf(people.facts(p))).orElse(Set.of());
        var spent = attempt.person()
                .map(p -> guesses.spent(p, origin(p, attempt), policy(attempt), Optional.of(attempt.id()))
                        .keySet())
                .orElse(Set.of());
        return next.stream()
                .filter(enrolled::contains)
                .filter(m -> attempt.person()
                        .filter(p -> methods.verifier(m).worksHere(p, attempt.browser()))
                        .isPresent())
                .filter(m -> !spent.contains(m))
                .toList();
    }

    /**
     * Mailboxes that the person can choose from, each by an id of this attempt; nothing before the first proof, so that a name alone
     * tells nothing of them.
     *
     * @param offered what can be chosen now
     */
    public Map<String, String> addresses(Attempt attempt, List<Method> offered) {
        if (attempt.proved().isEmpty()
                || offered.stream().noneMatch(m -> m.facts().by() == Channel.MAIL)) {
            return Map.of();
        }
        var all = all(attempt, attempt.person().flatMap(people::find), Channel.MAIL);
        var shown = new LinkedHashMap<String, String>();
        if (all.size() > 1) {
            all.forEach(address -> shown.put(id(attempt, address), Hint.of(address)));
        }
        return shown;
    }

    /**
     * Where something goes.
     *
     * @param person whose attempt it is
     * @param id one of {@link #addresses}; null for the first
     */
    Optional<String> chosen(Attempt attempt, Optional<Person> person, Method method, String id) {
        if (id != null && (attempt.proved().isEmpty() || method.facts().by() != Channel.MAIL)) {
            return Optional.empty();
        }
        return all(attempt, person, method.facts().by()).stream()
                .filter(address -> id == null || id(attempt, address).equals(id))
                .findFirst();
    }

    private List<String> all(Attempt attempt, Optional<Person> person, Channel channel) {
        return person.map(p -> addresses.all(
                        p, channel, policy(attempt).lockedMailbox().value()))
                .orElse(List.of());
    }

    private Policy policy(Attempt attempt) {
        return configurations.policy(attempt.revision(), attempt.policy());
    }

    private String id(Attempt attempt, String address) {
        var blind = keys.blind("address of an attempt", attempt.id() + " " + address);
        return Base64.getUrlEncoder().withoutPadding().encodeToString(Arrays.copyOf(blind, ID));
    }

    /**
     * Methods that bring somebody who has proved these nearer; empty if nothing is missing. What their directory's stewards demand
     * is asked for here, and not found out at the end.
     */
    List<Method> next(
            UUID attempt, UUID person, Policy policy, Action action, Requirement required, List<Method> proved) {
        return required.metBy(proved)
                ? List.copyOf(further.wanted(person, policy, action, () -> proofs.of(attempt)))
                : required.next(proved);
    }

    private Origin origin(UUID person, Attempt attempt) {
        var network = ClientNetwork.oneNetwork(attempt.network());
        return new Origin(places.of(person, attempt.browser(), network), network);
    }
}
