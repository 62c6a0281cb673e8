package dev.entente.service.verify;

import dev.entente.core.seal.Credential;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** What people set up to be recognised by. What is secret of it is each method's own. */
@Component
@Transactional
public class Enrolments {
    private static final int LONGEST_LABEL = 60;
    /** How long something that was offered can be confirmed. */
    private static final Duration OFFER = Duration.ofMinutes(30);

    private final Session database;
    private final EnrolmentTable table;
    private final Methods methods;
    private final EventLog events;
    private final InstantSource clock;
    private final ApplicationEventPublisher publisher;

    Enrolments(
            Session database,
            EnrolmentTable table,
            Methods methods,
            EventLog events,
            InstantSource clock,
            ApplicationEventPublisher publisher) {
        this.database = database;
        this.table = table;
        this.methods = methods;
        this.events = events;
        this.clock = clock;
        this.publisher = publisher;
    }

    /**
     * One method of one person.
     *
     * @param left uses that are left; null where they are not counted
     */
    public record Enrolment(UUID id, Method method, String label, Instant since, Instant lastUsed, Integer left) {}

    /**
     * An administrator gave somebody a method, or took one away; published in the transaction that does it.
     *
     * @param label as others may read it, see {@link Labels}
     * @param added whether it was given
     */
    public record ChangedByAdministrator(UUID person, String label, boolean added) {}

    /**
     * Somebody said elsewhere, such as on a device of theirs, that a challenge was not theirs; published in the transaction that
     * notes it.
     */
    public record DeniedElsewhere(UUID challenge, UUID person, String why) {}

    /**
     * Something answered a challenge that may be a copy of what a person has; published in the transaction that refuses it.
     *
     * @param label how the person calls it
     */
    public record Copied(UUID challenge, UUID person, Method method, String label) {}

    /** Who changes something, and on whose account it goes on record. */
    public record By(UUID attempt, int revision, String administrator) {
        NewEvent event(String kind) {
            return administrator == null
                    ? NewEvent.of(kind, attempt, revision)
                    : NewEvent.administration(kind, administrator);
        }
    }

    private record Stored(UUID id, String method, String label, Instant confirmedAt, Instant lastUsedAt) {}

    /** What a person has, oldest first. */
    @Transactional(readOnly = true)
    public List<Enrolment> of(UUID person) {
        return Sql.rows(database, """
                        SELECT id, method, label, confirmed_at, last_used_at FROM enrolment
                        WHERE person = :person AND confirmed_at IS NOT NULL AND removed_at IS NULL
                        ORDER BY confirmed_at""", Stored.class)
                .setParameter("person", person)
                .getResultStream()
                .map(row -> {
                    var method = Method.of(row.method());
                    return new Enrolment(
                            row.id(),
                            method,
                            row.label(),
                            row.confirmedAt(),
                            row.lastUsedAt(),
                            methods.enroller(method).left(row.id()));
                })
                .toList();
    }

    /** Something to set up; where it is not complete, it counts for nothing until it is confirmed. */
    public record Offered(UUID id, String label, Enroller.Offered what) {}

    /**
     * Offers a method to a person.
     *
     * @param label how the person calls it; null or empty for the method's own name
     * @param login by which the person signs in
     * @throws Problem 422 if nobody sets this method up by themselves or the name is too long, 409 if the person has as many as
     *     they may
     */
    public Offered offer(UUID person, Method method, String label, String login, By by) {
        var enroller = methods.enroller(method);
        if (!method.prepared()) {
            throw Problem.of("not-self-enrolled");
        }
        var name = name(label, enroller);
        var have = of(person).stream().filter(e -> e.method().equals(method)).toList();
        if (have.size() >= enroller.most() && enroller.most() > 1) {
            throw Problem.of("too-many-enrolments").with("most", enroller.most());
        }
        Sql.change(database, "DELETE FROM enrolment WHERE person = :person AND confirmed_at IS NULL")
                .setParameter("person", person)
                .executeUpdate();
        var id = insert(person, method, name, false);
        var offered = enroller.offer(id, person, login);
        if (offered.complete()) {
            have.forEach(before -> end(before.id(), method));
            counts(person, id, method, by);
        }
        return new Offered(id, name, offered);
    }

    /**
     * Gives somebody what they did not set up by themselves, such as a token; it counts at once.
     *
     * @return its id, under which the method keeps what is secret of it; empty if the person has as many as they may
     */
    public Optional<UUID> give(UUID person, Method method, String label, String administrator) {
        if (of(person).stream().filter(e -> e.method().equals(method)).count()
                >= methods.enroller(method).most()) {
            return Optional.empty();
        }
        var id = there(person, method, label, new By(null, 0, administrator));
        publisher.publishEvent(new ChangedByAdministrator(person, Labels.named(method, label), true));
        return Optional.of(id);
    }

    /**
     * Somebody has what nobody sets up, by use; what was not used for longest makes room for it.
     *
     * @return its id, under which the method keeps what it is
     */
    public UUID came(UUID person, Method method, String label, UUID attempt, int revision) {
        var have = of(person).stream().filter(e -> e.method().equals(method)).toList();
        if (have.size() >= methods.enroller(method).most()) {
            have.stream()
                    .min(Comparator.comparing(e -> e.lastUsed() == null ? e.since() : e.lastUsed()))
                    .ifPresent(e -> end(e.id(), method));
        }
        return there(person, method, label, new By(attempt, revision, null));
    }

    /** @param counts whether it counts at once; otherwise for nothing until it is confirmed */
    private UUID insert(UUID person, Method method, String name, boolean counts) {
        var id = UUID.randomUUID();
        Sql.change(database, """
                        INSERT INTO enrolment (id, person, method, label, created_at, confirmed_at, changed_in)
                        VALUES (:id, :person, :method, :label, :now, CASE WHEN :counts THEN cast(:now AS timestamptz) END,
                            this_transaction())""")
                .setParameter("id", id)
                .setParameter("person", person)
                .setParameter("method", method.label())
                .setParameter("label", name)
                .setParameter("now", clock.instant())
                .setParameter("counts", counts)
                .executeUpdate();
        return id;
    }

    private UUID there(UUID person, Method method, String label, By by) {
        var id = insert(person, method, name(label, methods.enroller(method)), true);
        enrolled(person, method, by);
        return id;
    }

    private static String name(String label, Enroller enroller) {
        var name = label == null || label.isBlank() ? enroller.usualName() : label.strip();
        if (name.length() > LONGEST_LABEL) {
            throw Problem.of("name-too-long").with("longestLabel", LONGEST_LABEL);
        }
        return name;
    }

    /**
     * The person shows to have what was offered: from now on it counts.
     *
     * @return what it is, and how the person calls it
     * @throws Problem 422 if the answer does not show it, 409 if nothing waits to be confirmed
     */
    public SetUp confirm(UUID person, UUID id, Answer answer, By by) {
        var waiting = Sql.rows(database, """
                        SELECT method, label FROM enrolment WHERE id = :id AND person = :person AND confirmed_at IS NULL
                        AND created_at > :since FOR UPDATE""", Waiting.class)
                .setParameter("id", id)
                .setParameter("person", person)
                .setParameter("since", clock.instant().minus(OFFER))
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.of("not-begun"));
        var method = Method.of(waiting.method());
        methods.enroller(method).confirm(id, person, answer);
        counts(person, id, method, by);
        return new SetUp(method, waiting.label());
    }

    /** What was set up. */
    public record SetUp(Method method, String label) {}

    private record Waiting(String method, String label) {}

    private void counts(UUID person, UUID id, Method method, By by) {
        Sql.change(database, "UPDATE enrolment SET confirmed_at = :now, changed_in = this_transaction() WHERE id = :id")
                .setParameter("now", clock.instant())
                .setParameter("id", id)
                .executeUpdate();
        enrolled(person, method, by);
    }

    private void enrolled(UUID person, Method method, By by) {
        events.write(by.event("method.enrolled").with("method", method.label()).with("person", person.toString()));
    }

    /** Gives one another name. */
    public void rename(UUID person, UUID id, String label) {
        var one = found(person, id);
        Sql.change(database, "UPDATE enrolment SET label = :label WHERE id = :id")
                .setParameter("label", name(label, methods.enroller(one.method())))
                .setParameter("id", id)
                .executeUpdate();
    }

    /** Takes a method away. */
    public Enrolment remove(UUID person, UUID id, By by) {
        var one = found(person, id);
        end(id, one.method());
        events.write(
                by.event("method.removed").with("method", one.method().label()).with("person", person.toString()));
        if (by.administrator() != null) {
            publisher.publishEvent(new ChangedByAdministrator(person, Labels.named(one.method(), one.label()), false));
        }
        return one;
    }

    /** The public halves of all by which stewards could recognise a person. */
    @Transactional(readOnly = true)
    public List<Credential> credentials(UUID person) {
        return credentials(List.of(person)).getOrDefault(person, List.of());
    }

    private record Owned(UUID id, UUID person, String method) {}

    /** Those of many people at once; whoever has none is left out. */
    @Transactional(readOnly = true)
    public Map<UUID, List<Credential>> credentials(Collection<UUID> people) {
        var byMethod = Sql.rows(database, """
                        SELECT id, person, method FROM enrolment
                        WHERE person = ANY (:people) AND confirmed_at IS NOT NULL AND removed_at IS NULL""", Owned.class)
                .setParameter("people", people.toArray(UUID[]::new))
                .getResultStream()
                .collect(Collectors.groupingBy(Owned::method, Collectors.toMap(Owned::id, Owned::person)));
        var credentials = new HashMap<UUID, List<Credential>>();
        byMethod.forEach((method, owners) -> methods.enroller(Method.of(method))
                .credentials(owners.keySet())
                .forEach((id, credential) -> credentials
                        .computeIfAbsent(owners.get(id), person -> new ArrayList<>())
                        .add(credential)));
        return credentials;
    }

    /** The public half of one by which stewards could recognise the person; empty where there is none. */
    @Transactional(readOnly = true)
    public Optional<Credential> credential(UUID person, UUID id) {
        return Optional.ofNullable(methods.enroller(found(person, id).method())
                .credentials(List.of(id))
                .get(id));
    }

    private Enrolment found(UUID person, UUID id) {
        return of(person).stream()
                .filter(e -> e.id().equals(id))
                .findFirst()
                .orElseThrow(() -> Problem.of("method-not-found"));
    }

    private void end(UUID id, Method method) {
        table.end(id);
        methods.enroller(method).forget(id);
    }
}
