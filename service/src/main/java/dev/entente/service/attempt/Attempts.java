package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.AttemptStep;
import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.Languages;
import dev.entente.core.policy.Occasion;
import dev.entente.core.policy.Policy;
import dev.entente.core.policy.Requirement;
import dev.entente.core.policy.Terms;
import dev.entente.core.seal.EcKey;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.notification.Notifications;
import dev.entente.service.people.People;
import dev.entente.service.people.People.Person;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.policy.Configurations;
import dev.entente.service.policy.Stops;
import dev.entente.wire.PortalApi;
import jakarta.persistence.LockModeType;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.http.HttpStatus;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Attempts up to the proof, and how they end.
 *
 * <p>A name that means nobody, somebody outside every policy, a disabled account or somebody without an address starts a
 * decoy: a real row that takes the same path through the same statements and can never be proved. What is typed as a name
 * is never stored: people type passwords there.
 */
@Component
public class Attempts {
    /** Challenges until one is answered, after which they count anew. */
    public static final int CHALLENGES = 3;

    /** How long a challenge can be answered whose method says nothing of it. */
    private static final Duration CHALLENGE_LIFE = Duration.ofMinutes(10);

    private static final Duration DEVICE_LIFE = Duration.ofDays(400);

    private static final Duration START_WINDOW = Duration.ofMinutes(15);
    private static final Duration GO_ON_WINDOW = Duration.ofMinutes(10);
    private static final int SEALINGS = 5;

    private final Session database;
    private final Configurations configurations;
    private final People people;
    private final Notifications notifications;
    private final Map<Method, Verifier> verifiers;
    private final Stops stops;
    private final EventLog events;
    private final Limits limits;
    private final KeyRing keys;
    private final WakeUps wakeUps;
    private final ServiceSettings settings;
    private final SecureRandom random;
    private final InstantSource clock;
    private final TransactionTemplate transaction;

    Attempts(
            Session database,
            Configurations configurations,
            People people,
            Notifications notifications,
            List<Verifier> verifiers,
            Stops stops,
            EventLog events,
            Limits limits,
            KeyRing keys,
            WakeUps wakeUps,
            ServiceSettings settings,
            SecureRandom random,
            InstantSource clock,
            TransactionTemplate transaction) {
        this.database = database;
        this.configurations = configurations;
        this.people = people;
        this.notifications = notifications;
        this.verifiers = verifiers.stream().collect(Collectors.toMap(Verifier::method, v -> v));
        this.stops = stops;
        this.events = events;
        this.limits = limits;
        this.keys = keys;
        this.wakeUps = wakeUps;
        this.settings = settings;
        this.random = random;
        this.clock = clock;
        this.transaction = transaction;
    }

    /**
     * An attempt as other features see it.
     *
     * @param person empty for a decoy
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
            Instant createdAt,
            Instant expiresAt,
            Instant endedAt) {}

    /** An attempt and the cookie that holds it from now on. */
    public record Held(Running attempt, String cookie) {}

    /** A challenge that waits for an answer. */
    public record Asked(UUID id, Method method, int triesLeft, Instant expiresAt) {}

    /** What people may do by themselves: whatever any policy allows, the same for every name. */
    public List<String> actions() {
        var actions = configurations.current().policies().stream()
                .flatMap(p -> p.allow().value().stream())
                .distinct()
                .sorted()
                .map(Action::label)
                .toList();
        return actions.isEmpty() ? List.of(Action.RESET.label()) : actions;
    }

    /** What is stopped for everybody, and until when if that is known. */
    public List<PortalApi.Paused> paused() {
        return actions().stream()
                .map(label -> Action.labelled(label).orElseThrow())
                .flatMap(action -> stops.stopped(action).stream()
                        .map(until -> new PortalApi.Paused(
                                action.label(), until.map(Instant::toEpochMilli).orElse(null))))
                .toList();
    }

    /**
     * The methods shown before the first proof: those that any policy lets come first for this action, that are not stopped
     * and whose channel works, the same for every name.
     */
    public List<Method> methods(Action action) {
        var methods = configurations.current().policies().stream()
                .map(p -> p.proof(action).value())
                .flatMap(r -> r.next(List.of()).stream())
                .distinct()
                .sorted()
                .toList();
        return usable(methods.isEmpty() ? List.of(Method.EMAIL_CODE) : methods);
    }

    /** Whether any action can be started with any method. */
    public boolean ready() {
        return actions().stream()
                .anyMatch(a -> !methods(Action.labelled(a).orElseThrow()).isEmpty());
    }

    private List<Method> usable(List<Method> methods) {
        var stopped = stops.inForce();
        var broken = configurations.now(null, null).broken();
        return methods.stream()
                .filter(m -> !broken.contains(m))
                .filter(m -> stopped.stream().noneMatch(s -> s.stops(m)))
                .toList();
    }

    /** The methods that can be chosen now; after the first proof those that bring this person nearer. */
    public List<Method> methods(Running attempt) {
        if (attempt.proved().isEmpty() || attempt.required().isEmpty()) {
            return methods(attempt.action());
        }
        var enrolled = attempt.person()
                .flatMap(people::find)
                .map(p -> people.facts(p).enrolled())
                .orElse(Set.of());
        return usable(attempt.required().get().next(attempt.proved())).stream()
                .filter(enrolled::contains)
                .toList();
    }

    /**
     * Starts an attempt for whoever a typed name means.
     *
     * @param device what the browser keeps to be known by
     * @param language what the browser wants to read, as it says it
     * @throws Problem 429 if the name as typed or the network started too many
     */
    public Held start(String name, Action action, EcKey key, String network, String device, String language) {
        var typed = name.strip().toLowerCase(Locale.ROOT);
        if (!limits.use("start network", network, settings.startsPerNetwork(), START_WINDOW)
                || !limits.use("start name", typed, settings.startsPerName(), START_WINDOW)) {
            throw Problem.of(
                    HttpStatus.TOO_MANY_REQUESTS,
                    "too-many-starts",
                    "This was started too often. Wait a quarter of an hour, or reach the help desk: "
                            + settings.helpDesk() + ".",
                    Map.of("retryAfter", START_WINDOW.toSeconds()));
        }
        stops.check(action);
        if (methods(action).isEmpty()) {
            throw Problem.of(
                    HttpStatus.SERVICE_UNAVAILABLE,
                    "no-method",
                    "No code can be sent right now. Try again in a few minutes, or reach the help desk: "
                            + settings.helpDesk() + ".",
                    Map.of("retryAfter", 60));
        }
        return transaction.execute(status -> start(
                people.byLogin(typed),
                action,
                key,
                network,
                keys.blind("device", device == null ? "" : device),
                Languages.wish(language)));
    }

    private Held start(
            Optional<Person> person, Action action, EcKey key, String network, byte[] device, String language) {
        var decision =
                person.map(p -> configurations.decide(p, action, configurations.now(network, known(p.id(), device))));
        var decoy = person.map(p -> standsInTheWay(p, decision.orElseThrow())).orElse("unknown-name");
        var row = new AttemptRow();
        row.id = UUID.randomUUID();
        row.reference = reference();
        // A decoy that means somebody keeps whom, so that the administrator can see why; it can never be proved.
        row.person = person.map(Person::id).orElse(null);
        row.decoy = decoy.isEmpty() ? null : decoy;
        row.action = action.label();
        row.state = AttemptState.IDENTIFIED;
        row.revision = configurations.current().revision();
        row.policy = decision.flatMap(d -> d.policy()).map(Policy::name).orElse(null);
        row.key = key;
        var cookie = newCookie(row);
        row.network = network;
        row.device = device;
        row.language = language;
        row.required = decoy.isEmpty()
                ? decision.flatMap(Decision::required).orElseThrow().requirement()
                : null;
        row.createdAt = clock.instant();
        row.expiresAt = row.createdAt.plus(settings.attemptLife());
        database.persist(row);
        database.flush();
        events.write(NewEvent.of("attempt.started", row.id, row.revision)
                .with("action", row.action)
                .with("policy", row.policy)
                .with("decoy", row.decoy)
                .withPersonal("login", person.map(Person::login).orElse(null))
                .withPersonal("network", network));
        return new Held(running(row), cookie);
    }

    /** A stable word for what makes this a decoy, empty if nothing does. */
    private String standsInTheWay(Person person, Decision decision) {
        // What is stopped for everybody was refused before; of a stopped policy its people learn after the proof.
        return decision.obstacles().stream()
                .map(Decision.Obstacle::code)
                .filter(code -> !code.equals("stopped"))
                .findFirst()
                .orElseGet(() ->
                        overLimit(person, decision.action(), decision.policy().orElseThrow()));
    }

    /** A stable word for the limit that is reached, empty if none is. Limits are silent: they tell nobody who exists. */
    private String overLimit(Person person, Action action, Policy policy) {
        var now = clock.instant();
        var tries = policy.tries().value();
        var wrong = database.createNativeQuery("""
                        SELECT coalesce(sum(c.tries), 0) - count(*) FILTER (WHERE c.answered) FROM challenge c
                        JOIN attempt a ON a.id = c.attempt WHERE a.person = :person AND c.created_at > :since""", Long.class)
                .setParameter("person", person.id())
                .setParameter("since", now.minus(tries.per()))
                .getSingleResult();
        if (wrong >= tries.count()) {
            return "tries-limit";
        }
        if (action != Action.RESET && action != Action.CHANGE) {
            return "";
        }
        var rate = policy.resets().value();
        if (resetsSince(person, now.minus(rate.per())) >= rate.count()) {
            return "reset-limit";
        }
        var pause = policy.pause().value();
        return !pause.isZero() && resetsSince(person, now.minus(pause)) > 0 ? "reset-wait" : "";
    }

    private long resetsSince(Person person, Instant since) {
        return database.createNativeQuery("""
                        SELECT count(*) FROM attempt WHERE person = :person AND state IN ('completed', 'incomplete')
                        AND action IN ('reset', 'change') AND ended_at > :since""", Long.class)
                .setParameter("person", person.id())
                .setParameter("since", since)
                .getSingleResult();
    }

    /**
     * Whether this person got a new password on this browser. An unlock does not count: it may have asked for less, and a
     * reset that follows must not be spared what it asks for on an unknown device.
     */
    private boolean known(UUID person, byte[] device) {
        return database.createNativeQuery("""
                        SELECT count(*) FROM attempt WHERE person = :person AND device = :device
                        AND state = 'completed' AND action IN ('reset', 'change') AND ended_at > :since""", Long.class)
                        .setParameter("person", person)
                        .setParameter("device", device)
                        .setParameter("since", clock.instant().minus(DEVICE_LIFE))
                        .getSingleResult()
                > 0;
    }

    /** The attempt that a cookie holds. */
    @Transactional(readOnly = true)
    public Optional<Running> held(String cookie) {
        return row(cookie, LockModeType.NONE).map(Attempts::running);
    }

    /** Begins a challenge, and queues its code if it has one. At most {@link #CHALLENGES} until one is answered. */
    @Transactional
    public Asked ask(String cookie, Method method) {
        var row = row(cookie, LockModeType.PESSIMISTIC_WRITE).orElseThrow(Attempts::gone);
        stops.check(Action.labelled(row.action).orElseThrow());
        if (row.state != AttemptState.IDENTIFIED && row.state != AttemptState.PROVING) {
            throw Problem.conflict("This attempt does not wait for a proof.");
        }
        if (!methods(running(row)).contains(method)) {
            throw Problem.invalid("This method is not offered.");
        }
        if (row.challenges >= CHALLENGES) {
            throw Problem.of(
                    HttpStatus.TOO_MANY_REQUESTS,
                    "too-many-codes",
                    "No more codes are sent for this attempt. Start again later, or reach the help desk: "
                            + settings.helpDesk() + ".");
        }
        row.challenges++;
        row.take(AttemptStep.ASK, clock.instant());
        var id = UUID.randomUUID();
        var begun = verifiers.get(method).begin(id);
        var set = configurations.revision(row.revision).methods().get(method);
        var expires = clock.instant().plus(set.life() == null ? CHALLENGE_LIFE : set.life());
        database.createNativeMutationQuery("""
                        INSERT INTO challenge (id, attempt, method, code_hash, max_tries, created_at, expires_at)
                        VALUES (:id, :attempt, :method, :hash, :tries, :now, :expires)""")
                .setParameter("id", id)
                .setParameter("attempt", row.id)
                .setParameter("method", method.label())
                .setParameter("hash", begun.kept())
                .setParameter("tries", set.tries())
                .setParameter("now", clock.instant())
                .setParameter("expires", expires)
                .executeUpdate();
        var counts = counts(row, method);
        events.write(NewEvent.of("challenge.sent", row.id, row.revision)
                .with("method", method.label())
                .with("decoy", !counts));
        begun.toSend().ifPresent(code -> {
            var person = Optional.ofNullable(row.person).flatMap(people::find);
            var to = counts ? person.flatMap(people::mail).orElse(null) : null;
            notifications.code(about(row, person, to), code, expires);
        });
        wakeUps.changed(row.id);
        return new Asked(id, method, set.tries(), expires);
    }

    /** Whether an answer by this method would count: for a decoy none does, nor one that the policy has no use for now. */
    private static boolean counts(AttemptRow row, Method method) {
        return row.decoy == null
                && row.required != null
                && row.required.next(row.provedMethods()).contains(method);
    }

    /**
     * Takes an answer. The try is consumed and committed before anything is compared, so that nothing gives it back.
     *
     * @throws Problem 422 if it is wrong, 410 if no try or time is left
     */
    public Held answer(String cookie, UUID challenge, String typed) {
        var id = transaction
                .execute(status ->
                        row(cookie, LockModeType.NONE).or(() -> rotated(cookie)).map(r -> r.id))
                .orElseThrow(Attempts::gone);
        var consumed = transaction.execute(status -> consume(id, challenge));
        if (consumed == null) {
            throw Problem.of(
                    HttpStatus.GONE,
                    "code-used-up",
                    "This code is used up or too old. Ask for a new one, or start again.");
        }
        var held = transaction.execute(status -> conclude(id, cookie, challenge, consumed, typed));
        if (held == null) {
            throw Problem.of(
                    HttpStatus.UNPROCESSABLE_CONTENT,
                    "code-wrong",
                    consumed.left() == 0
                            ? "This code was not right, and its tries are used up. Ask for a new one."
                            : "This code was not right. Look again and type all of it.",
                    Map.of("triesLeft", consumed.left()));
        }
        return held;
    }

    private record Consumed(Method method, byte[] kept, boolean answered, int left) {}

    private Consumed consume(UUID attempt, UUID challenge) {
        return database.createNativeQuery("""
                        UPDATE challenge SET tries = tries + 1 WHERE id = :id AND attempt = :attempt AND tries < max_tries
                        AND expires_at > :now RETURNING method, code_hash, answered, max_tries - tries""", Object[].class)
                .setParameter("id", challenge)
                .setParameter("attempt", attempt)
                .setParameter("now", clock.instant())
                .getResultStream()
                .map(r -> new Consumed(
                        Method.labelled((String) r[0]).orElseThrow(),
                        (byte[]) r[1],
                        (Boolean) r[2],
                        ((Number) r[3]).intValue()))
                .findFirst()
                .orElse(null);
    }

    /** @return null if the answer was wrong */
    private Held conclude(UUID id, String presented, UUID challenge, Consumed consumed, String typed) {
        var row = database.find(AttemptRow.class, id, LockModeType.PESSIMISTIC_WRITE);
        var answer = keys.blind("answer " + challenge, typed == null ? "" : typed.replaceAll("[\\s\\-]", ""));
        if (consumed.answered()) {
            // The answer that carried the new cookie got lost: the same again gets another one.
            if (row.decoy != null
                    || !MessageDigest.isEqual(answer, consumed.kept())
                    || (row.state != AttemptState.PROVING && row.state != AttemptState.PROVED)) {
                return wrong(row, consumed.left());
            }
            return proved(row, presented);
        }
        if (row.state != AttemptState.PROVING) {
            throw Problem.conflict("This attempt does not wait for a proof.");
        }
        var counts = counts(row, consumed.method());
        // Judged for everybody: what does not count takes the same path and fails.
        var right = verifiers
                .get(consumed.method())
                .judge(challenge, consumed.kept(), counts ? Optional.of(row.person) : Optional.empty(), typed);
        if (!right) {
            return wrong(row, consumed.left());
        }
        database.createNativeMutationQuery("UPDATE challenge SET answered = true, code_hash = :answer WHERE id = :id")
                .setParameter("answer", answer)
                .setParameter("id", challenge)
                .executeUpdate();
        var proved = new ArrayList<>(row.proved);
        proved.add(consumed.method().label());
        row.proved = List.copyOf(proved);
        row.challenges = 0;
        events.write(NewEvent.of("challenge.answered", id, row.revision)
                .with("method", consumed.method().label()));
        if (row.required.metBy(row.provedMethods())) {
            row.take(AttemptStep.PROVE, clock.instant());
            events.write(NewEvent.of("attempt.proved", id, row.revision));
        }
        return proved(row, presented);
    }

    private Held wrong(AttemptRow row, int triesLeft) {
        events.write(NewEvent.of("challenge.failed", row.id, row.revision).with("triesLeft", triesLeft));
        if (triesLeft == 0 && row.challenges >= CHALLENGES && row.state == AttemptState.PROVING) {
            row.take(AttemptStep.BLOCK, clock.instant());
            events.write(NewEvent.of("attempt.blocked", row.id, row.revision));
            if (row.decoy == null) {
                tellOfFailure(row, "all tries of the codes were used up");
            }
        }
        wakeUps.changed(row.id);
        return null;
    }

    private Held proved(AttemptRow row, String presented) {
        row.cookieBefore = keys.blind("attempt cookie", presented);
        var cookie = newCookie(row);
        wakeUps.changed(row.id);
        return new Held(running(row), cookie);
    }

    /** The person accepts the terms of the policy. */
    @Transactional
    public Running accept(String cookie, String terms) {
        var row = row(cookie, LockModeType.PESSIMISTIC_WRITE).orElseThrow(Attempts::gone);
        var wanted = terms(running(row)).orElseThrow(() -> Problem.conflict("There are no terms to accept here."));
        if (!wanted.name().equals(terms)) {
            throw Problem.invalid("These are not the terms that were shown.");
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
            throw Problem.conflict("There is nothing to finish here.");
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
        tell(database.find(AttemptRow.class, attempt.id()), List.of(what));
    }

    /** The challenge that waits for an answer, if there is one with tries and time left. */
    @Transactional(readOnly = true)
    public Optional<Asked> open(UUID attempt) {
        return database.createNativeQuery("""
                        SELECT id, method, max_tries - tries, expires_at FROM challenge
                        WHERE NOT answered AND id = (SELECT id FROM challenge WHERE attempt = :attempt
                            ORDER BY created_at DESC LIMIT 1)""", Object[].class)
                .setParameter("attempt", attempt)
                .getResultStream()
                .map(r -> new Asked(
                        (UUID) r[0], Method.labelled((String) r[1]).orElseThrow(), ((Number) r[2]).intValue(), (Instant)
                                r[3]))
                .findFirst();
    }

    /** By its id. */
    @Transactional(readOnly = true)
    public Running get(UUID id) {
        return running(database.find(AttemptRow.class, id));
    }

    /** Several by their ids. */
    @Transactional(readOnly = true)
    public Map<UUID, Running> all(Collection<UUID> ids) {
        return byId(ids, LockModeType.NONE);
    }

    /** Several, locked in one order, so that two transactions that lock the same never wait in a circle. */
    @Transactional(propagation = Propagation.MANDATORY)
    public Map<UUID, Running> lock(Collection<UUID> ids) {
        return byId(ids, LockModeType.PESSIMISTIC_WRITE);
    }

    private Map<UUID, Running> byId(Collection<UUID> ids, LockModeType lock) {
        return ids.isEmpty()
                ? Map.of()
                : database.createQuery("FROM AttemptRow WHERE id IN (:ids) ORDER BY id", AttemptRow.class)
                        .setParameter("ids", ids)
                        .setLockMode(lock)
                        .getResultStream()
                        .collect(Collectors.toMap(row -> row.id, Attempts::running));
    }

    /** The policy that decided about an attempt, as it was then. */
    public Policy policy(Running attempt) {
        return configurations.revision(attempt.revision()).policies().stream()
                .filter(p -> p.name().equals(attempt.policy()))
                .findFirst()
                .orElseThrow();
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
                    "Too many passwords were refused. Start again later, or reach the help desk: " + settings.helpDesk()
                            + ".");
        }
        if (terms(running(row)).isPresent()) {
            throw Problem.conflict("Accept the terms first.");
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
                tell(row, doneIn);
            } else if (row.state != AttemptState.INCOMPLETE && !row.action.equals(Action.TEMPORARY.label())) {
                tellOfFailure(row, "no directory took it");
            }
        }
        wakeUps.changed(id);
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
                    tell(row, doneIn);
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
        stops.check(Action.labelled(row.action).orElseThrow(), row.policy);
        var now = clock.instant();
        if (row.endedAt == null || row.endedAt.plus(GO_ON_WINDOW).isBefore(now) || row.sealings >= SEALINGS) {
            throw Problem.conflict("It is too late to go on with this attempt. Start again.");
        }
        if (row.state == AttemptState.COMPLETED && row.action.equals(Action.UNLOCK.label())) {
            stops.check(Action.RESET, row.policy);
            var person = people.find(row.person).orElseThrow(Attempts::gone);
            var decision = configurations.decide(
                    person,
                    Action.RESET,
                    configurations.now(row.network, row.device != null && known(row.person, row.device)));
            var obstacle = standsInTheWay(person, decision);
            if (!obstacle.isEmpty()) {
                throw Problem.conflict("A new password cannot be chosen here now. Your account is unlocked.");
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
            throw Problem.conflict("Nothing can follow here. Start again.");
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
                        "No published policy covers " + person.name() + ", so nothing says where it would go."));
        stops.check(Action.TEMPORARY, policy.name());
        var row = new AttemptRow();
        row.id = UUID.randomUUID();
        row.reference = reference();
        row.person = person.id();
        row.action = Action.TEMPORARY.label();
        row.state = AttemptState.PROVED;
        row.revision = configurations.current().revision();
        row.policy = policy.name();
        row.key = key;
        newCookie(row);
        row.network = network;
        row.createdAt = clock.instant();
        row.expiresAt = row.createdAt.plus(settings.attemptLife());
        database.persist(row);
        database.flush();
        events.write(NewEvent.of("temporary.started", row.id, row.revision)
                .withPersonal("administrator", administrator)
                .withPersonal("login", person.login()));
        return running(row);
    }

    private void tell(AttemptRow row, List<String> doneIn) {
        var action = Action.labelled(row.action).orElseThrow();
        var policy = policy(running(row));
        var person = people.find(row.person);
        var to = person.flatMap(people::mail);
        var tells =
                Occasion.of(action).map(policy.tellPerson().value()::contains).orElse(true);
        if (tells && to.isPresent()) {
            notifications.done(about(row, person, to.get()), action, doneIn);
        }
        if (policy.tellAdministrators().value()
                && action.setsPassword()
                && person.map(p -> !Boolean.FALSE.equals(people.facts(p).privileged()))
                        .orElse(true)) {
            notifications.privileged(about(row, person, null), doneIn);
        }
    }

    private void tellOfFailure(AttemptRow row, String why) {
        if (!policy(running(row)).tellPerson().value().contains(Occasion.FAILURE)) {
            return;
        }
        var person = people.find(row.person);
        person.flatMap(people::mail).ifPresent(to -> notifications.failed(about(row, person, to), why));
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

    /** Ends what nobody continued. */
    @Scheduled(fixedDelay = 5000)
    @Transactional
    void expire() {
        var rows = database.createQuery(
                        "FROM AttemptRow WHERE endedAt IS NULL AND expiresAt < :now AND state IN (:open)",
                        AttemptRow.class)
                .setParameter("now", clock.instant())
                .setParameter("open", List.of(AttemptState.IDENTIFIED, AttemptState.PROVING, AttemptState.PROVED))
                .setMaxResults(200)
                .setLockMode(LockModeType.PESSIMISTIC_WRITE)
                .setHint("jakarta.persistence.lock.timeout", -2)
                .getResultList();
        for (var row : rows) {
            row.state = row.state.left(row.told);
            row.endedAt = clock.instant();
            events.write(NewEvent.of("attempt.expired", row.id, row.revision)
                    .with("state", row.state.name().toLowerCase(Locale.ROOT)));
            wakeUps.changed(row.id);
        }
    }

    private Optional<AttemptRow> row(String cookie, LockModeType lock) {
        var hash = keys.blind("attempt cookie", cookie == null ? "" : cookie);
        return database.createQuery("FROM AttemptRow WHERE cookieHash = :hash", AttemptRow.class)
                .setParameter("hash", hash)
                .setLockMode(lock)
                .getResultStream()
                .findFirst();
    }

    private Optional<AttemptRow> rotated(String cookie) {
        return database.createQuery("FROM AttemptRow WHERE cookieBefore = :hash AND state IN (:open)", AttemptRow.class)
                .setParameter("hash", keys.blind("attempt cookie", cookie == null ? "" : cookie))
                .setParameter("open", List.of(AttemptState.PROVING, AttemptState.PROVED))
                .getResultStream()
                .findFirst();
    }

    private String newCookie(AttemptRow row) {
        var cookie = Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(32));
        row.cookieHash = keys.blind("attempt cookie", cookie);
        return cookie;
    }

    private String reference() {
        for (var round = 0; round < 20; round++) {
            var reference = Reference.random(random).digits();
            var taken = database.createQuery("SELECT count(*) FROM AttemptRow WHERE reference = :r", Long.class)
                    .setParameter("r", reference)
                    .getSingleResult();
            if (taken == 0) {
                return reference;
            }
        }
        throw new IllegalStateException("no free reference found");
    }

    private static Problem gone() {
        return Problem.of(
                HttpStatus.GONE, "attempt-gone", "This attempt is over or was started elsewhere. Start again.");
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
                row.createdAt,
                row.expiresAt,
                row.endedAt);
    }
}
