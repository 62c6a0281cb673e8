package dev.entente.service.portal;

import dev.entente.core.policy.Action;
import dev.entente.core.seal.Credential;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Hint;
import dev.entente.core.verify.Method;
import dev.entente.service.attempt.Attempts;
import dev.entente.service.attempt.Attempts.Attempt;
import dev.entente.service.attempt.PersonNotices;
import dev.entente.service.delivery.Deliveries;
import dev.entente.service.people.Addresses;
import dev.entente.service.people.People;
import dev.entente.service.verify.Enrolments;
import dev.entente.service.verify.Labels;
import dev.entente.wire.PortalApi;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** A person who has proved to be the one sets up how to be recognised, and is told of every change. */
@Component
@Transactional
class Enrolling {
    private final Attempts attempts;
    private final Enrolments enrolments;
    private final People people;
    private final PersonNotices notices;
    private final Addresses addresses;
    private final Deliveries deliveries;

    Enrolling(
            Attempts attempts,
            Enrolments enrolments,
            People people,
            PersonNotices notices,
            Addresses addresses,
            Deliveries deliveries) {
        this.attempts = attempts;
        this.enrolments = enrolments;
        this.people = people;
        this.notices = notices;
        this.addresses = addresses;
        this.deliveries = deliveries;
    }

    List<PortalApi.OwnMethod> list(Attempt attempt) {
        var person = attempt.person().orElseThrow();
        var all = new ArrayList<PortalApi.OwnMethod>();
        var found = people.find(person);
        // What the person's policy never asks for would only make the list longer.
        var policy = attempts.policy(attempt);
        var asked = policy.methods();
        for (var method : Method.from(Method.Source.DIRECTORY)) {
            if (!asked.contains(method)) {
                continue;
            }
            found.stream()
                    .flatMap(p -> addresses
                            .all(p, method.facts().by(), policy.lockedMailbox().value())
                            .stream())
                    .forEach(address -> all.add(new PortalApi.OwnMethod(
                            null, method.label(), Hint.of(address), null, null, null, List.of(), null)));
        }
        for (var one : enrolments.of(person)) {
            var credential = enrolments.credential(person, one.id());
            all.add(new PortalApi.OwnMethod(
                    one.id(),
                    one.method().label(),
                    one.label(),
                    one.since(),
                    one.lastUsed(),
                    one.left(),
                    credential.map(c -> deliveries.unknownTo(attempt, c)).orElse(List.of()),
                    credential.map(Credential::thumbprint).orElse(null)));
        }
        return all;
    }

    /** What the person can set up, and what each is good for: nothing that their policy never accepts is offered. */
    List<PortalApi.SettableMethod> settable(Attempt attempt) {
        var policy = attempts.policy(attempt);
        return policy.methods().stream()
                .filter(Method::prepared)
                .map(method -> new PortalApi.SettableMethod(
                        method.label(),
                        policy.allow().value().stream()
                                .filter(action ->
                                        policy.proof(action).value().anyOf().contains(method))
                                .map(Action::label)
                                .sorted()
                                .toList()))
                .filter(one -> !one.actions().isEmpty())
                .toList();
    }

    PortalApi.OfferedEnrolment offer(Attempt attempt, Method method, String label) {
        var person = people.find(attempt.person().orElseThrow()).orElseThrow();
        var offered = enrolments.offer(person.id(), method, label, person.login(), by(attempt));
        if (offered.what().complete()) {
            notices.methodsChanged(attempt, "newly set up: " + Labels.named(method, offered.label()));
        }
        return new PortalApi.OfferedEnrolment(
                offered.id(),
                method.label(),
                offered.what().complete(),
                offered.what().parts(),
                offered.what().lines());
    }

    List<PortalApi.OwnMethod> confirm(Attempt attempt, UUID enrolment, Answer answer) {
        var set = enrolments.confirm(attempt.person().orElseThrow(), enrolment, answer, by(attempt));
        notices.methodsChanged(attempt, "newly set up: " + Labels.named(set.method(), set.label()));
        return list(attempt);
    }

    List<PortalApi.OwnMethod> rename(Attempt attempt, UUID enrolment, String label) {
        enrolments.rename(attempt.person().orElseThrow(), enrolment, label);
        return list(attempt);
    }

    List<PortalApi.OwnMethod> remove(Attempt attempt, UUID enrolment) {
        var removed = enrolments.remove(attempt.person().orElseThrow(), enrolment, by(attempt));
        notices.methodsChanged(attempt, Labels.named(removed.method(), removed.label()) + " was removed");
        return list(attempt);
    }

    private static Enrolments.By by(Attempt attempt) {
        return new Enrolments.By(attempt.id(), attempt.revision(), null);
    }
}
