package dev.entente.service.enrolment;

import dev.entente.core.verify.AppCode;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.RecoveryCode;
import dev.entente.core.verify.Verifier.AppStore;
import dev.entente.core.verify.Verifier.RecoveryStore;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import java.security.SecureRandom;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** What people set up to be recognised by, and what is taken of it. */
@Component
@Transactional
public class Enrolments implements AppStore, RecoveryStore {
    private static final int MOST_APPS = AppCode.MOST_OF_ONE_PERSON;

    private static final String KEY = "recovery codes";

    private final Session database;
    private final EventLog events;
    private final KeyRing keys;
    private final SecureRandom random;
    private final InstantSource clock;
    private final ApplicationEventPublisher publisher;

    Enrolments(
            Session database,
            EventLog events,
            KeyRing keys,
            SecureRandom random,
            InstantSource clock,
            ApplicationEventPublisher publisher) {
        this.publisher = publisher;
        this.database = database;
        this.events = events;
        this.keys = keys;
        this.random = random;
        this.clock = clock;
    }

    /**
     * One method of one person.
     *
     * @param left recovery codes that are not used; 0 for other methods
     */
    public record Enrolment(UUID id, Method method, String label, Instant since, Instant lastUsed, int left) {}

    /** An administrator took a method away; published in the transaction that does it. */
    public record RemovedByAdministrator(UUID person, String label) {}

    /** Who changes something, and on whose account it goes on record. */
    public record By(UUID attempt, int revision, String administrator) {
        NewEvent event(String kind) {
            return administrator == null
                    ? NewEvent.of(kind, attempt, revision)
                    : NewEvent.administration(kind, administrator);
        }
    }

    /** What a person has, oldest first. */
    @Transactional(readOnly = true)
    public List<Enrolment> of(UUID person) {
        return Sql.rows(database, """
                        SELECT e.id, e.method, e.label, e.confirmed_at, e.last_used_at,
                            (SELECT count(*) FROM recovery_code c WHERE c.enrolment = e.id AND c.used_at IS NULL) AS codes
                        FROM enrolment e WHERE e.person = :person AND e.confirmed_at IS NOT NULL AND e.removed_at IS NULL
                        ORDER BY e.confirmed_at""", Stored.class)
                .setParameter("person", person)
                .getResultStream()
                .map(row -> new Enrolment(
                        row.id(),
                        Method.labelled(row.method()).orElseThrow(),
                        row.label(),
                        row.confirmedAt(),
                        row.lastUsedAt(),
                        row.codes()))
                .toList();
    }

    private record Stored(UUID id, String method, String label, Instant confirmedAt, Instant lastUsedAt, int codes) {}

    private record Secret(UUID id, byte[] secret) {}

    /** A secret that waits for the first code of the app it was given to. */
    public record Offered(UUID enrolment, AppCode secret) {}

    /** Makes a secret for an app; nothing counts until a code of it is typed. */
    public Offered offerApp(UUID person, String label) {
        var name = label == null || label.isBlank() ? "Authenticator app" : label.strip();
        if (name.length() > 60) {
            throw Problem.invalid("app-name", "Give the app a name of at most 60 characters.");
        }
        if (of(person).stream().filter(e -> e.method() == Method.APP_CODE).count() >= MOST_APPS) {
            throw Problem.conflict(
                    "too-many-apps", "You already have " + MOST_APPS + " apps. Remove one you no longer use first.");
        }
        Sql.change(database, "DELETE FROM enrolment WHERE person = :person AND confirmed_at IS NULL")
                .setParameter("person", person)
                .executeUpdate();
        var id = UUID.randomUUID();
        var secret = AppCode.random(random);
        Sql.change(database, """
                        INSERT INTO enrolment (id, person, method, label, secret, created_at)
                        VALUES (:id, :person, :method, :label, :secret, :now)""")
                .setParameter("id", id)
                .setParameter("person", person)
                .setParameter("method", Method.APP_CODE.label())
                .setParameter("label", name)
                .setParameter("secret", keys.encrypt(context(id, person), secret.base32()))
                .setParameter("now", clock.instant())
                .executeUpdate();
        return new Offered(id, secret);
    }

    /**
     * The app shows that it has the secret: from now on it counts.
     *
     * @throws Problem 422 if the code is wrong
     */
    public void confirmApp(UUID person, UUID enrolment, String typed, By by) {
        var app = waiting(person, enrolment)
                .orElseThrow(() -> Problem.conflict(
                        "app-not-begun", "This app was already set up, or you started too long ago. Start again."));
        var step = app.secret().step(typed, clock.instant());
        if (step.isEmpty()) {
            throw Problem.invalid(
                    "code-wrong",
                    "That isn't the code the app shows now. Type all six digits. If it stays wrong, set your phone's"
                            + " clock to automatic.");
        }
        Sql.change(database, """
                        UPDATE enrolment SET confirmed_at = :now, last_step = :step,
                            changed_in = this_transaction() WHERE id = :id""")
                .setParameter("now", clock.instant())
                .setParameter("step", step.getAsLong())
                .setParameter("id", enrolment)
                .executeUpdate();
        events.write(by.event("method.enrolled")
                .with("method", Method.APP_CODE.label())
                .with("person", person.toString()));
    }

    private Optional<App> waiting(UUID person, UUID enrolment) {
        return Sql.values(database, """
                        SELECT secret FROM enrolment WHERE id = :id AND person = :person AND confirmed_at IS NULL
                        AND created_at > :since FOR UPDATE""", byte[].class)
                .setParameter("id", enrolment)
                .setParameter("person", person)
                .setParameter("since", clock.instant().minusSeconds(1800))
                .getResultStream()
                .findFirst()
                .map(secret -> new App(enrolment, AppCode.parse(keys.decrypt(context(enrolment, person), secret))));
    }

    /** Makes a new set of recovery codes; those of before count no more. They are shown this once. */
    public List<RecoveryCode> newRecoveryCodes(UUID person, By by) {
        Sql.change(database, """
                        UPDATE enrolment SET removed_at = :now,
                            changed_in = this_transaction()
                        WHERE person = :person AND method = :method
                        AND removed_at IS NULL""")
                .setParameter("now", clock.instant())
                .setParameter("person", person)
                .setParameter("method", Method.RECOVERY_CODE.label())
                .executeUpdate();
        var id = UUID.randomUUID();
        Sql.change(database, """
                        INSERT INTO enrolment (id, person, method, label, created_at, confirmed_at, changed_in)
                        VALUES (:id, :person, :method, 'Recovery codes', :now, :now,
                            this_transaction())""")
                .setParameter("id", id)
                .setParameter("person", person)
                .setParameter("method", Method.RECOVERY_CODE.label())
                .setParameter("now", clock.instant())
                .executeUpdate();
        var codes = new ArrayList<RecoveryCode>();
        for (var i = 0; i < RecoveryCode.AT_ONCE; i++) {
            var code = RecoveryCode.random(random);
            codes.add(code);
            Sql.change(database, "INSERT INTO recovery_code (enrolment, code_hash) VALUES (:enrolment, :hash)")
                    .setParameter("enrolment", id)
                    .setParameter("hash", code.hash(keys.derived(KEY), id))
                    .executeUpdate();
        }
        events.write(by.event("method.enrolled")
                .with("method", Method.RECOVERY_CODE.label())
                .with("person", person.toString()));
        return codes;
    }

    /** Takes a method away. */
    public Enrolment remove(UUID person, UUID enrolment, By by) {
        var one = of(person).stream()
                .filter(e -> e.id().equals(enrolment))
                .findFirst()
                .orElseThrow(() -> Problem.missing("method", "with this id"));
        Sql.change(database, """
                        UPDATE enrolment SET removed_at = :now, secret = NULL,
                            changed_in = this_transaction() WHERE id = :id""")
                .setParameter("now", clock.instant())
                .setParameter("id", enrolment)
                .executeUpdate();
        events.write(
                by.event("method.removed").with("method", one.method().label()).with("person", person.toString()));
        if (by.administrator() != null) {
            publisher.publishEvent(new RemovedByAdministrator(person, one.label()));
        }
        return one;
    }

    @Override
    @Transactional(propagation = Propagation.MANDATORY)
    public List<App> apps(UUID person) {
        return Sql.rows(database, """
                        SELECT id, secret FROM enrolment WHERE person = :person AND method = :method
                        AND confirmed_at IS NOT NULL AND removed_at IS NULL ORDER BY confirmed_at""", Secret.class)
                .setParameter("person", person)
                .setParameter("method", Method.APP_CODE.label())
                .getResultStream()
                .map(row -> new App(row.id(), AppCode.parse(keys.decrypt(context(row.id(), person), row.secret()))))
                .toList();
    }

    @Override
    @Transactional(propagation = Propagation.MANDATORY)
    public boolean take(UUID enrolment, long step) {
        return Sql.change(database, """
                        UPDATE enrolment SET last_step = :step, last_used_at = :now
                        WHERE id = :id AND last_step < :step AND removed_at IS NULL""")
                        .setParameter("step", step)
                        .setParameter("now", clock.instant())
                        .setParameter("id", enrolment)
                        .executeUpdate()
                == 1;
    }

    @Override
    @Transactional(propagation = Propagation.MANDATORY)
    public boolean take(UUID person, RecoveryCode code) {
        var sets = of(person).stream()
                .filter(e -> e.method() == Method.RECOVERY_CODE)
                .map(Enrolment::id)
                .toList();
        for (var set : sets) {
            // What is looked for is a keyed hash: how long the index takes tells nothing of any code.
            var taken = Sql.change(database, """
                            UPDATE recovery_code SET used_at = :now
                            WHERE enrolment = :enrolment AND code_hash = :hash AND used_at IS NULL""")
                    .setParameter("now", clock.instant())
                    .setParameter("enrolment", set)
                    .setParameter("hash", code.hash(keys.derived(KEY), set))
                    .executeUpdate();
            if (taken == 1) {
                Sql.change(database, "UPDATE enrolment SET last_used_at = :now WHERE id = :id")
                        .setParameter("now", clock.instant())
                        .setParameter("id", set)
                        .executeUpdate();
                return true;
            }
        }
        return false;
    }

    private static String context(UUID enrolment, UUID person) {
        return "app secret " + enrolment + " of " + person + " v1";
    }
}
