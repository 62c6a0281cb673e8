package dev.entente.service.delivery;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Circumstances;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.Decision.Obstacle;
import dev.entente.core.policy.Policy;
import dev.entente.core.scope.GroupGraph;
import dev.entente.core.seal.Credential;
import dev.entente.core.seal.Proof;
import dev.entente.core.verify.Method;
import dev.entente.service.attempt.FurtherProof;
import dev.entente.service.directory.Credentials;
import dev.entente.service.directory.Credentials.Demand;
import dev.entente.service.directory.Directories;
import dev.entente.service.directory.Jobs;
import dev.entente.service.people.DirectoryContents;
import dev.entente.service.people.DirectoryGroups;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.policy.Hindrance;
import dev.entente.service.policy.Stops;
import dev.entente.service.verify.BroughtIn;
import dev.entente.service.verify.Enrolments;
import dev.entente.wire.DirectoryApi.Finding;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Who could not show a steward the proof that it demands. */
@Component
class DemandsInTheWay implements Hindrance, FurtherProof {
    private static final String UNMET = "proof-demanded";

    private final Credentials credentials;
    private final Enrolments enrolments;
    private final DirectoryGroups groups;
    private final DirectoryContents contents;
    private final Directories directories;
    private final People people;
    private final Stops stops;

    DemandsInTheWay(
            Credentials credentials,
            Enrolments enrolments,
            DirectoryGroups groups,
            DirectoryContents contents,
            Directories directories,
            People people,
            Stops stops) {
        this.credentials = credentials;
        this.enrolments = enrolments;
        this.groups = groups;
        this.contents = contents;
        this.directories = directories;
        this.people = people;
        this.stops = stops;
    }

    @Override
    @Transactional(readOnly = true)
    public Found of(Person person, Decision decision, Circumstances circumstances) {
        var obstacles = new ArrayList<Obstacle>();
        var notes = new ArrayList<String>();
        if (decision.action() == Action.DETAILS || decision.action() == Action.CHANGE) {
            return new Found(obstacles, notes, Map.of());
        }
        for (var account : demanded(person, decision.policy().orElseThrow())) {
            look(person, account, credentials.demand(account.directoryId()), obstacles, notes);
        }
        person.accounts().stream()
                .filter(a -> decision.policy().orElseThrow().deliverTo().value().contains(a.directory()))
                .forEach(a -> {
                    var demand = credentials.demand(a.directoryId());
                    if (!unknown(demand).isEmpty()) {
                        notes.add("The stewards of " + a.directory() + " demand a " + words(demand) + " of members of "
                                + String.join(", ", unknown(demand)) + ". Whether " + a.login()
                                + " is one isn't known here, so they may refuse at the end.");
                    }
                });
        return new Found(obstacles, notes, Map.of());
    }

    /** Those by which the stewards of one directory recognise the person, one directory after the other. */
    @Override
    @Transactional(readOnly = true)
    public Set<Method> wanted(UUID id, Policy policy, Action action, Supplier<List<Proof>> signed) {
        if (action != Action.RESET && action != Action.UNLOCK
                || directories.all().stream()
                        .noneMatch(d -> policy.deliverTo().value().contains(d.name())
                                && credentials.demand(d.id()).any())) {
            return Set.of();
        }
        var person = people.find(id).orElse(null);
        if (person == null) {
            return Set.of();
        }
        for (var account : demanded(person, policy)) {
            var recognised = recognised(person, account, credentials.demand(account.directoryId()));
            if (!recognised.isEmpty()
                    && signed.get().stream()
                            .noneMatch(proof -> recognised.stream()
                                    .anyMatch(c ->
                                            c.method().equals(proof.method()) && c.id().equals(proof.credential())))) {
                return methods(recognised);
            }
        }
        return Set.of();
    }

    private static Set<Method> methods(List<Credential> of) {
        return Method.set(of.stream().map(c -> Method.of(c.method())).toList());
    }

    /** Accounts that stewards demand a proof for before they write to them. */
    private List<Person.Account> demanded(Person person, Policy policy) {
        var reach = groups.groups().reach(person.groups());
        return person.accounts().stream()
                .filter(a -> policy.deliverTo().value().contains(a.directory()))
                .filter(a -> {
                    var demand = credentials.demand(a.directoryId());
                    return demand.groups().stream().filter(GroupGraph::isName).anyMatch(reach::holds)
                            || demand.bases().stream()
                                    .anyMatch(base -> base.equals("*")
                                            || GroupGraph.isName(base)
                                                    && GroupGraph.isName(a.dn())
                                                    && GroupGraph.stands(a.dn(), base));
                })
                .toList();
    }

    /** Groups of which it isn't known here who is in them: those of places whose groups have no distinguished names. */
    private static List<String> unknown(Demand demand) {
        return demand.groups().stream().filter(g -> !GroupGraph.isName(g)).toList();
    }

    /** What the stewards know and the person has no more is of no use to them. */
    private List<Credential> recognised(Person person, Person.Account account, Demand demand) {
        return enrolments.credentials(person.id()).stream()
                .filter(c -> demand.proof().contains(c.method()))
                .filter(c -> credentials.knows(account.directoryId(), account.id(), c.thumbprint()))
                .toList();
    }

    /** Who could show the stewards nothing that they recognise, as preflight tells it. */
    @EventListener
    @Transactional(readOnly = true)
    public void looked(Jobs.Looked looked) {
        var demand = credentials.demand(looked.directory());
        if (!demand.any()) {
            return;
        }
        if (!demand.weaker().isEmpty()) {
            looked.findings()
                    .add(new Finding(
                            "warning",
                            "demands-differ",
                            "The stewards demand different proofs: "
                                    + String.join(", ", demand.weaker().values())
                                    + (demand.weaker().size() == 1 ? " demands" : " demand")
                                    + " less than others.",
                            demand.whole()
                                    ? "Orders go only to the others, and wait while none of those is connected."
                                    : "None of them demands all of it, so orders go to each of them.",
                            "Write the same guard.demand into the file of each steward of this directory and restart"
                                    + " them, or retire those that no longer serve."));
        }
        if (!unknown(demand).isEmpty()) {
            looked.findings()
                    .add(new Finding(
                            "info",
                            "demand-unknown",
                            "Who is in " + String.join(", ", unknown(demand)) + " isn't known here.",
                            "The stewards look at each entry themselves; explain can't tell who needs a "
                                    + words(demand) + ".",
                            ""));
        }
        var known = credentials.recognised(looked.directory(), demand.proof());
        var all = contents.under(
                looked.directory(),
                demand.groups().stream().filter(GroupGraph::isName).toList(),
                demand.bases().stream()
                        .filter(base -> base.equals("*") || GroupGraph.isName(base))
                        .toList());
        var have = enrolments.credentials(all.stream()
                .filter(a -> a.person() != null && known.containsKey(a.id()))
                .map(DirectoryContents.Under::person)
                .toList());
        var unmet = all.stream()
                .filter(a -> have.getOrDefault(a.person(), List.of()).stream()
                        .noneMatch(c -> demand.proof().contains(c.method())
                                && known.getOrDefault(a.id(), Set.of()).contains(c.thumbprint())))
                .map(DirectoryContents.Under::login)
                .toList();
        var wanted = words(demand);
        looked.findings()
                .add(
                        unmet.isEmpty()
                                ? new Finding(
                                        "ok",
                                        UNMET,
                                        "The stewards recognise everybody of whom they demand a " + wanted + ".",
                                        all.size() + " of " + all.size(),
                                        "")
                                : new Finding(
                                        "warning",
                                        UNMET,
                                        "The stewards demand a " + wanted + " of " + all.size()
                                                + " accounts, and recognise " + unmet.size()
                                                + " of them by none, so their people can't reset.",
                                        BroughtIn.named(unmet),
                                        "Each sets one up and changes their password once in the same browser, or the operator"
                                                + " signs it: entente steward sign-credential."));
    }

    private static String words(Demand demand) {
        return demand.proof().stream().map(label -> Method.of(label).words()).collect(Collectors.joining(" or "));
    }

    private void look(
            Person person, Person.Account account, Demand demand, List<Obstacle> obstacles, List<String> notes) {
        var wanted = words(demand);
        var recognised = recognised(person, account, demand);
        if (recognised.isEmpty()) {
            obstacles.add(new Obstacle(
                    "proof-demanded",
                    "The stewards of " + account.directory() + " demand a " + wanted + " for " + account.login()
                            + ", and recognise none of this person's.",
                    "The person sets one up and changes their password once in the same browser, or the operator signs it:"
                            + " entente steward sign-credential.",
                    true));
        } else if (methods(recognised).stream()
                .allMatch(m -> stops.inForce().stream().anyMatch(stop -> stop.stops(m)))) {
            obstacles.add(new Obstacle(
                    "proof-stopped",
                    "The stewards of " + account.directory() + " demand a " + wanted + " for " + account.login()
                            + ", and all that they recognise is stopped.",
                    "Resume one of them: entente stops.",
                    true));
        } else {
            notes.add("The stewards of " + account.directory() + " write to " + account.login() + " only with a "
                    + wanted + " that they recognise themselves, so it's asked for in any case.");
        }
    }
}
