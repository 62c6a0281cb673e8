package dev.entente.service.helpdesk;

import dev.entente.core.scope.Membership;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.staff.StaffConfirmationMethod;
import dev.entente.service.access.Staff;
import dev.entente.service.access.Staff.Member;
import dev.entente.service.attempt.Attempts;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.people.DirectoryGroups;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.Problem;
import dev.entente.service.policy.Configurations;
import dev.entente.service.verify.Awaited;
import dev.entente.service.verify.Awaited.Request;
import dev.entente.service.verify.staff.SpokenQuestions;
import dev.entente.wire.HelpDeskApi;
import java.time.InstantSource;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** What staff may confirm, and under which rules. */
@Component
@Transactional
class HelpDesk {
    private static final Method METHOD = Method.of(StaffConfirmationMethod.LABEL);
    private static final int LONGEST_NOTE = 500;

    private final Staff staff;
    private final Awaited awaited;
    private final SpokenQuestions spoken;
    private final People people;
    private final DirectoryGroups groups;
    private final Configurations configurations;
    private final Attempts attempts;
    private final EventLog events;
    private final InstantSource clock;

    HelpDesk(
            Staff staff,
            Awaited awaited,
            SpokenQuestions spoken,
            People people,
            DirectoryGroups groups,
            Configurations configurations,
            Attempts attempts,
            EventLog events,
            InstantSource clock) {
        this.staff = staff;
        this.awaited = awaited;
        this.spoken = spoken;
        this.people = people;
        this.groups = groups;
        this.configurations = configurations;
        this.attempts = attempts;
        this.events = events;
        this.clock = clock;
    }

    /**
     * Finds what a caller asks for; on record, whether found or not.
     *
     * @return empty if nothing with this number waits for whoever signs in by this name
     */
    public Optional<HelpDeskApi.HelpRequest> find(String login, String number, String by) {
        var person = people.byLogin(login);
        var request = person.flatMap(p ->
                awaited.of(p.id(), METHOD).stream().filter(r -> r.shows(number)).findFirst());
        if (request.isEmpty()) {
            events.write(NewEvent.administration("staff.number-wrong", by)
                    .with("person", person.map(p -> p.id().toString()).orElse(null)));
            return Optional.empty();
        }
        // Who has no number learns nothing of anybody, not even whether they are there.
        allowed(person.get(), confirmer(by));
        events.write(event("staff.opened", request.get(), by));
        return Optional.of(
                shown(request.get(), person.get(), spoken.asked(person.get().id())));
    }

    /**
     * Confirms; after three times of wrong answers nothing is asked any more.
     *
     * @return true if the person goes on now, false if somebody else has to confirm, too; empty if what was heard is wrong
     */
    public Optional<Boolean> confirm(UUID id, HelpDeskApi.StaffConfirmation confirmation, String by) {
        var request = waiting(id);
        var person = people.find(request.person()).orElseThrow(HelpDesk::over);
        var confirmer = confirmer(by);
        allowed(person, confirmer);
        // Only a confirmer who is a known person can be told apart from the one being confirmed.
        var known = confirmer.people().stream().findFirst().orElseThrow(() -> Problem.of("confirmer-unknown"));
        if (!spoken.right(person.id(), confirmation.heard())) {
            awaited.wrong(request, by, null);
            events.write(event("staff.answers-wrong", request, by));
            return Optional.empty();
        }
        return Optional.of(confirm(request, person, confirmation.checked(), confirmation.note(), by, known));
    }

    /** What a manager's link leads to; opening it changes nothing, since scanners open links, too. */
    public HelpDeskApi.HelpRequest asked(String token) {
        var asked = manager(token);
        // What the help desk asks is no manager's business.
        return shown(asked.request(), asked.person(), List.of());
    }

    /**
     * A manager confirms, as staff do.
     *
     * @param number that the person read out; after three wrong ones nothing is asked any more
     * @return true if the person goes on now, false if the help desk has to confirm, too; empty if the number is wrong
     */
    public Optional<Boolean> confirm(HelpDeskApi.ManagerConfirmation confirmation) {
        var asked = manager(confirmation.token());
        if (!asked.request().shows(confirmation.number())) {
            awaited.wrong(asked.request(), asked.by(), null);
            events.write(event("staff.number-wrong", asked.request(), asked.by()));
            return Optional.empty();
        }
        return Optional.of(confirm(
                asked.request(),
                asked.person(),
                confirmation.checked(),
                confirmation.note(),
                asked.by(),
                asked.manager()));
    }

    /** A manager denies; the person and administrators are told. */
    public void deny(String token) {
        var asked = manager(token);
        events.write(event("staff.denied", asked.request(), asked.by()));
        awaited.deny(asked.request(), asked.by(), null, "denied by the manager");
    }

    private record AskedByLink(Request request, Person person, UUID manager, String by) {}

    /** Whoever is not the manager any more, or whose policy does not let managers confirm any more, finds nothing. */
    private AskedByLink manager(String token) {
        return awaited.linked(token, METHOD)
                .flatMap(request -> people.find(request.person())
                        .filter(person -> configurations
                                .policy(request.revision(), request.policy())
                                .managerConfirms()
                                .value())
                        .flatMap(person -> people.manager(person)
                                .map(manager ->
                                        new AskedByLink(request, person, manager.id(), "manager " + manager.login()))))
                .orElseThrow(HelpDesk::over);
    }

    /** @param confirmer the person who confirms, by link or signed in; the same person counts once */
    private boolean confirm(
            Request request, Person person, List<String> checked, String said, String by, UUID confirmer) {
        var checklist = checklist(request);
        if (checked == null || !Set.copyOf(checked).containsAll(checklist)) {
            throw Problem.of("unchecked");
        }
        var note = note(said);
        if (privileged(person) && request.firstBy() == null) {
            awaited.first(request, by, confirmer);
            events.write(event("staff.confirmed-first", request, by).withPersonal("note", note));
            return false;
        }
        if (by.equals(request.firstBy()) || confirmer.equals(request.firstPerson())) {
            throw Problem.of("second-member-wanted").with("name", person.name());
        }
        awaited.agree(request, by, null);
        events.write(event("staff.confirmed", request, by)
                .with("checked", checklist.size())
                .withPersonal("note", note));
        return true;
    }

    /** Denies; the person and administrators are told. */
    public void deny(UUID id, String note, String by) {
        var request = waiting(id);
        allowed(people.find(request.person()).orElseThrow(HelpDesk::over), confirmer(by));
        events.write(event("staff.denied", request, by).withPersonal("note", note(note)));
        awaited.deny(request, by, null, "denied by the help desk");
    }

    private Request waiting(UUID id) {
        return awaited.find(id, METHOD).orElseThrow(HelpDesk::over);
    }

    private static Problem over() {
        return Problem.of("request-over");
    }

    /**
     * A signed-in confirmer.
     *
     * @param people the people that their own login or their login here names
     */
    private record Confirmer(Member member, List<UUID> people) {}

    private Confirmer confirmer(String by) {
        var member = staff.member(by);
        var found = Stream.concat(member.ownLogin().stream(), Stream.of(member.login()))
                .flatMap(login -> people.byLogin(login).stream())
                .map(Person::id)
                .distinct()
                .toList();
        return new Confirmer(member, found);
    }

    private void allowed(Person person, Confirmer confirmer) {
        var member = confirmer.member();
        if (confirmer.people().contains(person.id())) {
            throw Problem.of("own-request");
        }
        if (!member.scopes().isEmpty()) {
            var configuration = configurations.current();
            var membership = new Membership(
                    configuration.scopes(),
                    people.facts(person).subject(),
                    groups.groups(),
                    LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC));
            if (member.scopes().stream()
                    .noneMatch(scope -> configuration.scopes().containsKey(scope)
                            && membership.in(scope).covers())) {
                throw Problem.of("outside-scopes")
                        .with("name", person.name())
                        .with("list", String.join(", ", member.scopes()));
            }
        }
    }

    /** Where it is not known whether somebody is privileged, two have to confirm. */
    private boolean privileged(Person person) {
        return !Boolean.FALSE.equals(people.facts(person).privileged());
    }

    private List<String> checklist(Request request) {
        return configurations
                .policy(request.revision(), request.policy())
                .checklist()
                .value();
    }

    private static String note(String note) {
        if (note != null && note.length() > LONGEST_NOTE) {
            throw Problem.of("note-too-long").with("longestNote", LONGEST_NOTE);
        }
        return note == null || note.isBlank() ? null : note.strip();
    }

    private static NewEvent event(String kind, Request request, String by) {
        return NewEvent.of(kind, request.attempt(), request.revision()).withPersonal("administrator", by);
    }

    private HelpDeskApi.HelpRequest shown(Request request, Person person, List<Map<String, String>> asked) {
        return new HelpDeskApi.HelpRequest(
                request.challenge(),
                attempts.get(request.attempt()).reference().toString(),
                person.name(),
                person.login(),
                person.department(),
                privileged(person),
                request.action(),
                request.network(),
                checklist(request),
                asked,
                request.firstBy(),
                request.createdAt(),
                request.expiresAt());
    }
}
