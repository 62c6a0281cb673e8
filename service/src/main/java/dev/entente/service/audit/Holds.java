package dev.entente.service.audit;

import dev.entente.core.attempt.Reference;
import dev.entente.core.audit.EventKind;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.RetentionApi;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Stream;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Holds on what may not go, and requests to erase a person's values. This role can place and ask, and lift by a function that puts it on
 * record; what removes anything is a step of its own with a role of its own ({@code Retain}), which looks at the holds and finds out by
 * itself what is the person's.
 */
@Component
@Transactional
public class Holds {
    private static final int LONGEST_REASON = 200;
    private static final int SHOWN = 200;

    private final Session database;
    private final EventLog events;
    private final AttemptReferences references;
    private final InstantSource clock;

    Holds(Session database, EventLog events, AttemptReferences references, InstantSource clock) {
        this.database = database;
        this.events = events;
        this.references = references;
        this.clock = clock;
    }

    private record Held(
            UUID id,
            String reason,
            String login,
            String reference,
            Instant since,
            Instant until,
            String placedBy,
            Instant placedAt,
            String liftedBy,
            Instant liftedAt) {
        RetentionApi.Hold shown() {
            return new RetentionApi.Hold(
                    id,
                    reason,
                    login,
                    Optional.ofNullable(reference)
                            .map(digits -> new Reference(digits).toString())
                            .orElse(null),
                    since,
                    until,
                    placedBy,
                    placedAt,
                    liftedBy,
                    liftedAt);
        }
    }

    private record Run(Instant at, int attempt, int administration, int operation) {}

    /** How things stand. */
    @Transactional(readOnly = true)
    public RetentionApi.Retention shown() {
        var run = Sql.rows(
                        database,
                        "SELECT at, attempt, administration, operation FROM retention_run ORDER BY at DESC LIMIT 1",
                        Run.class)
                .getResultStream()
                .findFirst();
        return new RetentionApi.Retention(
                run.map(Run::at).orElse(null),
                run.map(r -> List.of(
                                new RetentionApi.Span("attempt", r.attempt()),
                                new RetentionApi.Span("administration", r.administration()),
                                new RetentionApi.Span("operation", r.operation())))
                        .orElse(List.of()),
                Sql.rows(database, """
                                SELECT h.id, h.reason, h.login, a.reference, h.since, h.until, h.placed_by, h.placed_at, h.lifted_by,
                                    h.lifted_at FROM legal_hold h LEFT JOIN attempt_reference a ON a.attempt = h.attempt
                                ORDER BY h.lifted_at IS NOT NULL, h.placed_at DESC LIMIT :most""", Held.class)
                        .setParameter("most", SHOWN)
                        .getResultStream()
                        .map(Held::shown)
                        .toList(),
                Sql.rows(database, """
                                SELECT id, reason, login, requested_by, requested_at, held_by, done_at, events, values_gone AS "values", first_at,
                                    last_at FROM erasure ORDER BY requested_at DESC LIMIT :most""", RetentionApi.Erasure.class)
                        .setParameter("most", SHOWN)
                        .getResultList(),
                Sql.rows(database, """
                                SELECT retention_class AS kept, to_char(month, 'YYYY-MM') AS month, events, cut_at FROM record_cut
                                ORDER BY cut_at DESC, month DESC LIMIT :most""", RetentionApi.Cut.class)
                        .setParameter("most", SHOWN)
                        .getResultList());
    }

    /** Places a hold. */
    RetentionApi.Hold place(RetentionApi.NewHold wanted, String administrator) {
        var reason = reason(wanted.reason());
        var span = wanted.since() != null;
        if (Stream.of(wanted.login() != null, wanted.reference() != null, span)
                        .filter(said -> said)
                        .count()
                != 1) {
            throw Problem.of("hold-of");
        }
        if (wanted.until() != null && (!span || !wanted.until().isAfter(wanted.since()))) {
            throw Problem.of("hold-span");
        }
        var person = wanted.login() == null ? null : person(wanted.login()).orElse(null);
        var attempt = wanted.reference() == null
                ? null
                : Reference.parse(wanted.reference())
                        .flatMap(references::attempt)
                        .orElseThrow(() -> Problem.of("attempt-not-found").with("reference", wanted.reference()));
        var id = UUID.randomUUID();
        Sql.change(database, """
                        INSERT INTO legal_hold (id, reason, login, person, attempt, since, until, placed_by, placed_at)
                        VALUES (:id, :reason, :login, cast(:person AS uuid), cast(:attempt AS uuid), :since, :until, :by, :now)""")
                .setParameter("id", id)
                .setParameter("reason", reason)
                .setParameter(
                        "login", wanted.login() == null ? null : wanted.login().strip())
                .setParameter("person", person)
                .setParameter("attempt", attempt)
                .setParameter("since", wanted.since())
                .setParameter("until", wanted.until())
                .setParameter("by", administrator)
                .setParameter("now", clock.instant())
                .executeUpdate();
        events.write(NewEvent.administration("hold.placed", administrator)
                .with("hold", id.toString())
                .with("what", wanted.login() != null ? "person" : attempt != null ? "attempt" : "span")
                .with("reason", reason));
        return shown().holds().stream()
                .filter(hold -> hold.id().equals(id))
                .findFirst()
                .orElseThrow();
    }

    /** Lifts a hold: what it covered may go from then on. */
    void lift(UUID id, String administrator) {
        // The function puts it on record.
        var lifted = Sql.values(database, "SELECT lift_hold(:id, :by)", Boolean.class)
                .setParameter("id", id)
                .setParameter("by", administrator)
                .getSingleResult();
        if (!lifted) {
            throw Problem.of("hold-not-found");
        }
    }

    /** Asks for a person's values to go; the retention step takes them out. */
    RetentionApi.Erasure erase(RetentionApi.NewErasure wanted, String administrator) {
        var reason = reason(wanted.reason());
        if (wanted.login() == null || wanted.login().isBlank()) {
            throw Problem.of("erasure-of");
        }
        var person = person(wanted.login()).orElse(null);
        var waits = Sql.values(database, "SELECT erasure_waits(cast(:person AS uuid), :login)", Boolean.class)
                .setParameter("person", person)
                .setParameter("login", wanted.login().strip())
                .getSingleResult();
        if (waits) {
            throw Problem.of("erasure-waits");
        }
        var id = UUID.randomUUID();
        Sql.change(database, """
                        INSERT INTO erasure (id, reason, login, person, requested_by, requested_at)
                        VALUES (:id, :reason, :login, cast(:person AS uuid), :by, :now)""")
                .setParameter("id", id)
                .setParameter("reason", reason)
                .setParameter("login", wanted.login().strip())
                .setParameter("person", person)
                .setParameter("by", administrator)
                .setParameter("now", clock.instant())
                .executeUpdate();
        events.write(NewEvent.administration("erasure.requested", administrator)
                .with("erasure", id.toString())
                .with("person", person == null ? null : person.toString())
                .with("reason", reason));
        return shown().erasures().stream()
                .filter(erasure -> erasure.id().equals(id))
                .findFirst()
                .orElseThrow();
    }

    /** Whom a name means; empty for a person who is gone from every directory and known by this name alone. */
    private Optional<UUID> person(String login) {
        var known = Sql.values(database, "SELECT DISTINCT person FROM known_login WHERE login_key = :key", UUID.class)
                .setParameter("key", login.strip().toLowerCase(Locale.ROOT))
                .getResultList();
        if (known.size() > 1) {
            throw Problem.of("name-ambiguous");
        }
        if (known.isEmpty() && !recorded(login)) {
            throw Problem.of("name-not-found").with("login", login.strip());
        }
        return known.stream().findFirst();
    }

    private boolean recorded(String login) {
        return Sql.values(database, "SELECT EXISTS (SELECT FROM event_term WHERE term = :term)", Boolean.class)
                .setParameter("term", EventKind.term("login", login))
                .getSingleResult();
    }

    private static String reason(String said) {
        if (said == null || said.isBlank() || said.strip().length() > LONGEST_REASON) {
            throw Problem.of("reason-needed");
        }
        return said.strip();
    }
}
