package dev.entente.service.delivery;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.Decision.Obstacle;
import dev.entente.core.scope.GroupGraph;
import dev.entente.core.seal.Credential;
import dev.entente.core.verify.Method;
import dev.entente.service.directory.Credentials;
import dev.entente.service.directory.Credentials.Demand;
import dev.entente.service.people.DirectoryGroups;
import dev.entente.service.people.Person;
import dev.entente.service.policy.Hindrance;
import dev.entente.service.verify.Enrolments;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Who could not show a steward the proof that it demands. */
@Component
class DemandsInTheWay implements Hindrance {
    private final Credentials credentials;
    private final Enrolments enrolments;
    private final DirectoryGroups groups;

    DemandsInTheWay(Credentials credentials, Enrolments enrolments, DirectoryGroups groups) {
        this.credentials = credentials;
        this.enrolments = enrolments;
        this.groups = groups;
    }

    @Override
    @Transactional(readOnly = true)
    public Found of(Person person, Decision decision, String address) {
        var obstacles = new ArrayList<Obstacle>();
        var notes = new ArrayList<String>();
        if (decision.action() == Action.DETAILS || decision.action() == Action.CHANGE) {
            return new Found(obstacles, notes);
        }
        var policy = decision.policy().orElseThrow();
        var reach = groups.groups().reach(person.groups());
        for (var account : person.accounts()) {
            var demand = credentials.demand(account.directoryId());
            if (!demand.any()
                    || !policy.deliverTo().value().contains(account.directory())
                    || demand.groups().stream().noneMatch(reach::holds)
                            && demand.bases().stream()
                                    .noneMatch(base -> base.equals("*") || GroupGraph.stands(account.dn(), base))) {
                continue;
            }
            look(person, account, decision, demand, obstacles, notes);
        }
        return new Found(obstacles, notes);
    }

    private void look(
            Person person,
            Person.Account account,
            Decision decision,
            Demand demand,
            List<Obstacle> obstacles,
            List<String> notes) {
        var wanted =
                demand.proof().stream().map(label -> Method.of(label).words()).collect(Collectors.joining(" or "));
        // What the stewards know and the person has no more is of no use to them.
        var recognised = enrolments.credentials(person.id()).stream()
                .filter(c -> demand.proof().contains(c.method()))
                .filter(c -> credentials.knows(account.directoryId(), account.id(), c.thumbprint()))
                .map(Credential::method)
                .collect(Collectors.toSet());
        if (recognised.isEmpty()) {
            obstacles.add(new Obstacle(
                    "proof-demanded",
                    "The stewards of " + account.directory() + " demand a " + wanted + " for " + account.login()
                            + ", and recognise none of this person's.",
                    "The person sets one up and changes their password once in the same browser, or the operator signs it:"
                            + " entente steward sign-credential.",
                    true));
        } else if (decision.methods().stream()
                .noneMatch(m -> m.usable() && recognised.contains(m.method().label()))) {
            obstacles.add(new Obstacle(
                    "proof-not-asked",
                    "The stewards of " + account.directory() + " demand a " + wanted + " for " + account.login()
                            + ", but the policy doesn't ask for it, or it can't be used now.",
                    "Add it to the policy's must-include for whom it concerns, and see what stands in its way.",
                    true));
        } else {
            notes.add("The stewards of " + account.directory() + " write to " + account.login() + " only with a "
                    + wanted + " that they recognise themselves.");
        }
    }
}
