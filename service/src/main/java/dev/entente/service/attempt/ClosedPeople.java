package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptStep;
import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Decision;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.notification.Notifications;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.Standing;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.policy.Configurations;
import dev.entente.service.verify.Awaited;
import jakarta.persistence.LockModeType;
import java.sql.Timestamp;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * What an alarm brings about: the attempt that it is about ends, and where the policy says so, nothing is possible for the person until an
 * administrator has looked. Nobody but whoever has the message can raise an alarm, and each message closes once: whoever keeps an old one
 * can't lock the person out again and again.
 */
@Component
@Transactional
public class ClosedPeople {
    private static final String CODE = "self-service-closed";
    private static final int LONGEST_REASON = 200;

    private final Session database;
    private final Standing standing;
    private final EventLog events;
    private final People people;
    private final Configurations configurations;
    private final WakeUps wakeUps;
    private final InstantSource clock;
    private final Awaited awaited;

    ClosedPeople(
            Session database,
            Standing standing,
            EventLog events,
            People people,
            Configurations configurations,
            WakeUps wakeUps,
            InstantSource clock,
            Awaited awaited) {
        this.awaited = awaited;
        this.database = database;
        this.standing = standing;
        this.events = events;
        this.people = people;
        this.configurations = configurations;
        this.wakeUps = wakeUps;
        this.clock = clock;
    }

    private record All(Set<UUID> people) {}

    private record Closed(UUID person) {}

    /** Whether nothing is possible for this person for now. Asks the database for the stamp of stops alone. */
    @Transactional(readOnly = true)
    public boolean contains(UUID person) {
        return standing.kept(
                        Standing.Topic.STOP,
                        "closed people",
                        All.class,
                        () -> new All(Sql.rows(database, "SELECT person FROM closed_person", Closed.class)
                                .getResultStream()
                                .map(Closed::person)
                                .collect(Collectors.toSet())))
                .people()
                .contains(person);
    }

    /** As it stands in the way of whatever the person wants to do; empty if it does not. */
    @Transactional(readOnly = true)
    public Optional<Decision.Obstacle> obstacle(Person person) {
        return contains(person.id())
                ? Optional.of(new Decision.Obstacle(
                        CODE,
                        "Self-service is closed for this person: they said that something wasn't them.",
                        "Talk to them first. Then open it again: entente person open " + person.login()
                                + " --reason TEXT."))
                : Optional.empty();
    }

    /** For how many it is closed. */
    @Transactional(readOnly = true)
    public long count() {
        return Sql.values(database, "SELECT count(*) FROM closed_person", Long.class)
                .getSingleResult();
    }

    private record Since(Instant closedAt, String reference) {}

    /** Since when, and by which attempt. */
    @Transactional(readOnly = true)
    public Optional<Shown> since(UUID person) {
        return Sql.rows(database, "SELECT closed_at, reference FROM closed_person WHERE person = :person", Since.class)
                .setParameter("person", person)
                .getResultStream()
                .findFirst()
                .map(s -> new Shown(
                        s.closedAt(), s.reference() == null ? null : new Reference(s.reference()).toString()));
    }

    /** @param reference null where the alarm was about no attempt */
    public record Shown(Instant since, String reference) {}

    /** Ends what the alarm is about, and closes self-service where the policy says so. */
    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void alarmed(Notifications.AlarmRaised alarm) {
        var row = alarm.attempt() == null
                ? null
                : database.find(AttemptRow.class, alarm.attempt(), LockModeType.PESSIMISTIC_WRITE);
        if (row != null && AttemptRow.OPEN.contains(row.state)) {
            stop(row);
            alarm.done().add(Notifications.Done.ATTEMPT_ENDED);
        }
        if (alarm.close() && alarm.first()) {
            closes(row).ifPresent(person -> {
                close(person, row);
                alarm.done().add(Notifications.Done.SELF_SERVICE_CLOSED);
            });
        }
    }

    /** What an alarm about an attempt would bring about, before it is raised. */
    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void asked(Notifications.AlarmAsked alarm) {
        var row = alarm.attempt() == null ? null : database.find(AttemptRow.class, alarm.attempt());
        if (row != null && AttemptRow.OPEN.contains(row.state)) {
            alarm.possible().add(Notifications.Done.ATTEMPT_ENDED);
        }
        if (alarm.first() && closes(row).isPresent()) {
            alarm.possible().add(Notifications.Done.SELF_SERVICE_CLOSED);
        }
    }

    /** Whose self-service closes: only where something was proved, or strangers who only try could have it closed. */
    private Optional<Person> closes(AttemptRow row) {
        return row == null
                        || row.policy == null
                        || row.proved.isEmpty()
                        || !configurations
                                .policy(row.revision, row.policy)
                                .closeOnAlarm()
                                .value()
                ? Optional.empty()
                : Optional.ofNullable(row.person).flatMap(people::find);
    }

    private void close(Person person, AttemptRow row) {
        var closed = Sql.change(database, """
                        INSERT INTO closed_person (person, attempt, reference, closed_at)
                        VALUES (:person, cast(:attempt AS uuid), cast(:reference AS text), :now) ON CONFLICT DO NOTHING""")
                .setParameter("person", person.id())
                .setParameter("attempt", row == null ? null : row.id)
                .setParameter("reference", row == null ? null : row.reference)
                .setParameter("now", Timestamp.from(clock.instant()))
                .executeUpdate();
        if (closed == 1) {
            var event = row == null
                    ? NewEvent.operation("selfservice.closed")
                    : NewEvent.of("selfservice.closed", row.id, row.revision);
            events.write(event.with("person", person.id().toString()).withPersonal("name", person.name()));
        }
        // Whatever else is under way in their name.
        database.createQuery("FROM AttemptRow WHERE person = :person AND state IN (:open)", AttemptRow.class)
                .setParameter("person", person.id())
                .setParameter("open", AttemptRow.OPEN)
                .setLockMode(LockModeType.PESSIMISTIC_WRITE)
                .getResultList()
                .forEach(this::stop);
    }

    private void stop(AttemptRow row) {
        row.take(AttemptStep.STOP, clock.instant());
        awaited.over(List.of(row.id));
        events.write(NewEvent.of("attempt.stopped", row.id, row.revision));
        wakeUps.changed(row.id);
    }

    /**
     * Somebody has looked.
     *
     * @throws Problem if there is no reason, or nothing to open
     */
    public void open(UUID id, String reason, String administrator) {
        var said = reason == null ? "" : reason.strip();
        if (said.isEmpty() || said.length() > LONGEST_REASON || said.contains("\n")) {
            throw Problem.of("opening-reason").with("longestReason", LONGEST_REASON);
        }
        var person = people.find(id).orElseThrow(() -> Problem.of("person-not-found"));
        var opened = Sql.change(database, "DELETE FROM closed_person WHERE person = :person")
                .setParameter("person", id)
                .executeUpdate();
        if (opened == 0) {
            throw Problem.of("not-closed");
        }
        events.write(NewEvent.administration("selfservice.opened", administrator)
                .with("person", id.toString())
                .withPersonal("name", person.name())
                .with("reason", said));
    }
}
