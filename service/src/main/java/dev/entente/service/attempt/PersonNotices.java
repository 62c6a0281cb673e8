package dev.entente.service.attempt;

import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Languages;
import dev.entente.core.policy.Occasion;
import dev.entente.core.policy.Policy;
import dev.entente.core.verify.Channel;
import dev.entente.core.verify.OneTimeCode;
import dev.entente.service.notification.Notifications;
import dev.entente.service.people.Addresses;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.Limits;
import dev.entente.service.policy.Configurations;
import dev.entente.service.verify.Enrolments;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** What people and administrators are told of attempts. */
@Component
@Transactional(propagation = Propagation.MANDATORY)
public class PersonNotices {
    /** Strangers could fill somebody's mailbox with news of their own failures. */
    private static final int FAILURES_A_DAY = 3;

    private static final int MANAGERS_AN_HOUR = 5;

    private final People people;
    private final Configurations configurations;
    private final Notifications notifications;
    private final Limits limits;
    private final Addresses addresses;
    private final Session database;

    PersonNotices(
            People people,
            Configurations configurations,
            Notifications notifications,
            Limits limits,
            Addresses addresses,
            Session database) {
        this.people = people;
        this.configurations = configurations;
        this.notifications = notifications;
        this.limits = limits;
        this.addresses = addresses;
        this.database = database;
    }

    /** A code that was asked for. */
    void code(
            AttemptRow row,
            Channel channel,
            Optional<String> to,
            OneTimeCode code,
            Instant expires,
            byte[] origin,
            boolean forTheHour) {
        notifications.code(about(row, person(row), to.orElse(null)), channel, code, expires, origin, forTheHour);
    }

    /** A link that was asked for. */
    void link(AttemptRow row, Optional<String> to, String token, Instant expires, byte[] origin) {
        notifications.link(about(row, person(row), to.orElse(null)), Channel.MAIL, token, expires, origin);
    }

    /**
     * Asks the person's manager to confirm who it is, where the policy says that managers may. Only once something was proved, so
     * that strangers send nobody anything.
     */
    void manager(AttemptRow row, String token, Instant expires, byte[] origin) {
        if (row.proved.isEmpty() || !policy(row).managerConfirms().value()) {
            return;
        }
        var person = person(row);
        person.flatMap(people::manager)
                .flatMap(manager -> addresses.mail(manager))
                .filter(to -> limits.useHere(
                        "managers-asked", String.valueOf(row.person), MANAGERS_AN_HOUR, Duration.ofHours(1)))
                .ifPresent(
                        to -> notifications.managerAsked(about(row, person, to), row.network, token, expires, origin));
    }

    /** What a person is recognised by was changed. */
    @Transactional
    public void methodsChanged(Attempts.Attempt attempt, String what) {
        done(database.find(AttemptRow.class, attempt.id()), List.of(what));
    }

    /** What was done. */
    void done(AttemptRow row, List<String> where) {
        var action = Action.labelled(row.action).orElseThrow();
        var policy = policy(row);
        var person = person(row);
        var to = person.flatMap(addresses::mail);
        if (tells(policy, action) && to.isPresent()) {
            notifications.done(about(row, person, to.get()), action, where);
        }
        if (policy.tellAdministrators().value()
                && action.setsPassword()
                && person.map(p -> !Boolean.FALSE.equals(people.facts(p).privileged()))
                        .orElse(true)) {
            notifications.privileged(about(row, person, null), where);
        }
    }

    /** Of another way in people are told whatever a policy says. */
    private static boolean tells(Policy policy, Action action) {
        return action == Action.DETAILS
                || Occasion.of(action)
                        .map(policy.tellPerson().value()::contains)
                        .orElse(true);
    }

    /** Whether a person will be told when this was done, and there is a mailbox for it. */
    boolean reach(Person person, Policy policy, Action action) {
        return tells(policy, action) && addresses.mail(person).isPresent();
    }

    /** That somebody did not get through, or that no directory took a new password. */
    void failed(AttemptRow row, String why) {
        if (!policy(row).tellPerson().value().contains(Occasion.FAILURE)
                || !limits.useHere("failures-told", String.valueOf(row.person), FAILURES_A_DAY, Duration.ofDays(1))) {
            return;
        }
        var person = person(row);
        person.flatMap(addresses::mail).ifPresent(to -> notifications.failed(about(row, person, to), why));
    }

    /** That strangers try in somebody's name: the person and the administrators, whatever a policy says. */
    void strangers(AttemptRow row, String what) {
        var person = person(row);
        person.flatMap(addresses::mail).ifPresent(to -> notifications.strangers(about(row, person, to), what));
        notifications.strangersForAdministrators(about(row, person, null), what);
    }

    /** People are told of a method that they were given, or that was taken from them, whoever did it. */
    @EventListener
    public void changed(Enrolments.ChangedByAdministrator changed) {
        people.find(changed.person())
                .ifPresent(person -> addresses
                        .mail(person)
                        .ifPresent(to -> notifications.methodChanged(
                                configurations.current(),
                                to,
                                person.name(),
                                person.attributes().getOrDefault("preferredlanguage", Set.of()).stream()
                                        .map(Languages::wish)
                                        .filter(Objects::nonNull)
                                        .findFirst()
                                        .orElse(null),
                                person.attributes(),
                                changed.label(),
                                changed.added())));
    }

    private Optional<Person> person(AttemptRow row) {
        return Optional.ofNullable(row.person).flatMap(people::find);
    }

    private Policy policy(AttemptRow row) {
        return configurations.policy(row.revision, row.policy);
    }

    /** What a message needs to know; a person's directory knows better than a borrowed browser what they read. */
    private Notifications.About about(AttemptRow row, Optional<Person> person, String to) {
        var attributes = person.map(Person::attributes).orElse(Map.of());
        return new Notifications.About(
                row.id,
                new Reference(row.reference).toString(),
                configurations.revision(row.revision),
                to,
                person.map(Person::name).orElse(""),
                attributes.getOrDefault("preferredlanguage", Set.of()).stream()
                        .map(Languages::wish)
                        .filter(Objects::nonNull)
                        .findFirst()
                        .orElse(row.language),
                attributes);
    }
}
