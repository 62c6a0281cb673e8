package dev.entente.service.people;

import dev.entente.core.scope.GroupGraph;
import dev.entente.service.audit.Readings;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Reads;
import dev.entente.wire.Page;
import dev.entente.wire.PeopleApi;
import java.util.List;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** People over HTTP. */
@RestController
@RequestMapping("/api/v1")
class PeopleController {
    private final People people;
    private final Correlations correlations;
    private final Readings readings;

    PeopleController(People people, Correlations correlations, Readings readings) {
        this.readings = readings;
        this.people = people;
        this.correlations = correlations;
    }

    /** People whose name or login name holds a text, by name. */
    @Reads("people")
    @GetMapping("/people")
    Page<PeopleApi.PersonRow> search(
            @RequestParam(defaultValue = "") String search,
            @RequestParam(required = false) UUID after,
            @RequestParam(defaultValue = "50") int limit) {
        var size = Math.max(1, Math.min(limit, 200));
        var found = people.search(search, after, size + 1);
        var items = found.stream().limit(size).map(Person::row).toList();
        return new Page<>(items, found.size() > size ? items.get(size - 1).id().toString() : null);
    }

    /** One person. */
    @Fails("person-not-found")
    @GetMapping("/people/{id}")
    PeopleApi.Person show(@PathVariable UUID id, @AuthenticationPrincipal String administrator) {
        return shown(people.find(id).orElseThrow(() -> Problem.of("person-not-found")), administrator);
    }

    /** The one person with this id, login name, or part of a name that nobody else has. */
    @Fails({"person-not-found", "several-people"})
    @GetMapping("/person")
    PeopleApi.Person named(@RequestParam String named, @AuthenticationPrincipal String administrator) {
        return shown(people.resolve(named), administrator);
    }

    /** Accounts whose person is in doubt. */
    @Reads("correlation")
    @GetMapping("/correlation-cases")
    List<PeopleApi.CorrelationCase> cases() {
        return correlations.open();
    }

    /** Settles one. */
    @Fails({"case-decision", "case-settled"})
    @PostMapping("/correlation-cases/{id}/settlement")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void settle(
            @PathVariable UUID id,
            @RequestBody PeopleApi.Settlement settlement,
            @AuthenticationPrincipal String administrator) {
        correlations.settle(id, settlement.decision(), administrator);
    }

    private PeopleApi.Person shown(Person found, String administrator) {
        readings.ofPerson(administrator, found.id(), found.name());
        var groups = found.groups().stream().map(GroupGraph::shortName).sorted().toList();
        return new PeopleApi.Person(
                found.id(),
                found.name(),
                found.correlation().startsWith("account ") ? null : found.correlation(),
                found.department(),
                found.shownAccounts(),
                groups);
    }
}
