package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.Decision.Obstacle;
import dev.entente.core.verify.Method;
import dev.entente.service.directory.Credentials;
import dev.entente.service.directory.Credentials.Demand;
import dev.entente.service.people.DirectoryGroups;
import dev.entente.service.people.Person;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Who could not show a steward the proof that it demands. */
@Component
class DemandsInTheWay implements Hindrance {
    private final Credentials credentials;
    private final DirectoryGroups groups;

    DemandsInTheWay(Credentials credentials, DirectoryGroups groups) {
        this.credentials = credentials;
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
                            && demand.bases().stream().noneMatch(base -> below(account.dn(), base))) {
                continue;
            }
            look(account, decision, demand, obstacles, notes);
        }
        return new Found(obstacles, notes);
    }

    private void look(
            Person.Account account, Decision decision, Demand demand, List<Obstacle> obstacles, List<String> notes) {
        var wanted =
                demand.proof().stream().map(label -> Method.of(label).words()).collect(Collectors.joining(" or "));
        var recognised = credentials.recognised(account.directoryId(), account.id());
        recognised.retainAll(demand.proof());
        var asked = decision.required().map(r -> r.requirement().anyOf()).orElse(List.of());
        if (recognised.isEmpty()) {
            obstacles.add(new Obstacle(
                    "proof-demanded",
                    "The stewards of " + account.directory() + " demand a " + wanted + " for " + account.login()
                            + ", and recognise none of this person's.",
                    "The person sets one up and changes their password once in the same browser, or the operator signs it:"
                            + " entente steward sign-credential.",
                    true));
        } else if (asked.stream().noneMatch(m -> recognised.contains(m.label()))) {
            obstacles.add(new Obstacle(
                    "proof-not-asked",
                    "The stewards of " + account.directory() + " demand a " + wanted + " for " + account.login()
                            + ", but the policy doesn't ask for it.",
                    "Add it to the policy's must-include for whom it concerns.",
                    true));
        } else {
            notes.add("The stewards of " + account.directory() + " write to " + account.login() + " only with a "
                    + wanted + " that they recognise themselves.");
        }
    }

    /** Names as directories write them, without regard to case and to spaces after commas. */
    private static boolean below(String dn, String base) {
        return plain(dn).endsWith("," + plain(base));
    }

    private static String plain(String dn) {
        return dn.toLowerCase(Locale.ROOT).replaceAll("\\s*([,=])\\s*", "$1");
    }
}
