package dev.entente.service.attempt;

import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Languages;
import dev.entente.core.policy.Message;
import dev.entente.core.policy.Occasion;
import dev.entente.core.policy.Policy;
import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.OneTimeCode;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.notification.Notifications;
import dev.entente.service.notification.PhoneChannel;
import dev.entente.service.notification.Quiet;
import dev.entente.service.people.AddressChanged;
import dev.entente.service.people.Addresses;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.Limits;
import dev.entente.service.policy.Configurations;
import dev.entente.service.verify.Enrolments;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
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
    private static final int NEWS_BY_TEXT_A_DAY = 3;

    private final People people;
    private final Configurations configurations;
    private final Notifications notifications;
    private final Limits limits;
    private final Addresses addresses;
    private final Session database;
    private final EventLog events;
    private final Quiet quiet;
    private final PhoneChannel phone;

    PersonNotices(
            People people,
            Configurations configurations,
            Notifications notifications,
            Limits limits,
            Addresses addresses,
            Session database,
            EventLog events,
            Quiet quiet,
            PhoneChannel phone) {
        this.people = people;
        this.configurations = configurations;
        this.notifications = notifications;
        this.limits = limits;
        this.addresses = addresses;
        this.database = database;
        this.events = events;
        this.quiet = quiet;
        this.phone = phone;
    }

    /** A code that was asked for. */
    void code(
            AttemptRow row,
            Optional<Person> person,
            Channel channel,
            Optional<String> to,
            OneTimeCode code,
            Instant expires,
            byte[] origin,
            boolean forTheHour) {
        notifications.code(about(row, person, to.orElse(null)), channel, code, expires, origin, forTheHour);
    }

    /** A link that was asked for. */
    void link(
            AttemptRow row,
            Optional<Person> person,
            Optional<String> to,
            String token,
            Instant expires,
            byte[] origin) {
        notifications.link(about(row, person, to.orElse(null)), Channel.MAIL, token, expires, origin);
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
        if (tells(policy, action)) {
            tell(
                    row,
                    person,
                    dispensable(policy, Notifications.of(action)),
                    about -> notifications.done(about, action, where));
        }
        // Administrators are told of it from the record.
        if (policy.tellAdministrators().value()
                && action.setsPassword()
                && person.map(p -> !Boolean.FALSE.equals(people.facts(p).privileged()))
                        .orElse(true)) {
            events.write(NewEvent.of("privileged.reset", row.id, row.revision)
                    .withPersonal("name", person.map(Person::name).orElse("Someone"))
                    .with("where", String.join(", ", where)));
        }
    }

    /**
     * Tells the person at every mailbox of theirs; and by text message, where the only mailbox is what they were recognised by: whoever
     * is in that would be the only one to hear of it.
     *
     * @param dispensable what they may choose not to be told of; empty for what they are told in any case
     */
    private void tell(
            AttemptRow row,
            Optional<Person> person,
            Optional<Occasion> dispensable,
            Consumer<Notifications.About> tells) {
        if (person.isEmpty()
                || dispensable.filter(o -> quiet.about(row.person, o)).isPresent()) {
            return;
        }
        var to = new ArrayList<>(addresses.news(person.get()));
        if (to.size() == 1
                && row.provedMethods().stream().anyMatch(Method.by(Channel.MAIL)::contains)
                && !phone.broken().contains(Channel.TEXT)) {
            addresses
                    .of(person.get(), Channel.TEXT, false)
                    .filter(number -> limits.useHere(
                            "news-by-text", String.valueOf(row.person), NEWS_BY_TEXT_A_DAY, Duration.ofDays(1)))
                    .ifPresent(to::add);
        }
        for (var address : to) {
            var about = about(row, person, address);
            tells.accept(dispensable.map(about::dispensable).orElse(about));
        }
    }

    /** What the person may choose not to be told of, of what a message tells. */
    private static Optional<Occasion> dispensable(Policy policy, Message message) {
        return message.dispensable().filter(policy.maySwitchOff().value()::contains);
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
        return tells(policy, action)
                && addresses.mail(person).isPresent()
                && dispensable(policy, Notifications.of(action))
                        .filter(o -> quiet.about(person.id(), o))
                        .isEmpty();
    }

    /** That somebody did not get through, or that no directory took a new password. */
    void failed(AttemptRow row, String why) {
        var policy = policy(row);
        if (policy.tellPerson().value().contains(Occasion.FAILURE)
                && limits.useHere("failures-told", String.valueOf(row.person), FAILURES_A_DAY, Duration.ofDays(1))) {
            tell(
                    row,
                    person(row),
                    dispensable(policy, Message.ATTEMPT_FAILED),
                    about -> notifications.failed(about, why));
        }
    }

    /** That strangers try in somebody's name, whatever a policy says. */
    void strangers(AttemptRow row, String what) {
        tell(row, person(row), Optional.empty(), about -> notifications.strangers(about, what));
    }

    /** People are told of a method that they were given, or that was taken from them, whoever did it. */
    @EventListener
    public void changed(Enrolments.ChangedByAdministrator changed) {
        people.find(changed.person())
                .ifPresent(person -> addresses
                        .news(person)
                        .forEach(to ->
                                notifications.methodChanged(about(person, to), changed.label(), changed.added())));
    }

    /** People hear at the old address and at the new one that their directory has another. */
    @EventListener
    public void moved(AddressChanged moved) {
        people.find(moved.person()).ifPresent(person -> {
            for (var to : moved.told()) {
                notifications.addressChanged(about(person, to), moved.now());
            }
        });
    }

    /**
     * Tells the person, at each of their mailboxes, what lies ahead, unless their policy does not say so or they chose otherwise.
     *
     * @return whether anybody was told
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public boolean ahead(Person person, Policy policy, Message message, Consumer<Notifications.About> tells) {
        var occasion = message.dispensable().orElseThrow();
        var dispensable = dispensable(policy, message);
        if (!policy.tellPerson().value().contains(occasion)
                || dispensable.filter(o -> quiet.about(person.id(), o)).isPresent()) {
            return false;
        }
        var to = addresses.news(person);
        to.forEach(address -> {
            var about = about(person, address);
            tells.accept(dispensable.map(about::dispensable).orElse(about));
        });
        return !to.isEmpty();
    }

    /** Where it is about no attempt. */
    private Notifications.About about(Person person, String to) {
        return new Notifications.About(
                null,
                "",
                person.id(),
                null,
                configurations.current(),
                to,
                person.name(),
                language(person.attributes()).orElse(null),
                person.attributes(),
                Optional.empty());
    }

    private static Optional<String> language(Map<String, Set<String>> attributes) {
        return attributes.getOrDefault("preferredlanguage", Set.of()).stream()
                .map(Languages::wish)
                .filter(Objects::nonNull)
                .findFirst();
    }

    /** Who it is about. */
    String name(AttemptRow row) {
        return person(row).map(Person::name).orElse("somebody");
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
                row.person,
                null,
                configurations.revision(row.revision),
                to,
                person.map(Person::name).orElse(""),
                language(attributes).orElse(row.language),
                attributes,
                Optional.empty());
    }
}
