package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.AttemptStep;
import dev.entente.core.guess.Budget;
import dev.entente.core.guess.Charge;
import dev.entente.core.guess.Familiarity;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Policy;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Page;
import dev.entente.core.verify.Verifier;
import dev.entente.service.attempt.Attempts.Holding;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.people.Addresses;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.policy.Configurations;
import dev.entente.service.policy.Stops;
import dev.entente.service.verify.Enrolments;
import dev.entente.service.verify.Methods;
import jakarta.persistence.LockModeType;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Consumer;
import java.util.function.Predicate;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionStatus;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * Challenges inside attempts: asked, sent, answered. What depends on whose attempt it is happens behind the answer that a
 * challenge was asked; an answer is judged for everybody, and what does not count takes the same path and fails.
 */
@Component
public class Challenges {
    /** Challenges until one is answered, after which they count anew. */
    public static final int MOST = 3;

    private static final JsonMapper JSON = JsonMapper.shared();

    /** How long a challenge can be answered whose method says nothing of it. */
    private static final Duration LIFE = Duration.ofMinutes(10);

    /** How many digits of a number a person types before something is sent to it. */
    private static final int END = 4;

    private static final Duration STANDING = Duration.ofMinutes(70);
    /** When so many answers were wrong in a day in somebody's name from unknown places, they are told. */
    private static final int MANY_WRONG = 10;
    /** No answer is taken sooner after the start. Milliseconds. */
    private static final long RESOLVED_STEP = 500;

    private static final int RESOLVED_STEPS = 10;

    private final Session database;
    private final Configurations configurations;
    private final People people;
    private final Addresses addresses;
    private final Offering offering;
    private final Admission admission;
    private final KnownPlaces places;
    private final StartGate gate;
    private final AttemptProofs proofs;
    private final Guesses guesses;
    private final StandingCodes standing;
    private final Pressure pressure;
    private final PersonNotices notices;
    private final Methods methods;
    private final Stops stops;
    private final Limits limits;
    private final AttemptCookies cookies;
    private final BehindAnswers behind;
    private final EventLog events;
    private final KeyRing keys;
    private final WakeUps wakeUps;
    private final ServiceSettings settings;
    private final InstantSource clock;
    private final TransactionTemplate transaction;
    private final ClosedPeople closed;

    Challenges(
            Session database,
            Configurations configurations,
            People people,
            Addresses addresses,
            Offering offering,
            Admission admission,
            KnownPlaces places,
            StartGate gate,
            AttemptProofs proofs,
            Guesses guesses,
            StandingCodes standing,
            Pressure pressure,
            PersonNotices notices,
            Methods methods,
            Stops stops,
            Limits limits,
            AttemptCookies cookies,
            BehindAnswers behind,
            EventLog events,
            KeyRing keys,
            WakeUps wakeUps,
            ServiceSettings settings,
            InstantSource clock,
            TransactionTemplate transaction,
            ClosedPeople closed) {
        this.closed = closed;
        this.database = database;
        this.configurations = configurations;
        this.people = people;
        this.addresses = addresses;
        this.offering = offering;
        this.admission = admission;
        this.places = places;
        this.gate = gate;
        this.proofs = proofs;
        this.guesses = guesses;
        this.standing = standing;
        this.pressure = pressure;
        this.notices = notices;
        this.methods = methods;
        this.stops = stops;
        this.limits = limits;
        this.cookies = cookies;
        this.behind = behind;
        this.events = events;
        this.keys = keys;
        this.wakeUps = wakeUps;
        this.settings = settings;
        this.clock = clock;
        this.transaction = transaction;
    }

    /**
     * A challenge that waits for an answer.
     *
     * @param shown what the browser needs to answer it, as {@link Verifier.Shown}
     */
    public record Asked(UUID id, Method method, int triesLeft, Instant expiresAt, Map<String, String> shown) {}

    /** The challenge that waits for an answer, if there is one with tries and time left. */
    @Transactional(readOnly = true)
    public Optional<Asked> open(UUID attempt) {
        return Sql.rows(database, """
                        SELECT id, method, max_tries - tries AS tries_left, expires_at, cast(shown AS text) AS shown
                        FROM challenge
                        WHERE NOT answered AND id = (SELECT id FROM challenge WHERE attempt = :attempt
                            ORDER BY created_at DESC LIMIT 1)""", Open.class)
                .setParameter("attempt", attempt)
                .getResultStream()
                .map(row -> new Asked(
                        row.id(), Method.of(row.method()), row.triesLeft(), row.expiresAt(), read(row.shown())))
                .findFirst();
    }

    private record Open(UUID id, String method, int triesLeft, Instant expiresAt, String shown) {}

    private static Map<String, String> read(String shown) {
        return JSON.readValue(shown, new TypeReference<>() {});
    }

    /**
     * Begins a challenge; its code, if it has one, is sent behind the answer. At most {@link #MOST} until one is answered.
     *
     * @param to where it goes
     * @param signed throws unless the call comes from the page that began the attempt
     */
    @Transactional
    public Now ask(String cookie, Method method, To to, Coming coming, Consumer<Attempts.Attempt> signed) {
        var end = to.end();
        if (method.costs() && (end == null || !end.matches("[0-9]{" + END + "}"))) {
            throw Problem.of("number-end-missing").with("end", END);
        }
        behind.checkRoom();
        var row = cookies.row(cookie, LockModeType.PESSIMISTIC_WRITE).orElseThrow(Attempts::gone);
        signed.accept(Attempts.running(row));
        if (to.address() != null
                && offering.chosen(Attempts.running(row), person(row), method, to.address())
                        .isEmpty()) {
            throw Problem.of("address-unknown");
        }
        var asked = insert(row, method);
        behind.run(() -> send(asked, to, coming, 0));
        return new Now(
                Attempts.running(row),
                new Asked(asked.challenge(), method, asked.tries(), asked.expires(), asked.shown()));
    }

    /**
     * Where something is sent, as far as the person says it.
     *
     * @param end the last digits of the number, for what goes to a telephone; whether they are right is not told
     * @param address one of the {@link Offering#addresses}; null for the first
     */
    public record To(String end, String address) {
        /** Where the directories say that the person is reached. */
        public static final To FIRST = new To(null, null);
    }

    /** An attempt with the challenge that was asked just now. */
    public record Now(Attempts.Attempt attempt, Asked asked) {}

    private record Begun(
            UUID attempt,
            UUID challenge,
            Method method,
            int tries,
            Instant expires,
            byte[] kept,
            Map<String, String> shown) {}

    private Begun insert(AttemptRow row, Method method) {
        stops.check(Action.labelled(row.action).orElseThrow());
        if (row.state != AttemptState.IDENTIFIED && row.state != AttemptState.PROVING) {
            throw Problem.of("no-proof-wanted");
        }
        if (!offering.methods(Attempts.running(row)).contains(method)) {
            throw Problem.of("method-not-offered");
        }
        if (row.challenges >= MOST) {
            throw Problem.of("too-many-codes").with("helpDesk", settings.helpDesk());
        }
        row.challenges++;
        row.take(AttemptStep.ASK, clock.instant());
        var id = UUID.randomUUID();
        var set = configurations.revision(row.revision).methods().get(method);
        var expires = clock.instant().plus(set.life() == null ? LIFE : set.life());
        var shown = methods.verifier(method)
                .show(id, page(row), row.provedMethods().isEmpty() ? Optional.empty() : Optional.of(row.person));
        Sql.change(database, """
                        INSERT INTO challenge (id, attempt, method, max_tries, created_at, expires_at, code_hash, shown)
                        VALUES (:id, :attempt, :method, :tries, :now, :expires, cast(:kept AS bytea), cast(:shown AS jsonb))""")
                .setParameter("id", id)
                .setParameter("attempt", row.id)
                .setParameter("method", method.label())
                .setParameter("tries", set.tries())
                .setParameter("now", clock.instant())
                .setParameter("expires", expires)
                .setParameter("kept", shown.kept())
                .setParameter("shown", JSON.writeValueAsString(shown.parts()))
                .executeUpdate();
        wakeUps.changed(row.id);
        return new Begun(row.id, id, method, set.tries(), expires, shown.kept(), shown.parts());
    }

    /** How a code reaches the person. */
    private enum Way {
        /** Nothing is sent: the person has what is needed, or nobody is to be asked. */
        NOT_SENT,
        /** Somebody or something else is asked. */
        RUNG,
        SHORT,
        BEYOND_GUESSING,
        /** The last one of the hour, good for the whole of it. */
        FOR_THE_HOUR,
        /** Enough was sent; the one for the hour is good. */
        WITHHELD
    }

    private void send(Begun begun, To where, Coming coming, int waited) {
        var to = transaction.execute(status -> recipient(begun, where.end(), coming, status));
        if (to == null) {
            return;
        }
        if (!to.row().resolved) {
            // Whose it is, is looked up on another thread or another node.
            if (waited < 200) {
                behind.later(() -> send(begun, where, coming, waited + 1));
            }
            return;
        }
        var verifier = methods.verifier(begun.method());
        var way = !to.counts() ? Way.NOT_SENT : way(to, begun, verifier, coming);
        transaction.executeWithoutResult(status -> send(begun, verifier, way, to, where, coming));
        if (way == Way.WITHHELD) {
            pressure.count(Pressure.Kind.WITHHELD, coming.network(), to.row().person);
        }
    }

    /**
     * To whom a challenge goes.
     *
     * @param counts whether an answer to it would count
     * @param whose whose tries it takes; null if it does not count
     * @param code what came of taking one code for it; null if nobody is disturbed
     */
    private record Recipient(
            AttemptRow row, boolean counts, Familiarity from, Guesses.Whose whose, Limits.Charged code) {}

    private Recipient recipient(Begun begun, String end, Coming coming, TransactionStatus status) {
        var row = database.find(AttemptRow.class, begun.attempt());
        if (row == null) {
            return null;
        }
        if (!row.resolved || !counts(row, begun.method()) || !meant(row, begun.method(), end)) {
            return new Recipient(row, false, Familiarity.NONE, null, null);
        }
        var visit = places.visit(row.person, coming);
        var from = visit.familiarity();
        var whose = Guesses.Whose.of(row.person, visit.era());
        var code = methods.verifier(begun.method()).disturbs()
                ? limits.chargeHere(guesses.codes(
                        whose,
                        begun.method(),
                        from,
                        coming.network(),
                        row.proved.isEmpty() ? Optional.empty() : Optional.of(row.id)))
                : null;
        if (code != null && !code.taken()) {
            // Nothing else was changed.
            status.setRollbackOnly();
        }
        return new Recipient(row, true, from, whose, code);
    }

    /** Whether the person showed that they know which telephone it is. */
    private boolean meant(AttemptRow row, Method method, String end) {
        if (!method.costs()) {
            return true;
        }
        var number = people.find(row.person)
                .flatMap(p -> addresses.of(p, method.facts().by(), true))
                .map(n -> n.replaceAll(";.*", ""))
                .orElse("");
        return number.length() > END
                && MessageDigest.isEqual(
                        number.substring(number.length() - END).getBytes(StandardCharsets.US_ASCII),
                        end.getBytes(StandardCharsets.US_ASCII));
    }

    private Way way(Recipient to, Begun begun, Verifier verifier, Coming coming) {
        if (to.code() == null) {
            return verifier.rings() ? Way.RUNG : Way.NOT_SENT;
        }
        if (!to.code().taken()) {
            return Way.WITHHELD;
        }
        if (begun.method().costs()
                && !limits.charge(guesses.telephone(to.row().person, begun.method(), to.from()))
                        .taken()) {
            return Way.WITHHELD;
        }
        if (verifier.rings()) {
            return Way.RUNG;
        }
        if (to.code().last()) {
            return Way.FOR_THE_HOUR;
        }
        // Paid for with all its tries, so that no answer to it is ever turned away; from what this method has alone.
        var one = Guesses.tryOf(
                to.whose(),
                begun.method(),
                verifier.space(Verifier.Asked.imagined(to.from()), Answer.typed("")),
                to.from(),
                coming.network(),
                policy(to.row()));
        return limits.reached(Budget.shared(one, 1)).isEmpty()
                        && limits.charge(Budget.own(one, begun.tries())).taken()
                ? Way.SHORT
                : Way.BEYOND_GUESSING;
    }

    private void send(Begun begun, Verifier verifier, Way way, Recipient to, To where, Coming coming) {
        var row = database.find(AttemptRow.class, begun.attempt(), LockModeType.PESSIMISTIC_WRITE);
        if (!row.quiet) {
            events.write(
                    NewEvent.of(way == Way.WITHHELD ? "challenge.withheld" : "challenge.sent", row.id, row.revision)
                            .with("method", begun.method().label())
                            .with("decoy", !to.counts())
                            .with("from", to.from().label()));
        }
        if (way == Way.NOT_SENT || way == Way.WITHHELD) {
            return;
        }
        // A known browser asks for itself; what comes from one unknown network waits in one line.
        var origin = to.from() == Familiarity.BROWSER ? null : keys.blind("origin of messages", coming.network());
        if (way == Way.RUNG) {
            verifier.ring(new Verifier.Ring(
                            begun.challenge(),
                            row.id,
                            row.person,
                            begun.kept(),
                            row.key.thumbprint(),
                            row.action,
                            coming.network(),
                            row.policy,
                            row.revision,
                            begun.expires()))
                    .ifPresent(token -> {
                        if (begun.method().sent()) {
                            var person = person(row);
                            notices.link(
                                    row, person, address(row, person, begun, where), token, begun.expires(), origin);
                        } else {
                            notices.manager(row, token, begun.expires(), origin);
                        }
                    });
            return;
        }
        var made = verifier.send(begun.challenge(), way != Way.SHORT);
        var code = way == Way.FOR_THE_HOUR
                ? standing.make(row.person, begun.method(), clock.instant().plus(STANDING))
                : made.code();
        Sql.change(database, """
                        UPDATE challenge SET code_hash = :hash, beyond_guessing = :beyond, prepaid = true
                        WHERE id = :id""")
                .setParameter("hash", made.kept())
                .setParameter("beyond", way != Way.SHORT)
                .setParameter("id", begun.challenge())
                .executeUpdate();
        var person = person(row);
        notices.code(
                row,
                person,
                begun.method().facts().by(),
                address(row, person, begun, where),
                code,
                way == Way.FOR_THE_HOUR ? clock.instant().plus(STANDING) : begun.expires(),
                origin,
                way == Way.FOR_THE_HOUR);
    }

    private Optional<String> address(AttemptRow row, Optional<Person> person, Begun begun, To where) {
        return offering.chosen(Attempts.running(row), person, begun.method(), where.address());
    }

    private Optional<Person> person(AttemptRow row) {
        return Attempts.running(row).person().flatMap(people::find);
    }

    /** Whether an answer by this method would count: for a decoy none does, nor one that there is no use for now. */
    private boolean counts(AttemptRow row, Method method) {
        return row.decoy == null
                && row.required != null
                && next(row, row.provedMethods()).contains(method);
    }

    private List<Method> next(AttemptRow row, List<Method> proved) {
        return offering.next(
                row.id, row.person, policy(row), Action.labelled(row.action).orElseThrow(), row.required, proved);
    }

    /**
     * Takes an answer. The try is consumed and committed before anything is compared, so that nothing gives it back.
     *
     * <p>If the answer to a right one got lost, the same call gets another cookie when the attempt's key has signed it.
     *
     * @param signed throws unless the call comes from the page that began the attempt
     * @param once whether the attempt's key signed the call, for the first time
     * @return empty if the answer comes from elsewhere and is not there yet, which uses nothing up
     * @throws Problem 422 if it is wrong, 410 if no try or time is left
     */
    public Optional<Holding> answer(
            String cookie,
            UUID challenge,
            Answer answer,
            Coming coming,
            Consumer<Attempts.Attempt> signed,
            Predicate<Attempts.Attempt> once) {
        if (answer.isEmpty() && Boolean.TRUE.equals(transaction.execute(status -> waits(cookie, challenge, signed)))) {
            return Optional.empty();
        }
        untilResolved(cookie);
        var tried = transaction.execute(status -> attempt(cookie, challenge, coming, signed));
        if (tried == null) {
            return Optional.of(
                    transaction.execute(status -> again(cookie, once)).orElseThrow(Attempts::gone));
        }
        var row = tried.row();
        var consumed = tried.consumed();
        if (consumed == null) {
            throw Problem.of("code-used-up");
        }
        var counts = counts(row, consumed.method());
        var from = tried.from();
        var verifier = methods.verifier(consumed.method());
        var asked = new Verifier.Asked(
                challenge, page(row), consumed.kept(), consumed.beyondGuessing(), from, coming.browser());
        // Tries on decoys take the same path, from a person and a network that there is not: they count against nobody.
        var one = Guesses.tryOf(
                tried.whose(),
                consumed.method(),
                verifier.space(asked, answer),
                from,
                counts ? coming.network() : "decoy " + row.id,
                counts ? policy(row) : null);
        var charges = Budget.charges(one, 1);
        var charged = limits.charge(consumed.prepaid() ? List.of() : charges);
        var outcome = transaction.execute(status -> conclude(tried, asked, charged.taken(), answer, coming));
        if (outcome.held() != null) {
            if (!consumed.prepaid()) {
                limits.giveBack(charges.stream().filter(c -> c.window() != null).toList());
            }
            return Optional.of(outcome.held());
        }
        behind.run(() -> {
            if (consumed.prepaid()) {
                // Its own tries were paid for; that it was wrong is counted where methods have one limit together.
                Budget.shared(one, 1).forEach(charge -> limits.charge(List.of(charge)));
            }
            wrong(row.id, consumed, counts, outcome.blocked(), from, charged, coming);
        });
        throw Problem.of("code-wrong/attempt")
                .with("says", verifier.wrong(consumed.left()))
                .with("triesLeft", consumed.left());
    }

    /**
     * Whose an attempt is, is looked up behind its start. What a program answers at once, as with a passkey, would be wrong until then:
     * it waits, by whole steps from the start, so that no name's takes longer than another's.
     *
     * @throws Problem 503 if that takes too long; no try is used up
     */
    private void untilResolved(String cookie) {
        for (var steps = 0; steps <= RESOLVED_STEPS; steps++) {
            var row = transaction.execute(
                    status -> cookies.row(cookie, LockModeType.NONE).orElse(null));
            var age = row == null
                    ? 0
                    : Duration.between(row.createdAt, clock.instant()).toMillis();
            if (row == null || row.resolved && age >= RESOLVED_STEP) {
                return;
            }
            pause(Math.max(1, RESOLVED_STEP - Math.max(0, age) % RESOLVED_STEP));
        }
        throw behind.busy();
    }

    private void pause(long millis) {
        try {
            Thread.sleep(millis);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw behind.busy();
        }
    }

    private record OnItsWay(String method, byte[] codeHash) {}

    private boolean waits(String cookie, UUID challenge, Consumer<Attempts.Attempt> signed) {
        var row = cookies.row(cookie, LockModeType.NONE).orElse(null);
        if (row != null) {
            signed.accept(Attempts.running(row));
        }
        return row != null
                && Sql.rows(database, """
                                SELECT method, code_hash FROM challenge WHERE id = :id AND attempt = :attempt AND NOT answered
                                AND expires_at > :now""", OnItsWay.class)
                        .setParameter("id", challenge)
                        .setParameter("attempt", row.id)
                        .setParameter("now", clock.instant())
                        .getResultStream()
                        .anyMatch(c -> methods.verifier(Method.of(c.method()))
                                .waits(new Verifier.Asked(
                                        challenge, page(row), c.codeHash(), false, Familiarity.NONE)));
    }

    /** Somebody denied it on a device of theirs: they and the administrators are told, and it goes on record. */
    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void denied(Enrolments.DeniedElsewhere denied) {
        var attempt = Sql.values(database, "SELECT attempt FROM challenge WHERE id = :id", UUID.class)
                .setParameter("id", denied.challenge())
                .getResultStream()
                .findFirst();
        var row = attempt.map(id -> database.find(AttemptRow.class, id)).orElse(null);
        if (row == null) {
            return;
        }
        events.write(NewEvent.of("challenge.denied", row.id, row.revision).with("why", denied.why()));
        if (guesses.timeToTell(denied.person())) {
            notices.strangers(row, "a request for your approval was " + denied.why());
        }
    }

    /** It may have been answered by a copy of what the person has: on record with whose it is, where the attempt is. */
    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void copied(Enrolments.Copied copied) {
        Sql.values(database, "SELECT attempt FROM challenge WHERE id = :id", UUID.class)
                .setParameter("id", copied.challenge())
                .getResultStream()
                .map(id -> database.find(AttemptRow.class, id))
                .forEach(row -> events.write(NewEvent.of("passkey.cloned", row.id, row.revision)
                        .with("person", copied.person().toString())
                        .with("method", copied.method().label())
                        .withPersonal("name", notices.name(row))
                        .withPersonal("label", copied.label())));
    }

    /**
     * What came of an answer.
     *
     * @param held null if it was wrong
     * @param blocked whether the attempt has ended by it
     */
    private record Outcome(Holding held, boolean blocked) {}

    private record Consumed(Method method, byte[] kept, int left, boolean beyondGuessing, boolean prepaid) {}

    /**
     * A try that was consumed.
     *
     * @param consumed null if there was none left
     * @param whose whose it was: the person's if it counts, and nobody's otherwise
     */
    private record Tried(AttemptRow row, Consumed consumed, Familiarity from, Guesses.Whose whose) {}

    private Tried attempt(String cookie, UUID challenge, Coming coming, Consumer<Attempts.Attempt> signed) {
        var row = cookies.row(cookie, LockModeType.NONE).orElse(null);
        if (row == null) {
            return null;
        }
        signed.accept(Attempts.running(row));
        if (row.state == AttemptState.PROVED) {
            throw Problem.of("no-proof-wanted");
        }
        var consumed = consume(row.id, challenge);
        if (consumed == null) {
            return new Tried(row, null, Familiarity.NONE, null);
        }
        var visit = places.visit(row.person == null ? row.id : row.person, coming);
        return new Tried(
                row,
                consumed,
                visit.familiarity(),
                counts(row, consumed.method())
                        ? Guesses.Whose.of(row.person, visit.era())
                        : Guesses.Whose.of(row.id, 0));
    }

    private Consumed consume(UUID attempt, UUID challenge) {
        return Sql.rows(database, """
                        UPDATE challenge SET tries = tries + 1 WHERE id = :id AND attempt = :attempt AND tries < max_tries
                        AND NOT answered AND expires_at > :now
                        RETURNING method, code_hash, max_tries - tries AS tries_left, beyond_guessing, prepaid""", Tries.class)
                .setParameter("id", challenge)
                .setParameter("attempt", attempt)
                .setParameter("now", clock.instant())
                .getResultStream()
                .map(row -> new Consumed(
                        Method.of(row.method()), row.codeHash(), row.triesLeft(), row.beyondGuessing(), row.prepaid()))
                .findFirst()
                .orElse(null);
    }

    private record Tries(String method, byte[] codeHash, int triesLeft, boolean beyondGuessing, boolean prepaid) {}

    private Outcome conclude(Tried tried, Verifier.Asked asked, boolean paid, Answer answer, Coming coming) {
        var id = tried.row().id;
        var consumed = tried.consumed();
        var row = database.find(AttemptRow.class, id, LockModeType.PESSIMISTIC_WRITE);
        if (row.state != AttemptState.PROVING) {
            throw Problem.of("no-proof-wanted");
        }
        var method = consumed.method();
        var whose = paid && counts(row, method) ? Optional.of(row.person) : Optional.<UUID>empty();
        // Judged for everybody: what does not count takes the same path and fails.
        var right = methods.verifier(method).judge(asked, whose, answer) == Verifier.Judgement.RIGHT;
        if (!right && method.sent()) {
            right = standing.take(whose.orElse(id), method, answer.typed()) && whose.isPresent();
        }
        // Closed since it was admitted: whoever it is gets no further.
        right = right && (row.person == null || !closed.contains(row.person));
        if (!right) {
            var blocked = consumed.left() == 0 && row.challenges >= MOST;
            if (blocked) {
                row.take(AttemptStep.BLOCK, clock.instant());
            }
            wakeUps.changed(row.id);
            return new Outcome(null, blocked);
        }
        Sql.change(database, "UPDATE challenge SET answered = true, code_hash = NULL WHERE id = :id")
                .setParameter("id", asked.challenge())
                .executeUpdate();
        methods.verifier(method).proof(asked, answer).ifPresent(proof -> proofs.keep(proof, asked.challenge(), id));
        // What asks the database comes before what changes the row, which is then written once.
        var proved = new ArrayList<>(row.provedMethods());
        proved.add(method);
        var enough = row.required.metBy(proved) && next(row, proved).isEmpty();
        guessedRight(row, method, tried, coming);
        if (enough) {
            places.proved(row.person, coming);
        }
        if (row.quiet) {
            // Whoever proves something is no stranger any more: from here on everything is on record.
            people.find(row.person).ifPresent(person -> admission.recordStart(row, person));
            row.quiet = false;
        }
        events.write(NewEvent.of("challenge.answered", id, row.revision).with("method", method.label()));
        row.proved = proved.stream().map(Method::label).toList();
        row.challenges = 0;
        row.idleAt = clock.instant().plus(places.idle(row));
        if (enough) {
            row.take(AttemptStep.PROVE, clock.instant());
            events.write(NewEvent.of("attempt.proved", id, row.revision));
        }
        row.cookieBefore = row.cookieHash;
        var cookie = cookies.renew(row);
        wakeUps.changed(row.id);
        return new Outcome(new Holding(Attempts.running(row), cookie), false);
    }

    /** Failures in a row end with a success, but for what other open challenges may still fail. */
    private void guessedRight(AttemptRow row, Method method, Tried tried, Coming coming) {
        var outstanding = Sql.values(database, """
                        SELECT coalesce(sum(c.max_tries - c.tries), 0) FROM challenge c JOIN attempt a ON a.id = c.attempt
                        WHERE a.person = :person AND c.method = :method AND c.prepaid AND NOT c.beyond_guessing
                        AND NOT c.answered AND c.expires_at > :now""", Long.class)
                .setParameter("person", row.person)
                .setParameter("method", method.label())
                .setParameter("now", clock.instant())
                .getSingleResult();
        var left = new LinkedHashMap<Charge, Long>();
        for (var from : Familiarity.values()) {
            var space = methods.verifier(method).space(Verifier.Asked.imagined(from), Answer.typed(""));
            Budget.own(Guesses.tryOf(tried.whose(), method, space, from, coming.network(), policy(row)), 1).stream()
                    .filter(c -> c.window() == null)
                    .forEach(c -> left.put(c, from == tried.from() || from == Familiarity.NONE ? outstanding : 0L));
        }
        // Of a code that was paid for with all its tries, those that were not needed were no wrong answers.
        var consumed = tried.consumed();
        var unused = consumed.prepaid() && !consumed.beyondGuessing()
                ? Budget.own(
                                Guesses.tryOf(
                                        tried.whose(),
                                        method,
                                        methods.verifier(method)
                                                .space(Verifier.Asked.imagined(tried.from()), Answer.typed("")),
                                        tried.from(),
                                        coming.network(),
                                        policy(row)),
                                consumed.left() + 1)
                        .stream()
                        .filter(c -> c.window() != null)
                        .toList()
                : List.<Charge>of();
        limits.succeeded(left, unused);
    }

    /** What a wrong answer leads to, behind it. */
    private void wrong(
            UUID id,
            Consumed consumed,
            boolean counts,
            boolean blocked,
            Familiarity from,
            Limits.Charged charged,
            Coming coming) {
        gate.failed(coming);
        var row = transaction.execute(status -> wrong(id, consumed, counts, blocked));
        if (row == null || !counts) {
            return;
        }
        pressure.count(Pressure.Kind.WRONG, coming.network(), row.person);
        if (from != Familiarity.BROWSER
                && (charged.refusedBy().isPresent()
                        || !limits.use("wrong-today", row.person.toString(), MANY_WRONG, Duration.ofDays(1)))) {
            transaction.executeWithoutResult(status -> tellOfStrangers(row, consumed.method(), from, charged));
        }
    }

    private AttemptRow wrong(UUID id, Consumed consumed, boolean counts, boolean blocked) {
        var row = database.find(AttemptRow.class, id);
        if (row == null) {
            return null;
        }
        if (!row.quiet) {
            // A known person who answered by a method that isn't enrolled or accepted is no decoy.
            events.write(NewEvent.of("challenge.failed", row.id, row.revision)
                    .with("triesLeft", consumed.left())
                    .with("decoy", row.decoy != null)
                    .with("method", consumed.method().label())
                    .with("notAccepted", !counts && row.decoy == null ? true : null));
            if (blocked) {
                events.write(NewEvent.of("attempt.blocked", row.id, row.revision));
            }
        }
        if (blocked && row.decoy == null) {
            notices.failed(row, "every code was tried too often");
        }
        return row;
    }

    private void tellOfStrangers(AttemptRow row, Method method, Familiarity from, Limits.Charged charged) {
        if (!guesses.timeToTell(row.person)) {
            return;
        }
        var what = charged.refusedBy()
                .map(reached -> closedWhere(reached.charge().limit(), method, from))
                .orElse("everything works as before");
        events.write(NewEvent.of("guesses.noticed", row.id, row.revision)
                .with("method", method.label())
                .with("from", from.label())
                .with("limit", charged.refusedBy().map(r -> r.charge().limit()).orElse(null))
                .with(
                        "until",
                        charged.refusedBy()
                                .flatMap(r -> Optional.ofNullable(r.until()))
                                .map(Instant::toString)
                                .orElse(null))
                .with("what", what)
                .withPersonal("name", notices.name(row)));
        notices.strangers(row, what);
    }

    /** What strangers used up: what is closed, and where. */
    private static String closedWhere(String limit, Method method, Familiarity from) {
        return switch (limit) {
            case "guess-network", "guess-from" ->
                "nothing that is typed or shown by an app can be tried from the network that they're in until tomorrow, except on browsers"
                        + " you've used before";
            case Budget.POLICY -> "no method can be tried " + where(from) + " for now";
            default ->
                "the " + method.words() + " can't be used " + where(from) + " for now; other methods work as before";
        };
    }

    private static String where(Familiarity from) {
        return switch (from) {
            case BROWSER -> "on this browser";
            case NETWORK -> "from networks you've used before, except on browsers you've used before";
            case NONE -> "from networks and browsers you haven't used before";
        };
    }

    /**
     * The answer that carried the new cookie got lost: the browser that began the attempt, and nobody else, gets another one.
     *
     * @param signed whether the attempt's key signed the call; asked for an attempt by its id
     * @return empty if no attempt was held by this cookie before its last proof
     */
    private Optional<Holding> again(String cookieBefore, Predicate<Attempts.Attempt> signed) {
        return database.createQuery("FROM AttemptRow WHERE cookieBefore = :hash AND state IN (:open)", AttemptRow.class)
                .setParameter("hash", cookies.hash(cookieBefore))
                .setParameter("open", List.of(AttemptState.PROVING, AttemptState.PROVED))
                .setLockMode(LockModeType.PESSIMISTIC_WRITE)
                .getResultStream()
                .findFirst()
                .filter(row -> signed.test(Attempts.running(row)))
                .map(row -> {
                    var cookie = cookies.renew(row);
                    return new Holding(Attempts.running(row), cookie);
                });
    }

    private static Page page(AttemptRow row) {
        return new Page(row.key.thumbprint(), row.reference, row.action);
    }

    private Policy policy(AttemptRow row) {
        return row.policy == null ? null : configurations.policy(row.revision, row.policy);
    }
}
