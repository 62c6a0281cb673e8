package dev.entente.service.verify;

import dev.entente.core.seal.Credential;
import dev.entente.core.verify.Method;
import dev.entente.service.people.People;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.wire.PeopleApi;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** What people have set up, for administrators; never a secret of it. */
@RestController
@RequestMapping("/api/v1/people/{id}/enrolments")
class EnrolmentController {
    private final Enrolments enrolments;
    private final People people;

    EnrolmentController(Enrolments enrolments, People people) {
        this.enrolments = enrolments;
        this.people = people;
    }

    /** All of one person's. */
    @Fails("person-not-found")
    @GetMapping
    @Transactional(readOnly = true)
    public List<PeopleApi.Enrolment> list(@PathVariable UUID id) {
        var person = people.find(id).orElseThrow(() -> Problem.of("person-not-found"));
        var facts = people.facts(person);
        var all = new ArrayList<PeopleApi.Enrolment>();
        for (var method : Method.from(Method.Source.DIRECTORY)) {
            var behind = facts.behindPassword().contains(method);
            if (behind || facts.enrolled().contains(method)) {
                all.add(new PeopleApi.Enrolment(
                        null,
                        method.label(),
                        (method.costs() ? "Number" : "Address") + " from the directory"
                                + (behind ? "; its mailbox opens with the person's own password" : ""),
                        null,
                        null,
                        null));
            }
        }
        enrolments
                .of(id)
                .forEach(e -> all.add(new PeopleApi.Enrolment(
                        e.id(), e.method().label(), e.label(), e.since(), e.lastUsed(), e.left())));
        return all;
    }

    /** The public half of one by which stewards could recognise the person, for the operator to sign. */
    @Fails({"method-not-found", "no-credential"})
    @GetMapping("/{enrolment}/credential")
    @Transactional(readOnly = true)
    public Credential credential(@PathVariable UUID id, @PathVariable UUID enrolment) {
        return enrolments.credential(id, enrolment).orElseThrow(() -> Problem.of("no-credential"));
    }

    /** Takes one away, as when a phone was lost. */
    @Fails("method-not-found")
    @DeleteMapping("/{enrolment}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    public void remove(
            @PathVariable UUID id, @PathVariable UUID enrolment, @AuthenticationPrincipal String administrator) {
        enrolments.remove(id, enrolment, new Enrolments.By(null, 0, administrator));
    }
}
