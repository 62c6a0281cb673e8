package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.AttemptStep;
import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Policy;
import dev.entente.core.policy.Requirement;
import dev.entente.core.policy.Terms;
import dev.entente.core.seal.EcKey;
import dev.entente.core.verify.Method;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.people.People;
import dev.entente.service.people.People.Person;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.platform.WhenDue;
import dev.entente.service.policy.Configurations;
import dev.entente.service.policy.Stops;
import jakarta.persistence.LockModeType;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** Attempts after their start: who holds them, what follows the proof, and how they end. */
@Component
public class Attempts {
    private static final Duration GO_ON_WINDOW = Duration.ofMinutes(10);
    private static final Duration LOST_START = Duration.ofMinutes(1);
    private static final int SEALINGS = 5;
    private static final int EXPIRED_AT_ONCE = 2000;

    private final Session database;
    private final Configurations configurations;
    private final People people;
    private final Admission admission;
    private final KnownPlaces places;
    private final References references;
    private final PersonNotices notices;
    private final AttemptCookies cookies;
    private final Stops stops;
    private final EventLog events;
    private final WakeUps wakeUps;
    private final ServiceSettings settings;
    private final InstantSource clock;

    Attempts(
            Session database,
            Configurations configurations,
            People people,
            Admission admission,
            KnownPlaces places,
            References references,
            PersonNotices notices,
            AttemptCookies cookies,
            Stops stops,
            EventLog events,
            WakeUps wakeUps,
            ServiceSettings settings,
            InstantSource clock) {
        this.database = database;
        this.configurations = configurations;
        this.people = people;
        this.admission = admission;
        this.places = places;
        this.references = references;
        this.notices = notices;
        this.cookies = cookies;
        this.stops = stops;
        this.events = events;
        this.wakeUps = wakeUps;
        this.settings = settings;
        this.clock = clock;
    }

    /**
     * An attempt as other features see it.
     *
     * @param person empty for a decoy
     * @param network the address that it was started from
     * @param browser keyed hash of what that browser is known by
     */
    public record Running(
            UUID id,
            Reference reference,
            Optional<UUID> person,
            String decoy,
            Action action,
            AttemptState state,
            int revision,
            String policy,
            EcKey key,
            int challenges,
            List<Method> proved,
            Optional<Requirement> required,
            String termsAccepted,
            String language,
            int sealings,
            String network,
            byte[] browser,
            Instant createdAt,
            Instant expiresAt,
            Instant endedAt) {}

    /** An attempt and the cookie that holds it from now on. */
    public record Held(Running attempt, String cookie) {}

    /** The attempt that a cookie holds. */
    @Transactional(readOnly = true)
    public Optional<Running> held(String cookie) {
        return row(cookie, LockModeType.NONE).map(Attempts::running);
    }

    /** The same, locked for what changes it in this transaction. */
    @Transactional(propagation = Propagation.MANDATORY)
    public Optional<Running> heldForChange(String cookie) {
        return row(cookie, LockModeType.PESSIMISTIC_WRITE).map(Attempts::running);
    }

    /** The person accepts the terms of the policy. */
    @Transactional
    public Running accept(String cookie, String terms) {
        var row = row(cookie, LockModeType.PESSIMISTIC_WRITE).orElseThrow(Attempts::gone);
        var wanted = terms(running(row))
                .orElseThrow(() -> Problem.conflict("no-terms", "There are no terms to accept here."));
        if (!wanted.name().equals(terms)) {
            throw Problem.invalid(
                    "other-terms", "These aren't the terms that were shown. Reload the page and read them again.");
        }
        row.termsAccepted = terms;
        events.write(NewEvent.of("terms.accepted", row.id, row.revision).with("terms", terms));
        return running(row);
    }

    /** The terms that the person has to accept before anything is done; empty if there are none, or they are accepted. */
    public Optional<Terms> terms(Running attempt) {
        if (attempt.state() != AttemptState.PROVED || attempt.policy() == null) {
            return Optional.empty();
        }
        return policy(attempt)
                .terms()
                .value()
                .filter(name -> !name.equals(attempt.termsAccepted()))
                .map(name -> configurations.revision(attempt.revision()).terms().get(name));
    }

    /** The person is done with what needs no delivery. */
    @Transactional
    public Running finish(String cookie) {
        var row = row(cookie, LockModeType.PESSIMISTIC_WRITE).orElseThrow(Attempts::gone);
        if (!row.action.equals(Action.DETAILS.label()) || row.state != AttemptState.PROVED) {
            throw Problem.conflict("nothing-to-finish", "There is nothing to finish here.");
        }
        row.take(AttemptStep.FINISH, clock.instant());
        events.write(NewEvent.of("attempt.concluded", row.id, row.revision)
                .with("state", row.state.name().toLowerCase(Locale.ROOT)));
        wakeUps.changed(row.id);
        return running(row);
    }

    /** Tells the person that what they are recognised by was changed. */
    @Transactional
    public void methodsChanged(Running attempt, String what) {
        notices.done(database.find(AttemptRow.class, attempt.id()), List.of(what));
    }

    /** Differs when where an attempt stands may be told otherwise; by attempt. */
    @Transactional(readOnly = true)
    public Map<UUID, String> stamps(Collection<UUID> ids) {
        // While a steward is waited for, how long it takes is told, too.
        return ids.isEmpty()
                ? Map.of()
                : database.createNativeQuery("""
                                SELECT id, concat_ws(' ', xmin, CASE WHEN state = 'delivering' THEN extract(epoch FROM now()) END)
                                FROM attempt WHERE id IN (:ids)""", Object[].class)
                        .setParameter("ids", ids)
                        .getResultStream()
                        .collect(Collectors.toMap(r -> (UUID) r[0], r -> (String) r[1]));
    }

    /** By its id. */
    @Transactional(readOnly = true)
    public Running get(UUID id) {
        return running(database.find(AttemptRow.class, id));
    }

    /** Several, locked in one order, so that two transactions that lock the same never wait in a circle. */
    @Transactional(propagation = Propagation.MANDATORY)
    public Map<UUID, Running> lock(Collection<UUID> ids) {
        return ids.isEmpty()
                ? Map.of()
                : database.createQuery("FROM AttemptRow WHERE id IN (:ids) ORDER BY id", AttemptRow.class)
                        .setParameter("ids", ids)
                        .setLockMode(LockModeType.PESSIMISTIC_WRITE)
                        .getResultStream()
                        .collect(Collectors.toMap(row -> row.id, Attempts::running));
    }

    /** The policy that decided about an attempt, as it was then. */
    public Policy policy(Running attempt) {
        return configurations.policy(attempt.revision(), attempt.policy());
    }

    /**
     * Sealed passwords are handed in: the attempt waits for their delivery.
     *
     * @return the attempt as it is then; its {@code sealings} numbers this round
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public Running seal(UUID id, Instant until) {
        var row = database.find(AttemptRow.class, id, LockModeType.PESSIMISTIC_WRITE);
        stops.check(Action.labelled(row.action).orElseThrow(), row.policy);
        if (row.sealings >= SEALINGS) {
            throw Problem.of(
                    HttpStatus.TOO_MANY_REQUESTS,
                    "too-many-passwords",
                    "Too many passwords were refused. Start again later, or contact the help desk: "
                            + settings.helpDesk() + ".");
        }
        if (terms(running(row)).isPresent()) {
            throw Problem.conflict("terms-not-accepted", "Accept the terms first.");
        }
        row.take(AttemptStep.SEAL, clock.instant());
        row.sealings++;
        row.expiresAt = until.isAfter(row.expiresAt) ? until : row.expiresAt;
        wakeUps.changed(id);
        return running(row);
    }

    /** Every delivery of a round has ended: concludes the attempt, or asks for another password. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void delivered(UUID id, Collection<AttemptStep.Ended> ended, List<String> doneIn) {
        var row = database.find(AttemptRow.class, id, LockModeType.PESSIMISTIC_WRITE);
        if (row.state != AttemptState.DELIVERING) {
            return;
        }
        var again = row.sealings < SEALINGS && clock.instant().isBefore(row.expiresAt);
        var step = AttemptStep.concluding(ended, again && !row.action.equals(Action.TEMPORARY.label()));
        if (step == AttemptStep.CHOOSE_AGAIN) {
            row.reopen(step, row.state.after(AttemptStep.concluding(ended, false)), clock.instant(), row.expiresAt);
            events.write(NewEvent.of("attempt.choose-again", id, row.revision));
        } else {
            row.take(step, clock.instant());
            events.write(NewEvent.of("attempt.concluded", id, row.revision)
                    .with("state", row.state.name().toLowerCase(Locale.ROOT)));
            if (!doneIn.isEmpty()) {
                done(row, doneIn);
            } else if (row.state != AttemptState.INCOMPLETE && !row.action.equals(Action.TEMPORARY.label())) {
                notices.failed(row, "no directory took it");
            }
        }
        wakeUps.changed(id);
    }

    private void done(AttemptRow row, List<String> doneIn) {
        notices.done(row, doneIn);
        var resets = row.action.equals(Action.RESET.label()) || row.action.equals(Action.CHANGE.label());
        if (row.state == AttemptState.COMPLETED && resets && row.device != null) {
            places.passwordSet(row.person, row.device);
        }
    }

    /** What was told as unknown is settled: the attempt is told anew if that changes how it ended. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void settled(UUID id, Collection<AttemptStep.Ended> ended, List<String> doneIn) {
        var row = database.find(AttemptRow.class, id, LockModeType.PESSIMISTIC_WRITE);
        if (row.state == AttemptState.INCOMPLETE) {
            var step = AttemptStep.concluding(ended, false);
            if (step == AttemptStep.ALL_DONE || step == AttemptStep.NONE_DONE_FAILED) {
                row.take(
                        step == AttemptStep.ALL_DONE ? AttemptStep.SETTLE_DONE : AttemptStep.SETTLE_FAILED,
                        clock.instant());
                events.write(NewEvent.of("attempt.concluded", id, row.revision)
                        .with("state", row.state.name().toLowerCase(Locale.ROOT)));
                if (step == AttemptStep.ALL_DONE) {
                    done(row, doneIn);
                }
            }
        }
        wakeUps.changed(id);
    }

    /**
     * Goes on with an attempt that ended a short while ago, without proving again: after an unlock to a new password, and
     * after a failure to another try.
     *
     * @throws Problem if it is too late, or nothing can follow
     */
    @Transactional
    public Running goOn(String cookie) {
        var row = row(cookie, LockModeType.PESSIMISTIC_WRITE).orElseThrow(Attempts::gone);
        var now = clock.instant();
        // Before anything that depends on the policy: only whoever proved something gets so far.
        if (row.endedAt == null
                || row.decoy != null
                || row.proved.isEmpty()
                || row.endedAt.plus(GO_ON_WINDOW).isBefore(now)
                || row.sealings >= SEALINGS) {
            throw Problem.conflict("too-late", "It's too late to go on with this attempt. Start again.");
        }
        stops.check(Action.labelled(row.action).orElseThrow(), row.policy);
        if (row.state == AttemptState.COMPLETED && row.action.equals(Action.UNLOCK.label())) {
            stops.check(Action.RESET, row.policy);
            var person = people.find(row.person).orElseThrow(Attempts::gone);
            var decision = configurations.decide(
                    person, Action.RESET, configurations.now(row.network, places.knownDevice(row.person, row.device)));
            var obstacle = admission.standsInTheWay(person, decision);
            if (!obstacle.isEmpty()) {
                throw Problem.conflict(
                        "only-unlocked", "You can't choose a new password here now. Your account is unlocked.");
            }
            row.action = Action.RESET.label();
            row.required = decision.required().orElseThrow().requirement();
            row.challenges = 0;
            // A reset may ask for more than the unlock did.
            var enough = row.required.metBy(row.provedMethods());
            row.reopen(enough ? AttemptStep.GO_ON : AttemptStep.PROVE_MORE, row.state, now, now.plus(GO_ON_WINDOW));
            events.write(NewEvent.of("attempt.went-on", row.id, row.revision));
        } else if (List.of(AttemptState.INCOMPLETE, AttemptState.REFUSED, AttemptState.FAILED)
                .contains(row.state)) {
            row.reopen(AttemptStep.TRY_AGAIN, row.state, now, now.plus(GO_ON_WINDOW));
            events.write(NewEvent.of("attempt.tried-again", row.id, row.revision));
        } else {
            throw Problem.conflict("nothing-follows", "This attempt can't be continued. Start again.");
        }
        wakeUps.changed(row.id);
        return running(row);
    }

    /** Whether the person could go on now: to a new password after an unlock, or to another try. */
    public boolean mayGoOn(Running attempt) {
        return attempt.endedAt() != null
                && attempt.endedAt().plus(GO_ON_WINDOW).isAfter(clock.instant())
                && attempt.sealings() < SEALINGS
                && (attempt.state() == AttemptState.COMPLETED
                        ? attempt.action() == Action.UNLOCK
                                && policy(attempt).allow().value().contains(Action.RESET)
                        : List.of(AttemptState.INCOMPLETE, AttemptState.REFUSED, AttemptState.FAILED)
                                .contains(attempt.state()));
    }

    /** An administrator sets a temporary password: an attempt that nobody proves, on the administrator's account. */
    @Transactional(propagation = Propagation.MANDATORY)
    public Running temporary(Person person, EcKey key, String administrator, String network) {
        var decision = configurations.decide(person, Action.RESET, configurations.now(network, null));
        var policy = decision.policy()
                .orElseThrow(() -> Problem.conflict(
                        "not-covered",
                        "No published policy covers " + person.name()
                                + ", so it isn't known where to write the password."));
        stops.check(Action.TEMPORARY, policy.name());
        var row = new AttemptRow();
        row.id = UUID.randomUUID();
        row.reference = references.free();
        row.person = person.id();
        row.action = Action.TEMPORARY.label();
        row.state = AttemptState.PROVED;
        row.revision = configurations.current().revision();
        row.policy = policy.name();
        row.key = key;
        cookies.renew(row);
        row.network = network;
        row.createdAt = clock.instant();
        row.expiresAt = row.createdAt.plus(settings.attemptLife());
        database.persist(row);
        database.flush();
        references.keep(row);
        events.write(NewEvent.of("temporary.started", row.id, row.revision)
                .withPersonal("administrator", administrator)
                .withPersonal("login", person.login()));
        return running(row);
    }

    /** Ends what nobody continued. */
    @WhenDue(
            "SELECT FROM attempt WHERE ended_at IS NULL AND expires_at < now() AND state IN ('identified', 'proving', 'proved')")
    @Transactional
    void expire() {
        // All that strangers began is ended by one statement; only what concerned a person is put on record one by one.
        for (var row : database.createNativeQuery("""
                        UPDATE attempt SET state = coalesce(told, :expired), ended_at = :now
                        WHERE id IN (SELECT id FROM attempt WHERE ended_at IS NULL AND expires_at < :now
                            AND state IN ('identified', 'proving', 'proved') LIMIT :most FOR UPDATE SKIP LOCKED)
                        RETURNING id, revision, state, quiet""", Object[].class)
                .setParameter(
                        "expired", AttemptState.IDENTIFIED.left(null).name().toLowerCase(Locale.ROOT))
                .setParameter("now", clock.instant())
                .setParameter("most", EXPIRED_AT_ONCE)
                .getResultList()) {
            if (!(Boolean) row[3]) {
                events.write(NewEvent.of("attempt.expired", (UUID) row[0], (Integer) row[1])
                        .with("state", (String) row[2]));
            }
            wakeUps.changed(row[0]);
        }
    }

    /** Whose it is, is known to nobody any more if the node ended that had read the name: its person starts again. */
    @WhenDue("SELECT FROM attempt WHERE NOT resolved AND created_at < now() - interval '1 minute'")
    @Transactional
    void forgetLostStarts() {
        database.createNativeMutationQuery(
                        "UPDATE attempt SET resolved = true WHERE NOT resolved AND created_at < :before")
                .setParameter("before", clock.instant().minus(LOST_START))
                .executeUpdate();
    }

    private Optional<AttemptRow> row(String cookie, LockModeType lock) {
        var hash = cookies.hash(cookie);
        return database.createQuery("FROM AttemptRow WHERE cookieHash = :hash", AttemptRow.class)
                .setParameter("hash", hash)
                .setLockMode(lock)
                .getResultStream()
                .findFirst();
    }

    static Problem gone() {
        return Problem.of(
                HttpStatus.GONE,
                "attempt-gone",
                "This attempt has ended, or was started in another browser. Start again.");
    }

    static Running running(AttemptRow row) {
        return new Running(
                row.id,
                new Reference(row.reference),
                row.decoy == null ? Optional.ofNullable(row.person) : Optional.empty(),
                row.decoy,
                Action.labelled(row.action).orElseThrow(),
                row.state,
                row.revision,
                row.policy,
                row.key,
                row.challenges,
                row.provedMethods(),
                Optional.ofNullable(row.required),
                row.termsAccepted,
                row.language,
                row.sealings,
                row.network,
                row.device,
                row.createdAt,
                row.expiresAt,
                row.endedAt);
    }
}
