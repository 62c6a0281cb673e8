package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.Reference;
import dev.entente.core.guess.Familiarity;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.Languages;
import dev.entente.core.policy.Policy;
import dev.entente.core.seal.EcKey;
import dev.entente.service.attempt.Attempts.Holding;
import dev.entente.service.audit.AttemptReferences;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.policy.Configurations;
import dev.entente.service.policy.Stops;
import jakarta.persistence.LockModeType;
import java.time.Duration;
import java.time.InstantSource;
import java.util.Locale;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Who may start an attempt. The answer does not wait for the question whom a name means: the attempt is there first, and who
 * it belongs to is looked up behind it, so that no answer takes longer for one name than for another.
 *
 * <p>A name that means nobody, somebody outside every policy, a disabled account or somebody without an address makes it a
 * decoy: a real row that can never be proved. What is typed as a name is never stored: people type passwords there.
 */
@Component
public class Admission {
    /** Attempts in one person's name from unknown places in an hour; what is more is counted, not put on record one by one. */
    private static final int ON_RECORD_AN_HOUR = 20;

    private final Session database;
    private final Configurations configurations;
    private final People people;
    private final Offering offering;
    private final KnownPlaces places;
    private final PersonNotices notices;
    private final ResetLimits resetLimits;
    private final Pressure pressure;
    private final Limits limits;
    private final Stops stops;
    private final AttemptCookies cookies;
    private final References references;
    private final BehindAnswers behind;
    private final EventLog events;
    private final WakeUps wakeUps;
    private final ServiceSettings settings;
    private final InstantSource clock;
    private final TransactionTemplate transaction;
    private final AttemptReferences kept;
    private final ClosedPeople closed;

    Admission(
            Session database,
            Configurations configurations,
            People people,
            Offering offering,
            KnownPlaces places,
            PersonNotices notices,
            ResetLimits resetLimits,
            Pressure pressure,
            Limits limits,
            Stops stops,
            AttemptCookies cookies,
            References references,
            BehindAnswers behind,
            EventLog events,
            WakeUps wakeUps,
            ServiceSettings settings,
            InstantSource clock,
            TransactionTemplate transaction,
            AttemptReferences kept,
            ClosedPeople closed) {
        this.database = database;
        this.configurations = configurations;
        this.people = people;
        this.offering = offering;
        this.places = places;
        this.notices = notices;
        this.resetLimits = resetLimits;
        this.pressure = pressure;
        this.limits = limits;
        this.stops = stops;
        this.cookies = cookies;
        this.references = references;
        this.behind = behind;
        this.events = events;
        this.wakeUps = wakeUps;
        this.settings = settings;
        this.clock = clock;
        this.transaction = transaction;
        this.kept = kept;
        this.closed = closed;
    }

    /**
     * Starts an attempt for whoever a typed name means.
     *
     * @throws Problem 503 if it is stopped for everybody or that network, if no method works, or if too many wait
     */
    public Holding start(String name, Action action, EcKey key, Coming coming) {
        behind.checkRoom();
        var held = transaction.execute(status -> {
            mayStart(action, coming);
            return insert(action, key, coming);
        });
        var typed = name.strip().toLowerCase(Locale.ROOT);
        behind.run(() -> resolve(held.attempt().id(), action, typed, coming));
        return held;
    }

    private void mayStart(Action action, Coming coming) {
        stops.check(action);
        stops.checkNetwork(coming.address());
        if (offering.methods(action).isEmpty()) {
            throw Problem.of("no-method").with("helpDesk", settings.helpDesk()).with("retryAfter", 60);
        }
    }

    private Holding insert(Action action, EcKey key, Coming coming) {
        var row = new AttemptRow();
        row.id = UUID.randomUUID();
        row.reference = references.free();
        row.action = action.label();
        row.state = AttemptState.IDENTIFIED;
        row.revision = configurations.current().revision();
        row.key = key;
        var cookie = cookies.renew(row);
        row.network = coming.address();
        row.device = coming.browser();
        row.deviceName = coming.browserName();
        row.language = Languages.wish(coming.language());
        row.createdAt = clock.instant();
        row.expiresAt = row.createdAt.plus(settings.attemptLife());
        row.resolved = false;
        row.decoy = AttemptRow.UNRESOLVED;
        row.quiet = true;
        database.persist(row);
        database.flush();
        return new Holding(Attempts.running(row), cookie);
    }

    /** Whose it is, and what the policy says of it. */
    private record Whose(Optional<Person> person, Optional<Decision> decision, String decoy, Familiarity from) {}

    private void resolve(UUID id, Action action, String typed, Coming coming) {
        var resolved = transaction.execute(status -> {
            var whose = whose(action, typed, coming);
            var quiet = whose.person()
                    .map(p -> whose.from() != Familiarity.BROWSER
                            && !limits.useHere(
                                    "attempts-on-record", p.id().toString(), ON_RECORD_AN_HOUR, Duration.ofHours(1)))
                    .orElse(true);
            resolve(id, whose, quiet);
            return new Resolved(whose.person().map(Person::id).orElse(null), quiet);
        });
        if (resolved.person() == null) {
            pressure.count(Pressure.Kind.MADE_UP, coming.network(), null);
        } else if (resolved.quiet()) {
            pressure.count(Pressure.Kind.CROWDED, coming.network(), resolved.person());
        }
    }

    /** @param quiet whether it is counted and not told by itself */
    private record Resolved(UUID person, boolean quiet) {}

    private Whose whose(Action action, String typed, Coming coming) {
        var person = people.byLogin(typed);
        var place = person.map(p -> places.place(p.id(), coming));
        var decision = person.map(p -> configurations.decide(
                p,
                action,
                configurations.now(coming.address(), place.orElseThrow().knownDevice())));
        var decoy = person.map(p -> standsInTheWay(p, decision.orElseThrow())).orElse(AttemptRow.UNKNOWN_NAME);
        return new Whose(
                person,
                decision,
                decoy,
                place.map(KnownPlaces.Place::familiarity).orElse(Familiarity.NONE));
    }

    private void resolve(UUID id, Whose whose, boolean quiet) {
        var row = database.find(AttemptRow.class, id, LockModeType.PESSIMISTIC_WRITE);
        if (row == null || row.resolved) {
            return;
        }
        // A decoy that means somebody keeps whom, so that the administrator can see why; it can never be proved.
        row.person = whose.person().map(Person::id).orElse(null);
        row.decoy = whose.decoy().isEmpty() ? null : whose.decoy();
        row.resolved = true;
        row.quiet = quiet;
        row.policy = whose.decision().flatMap(d -> d.policy()).map(Policy::name).orElse(null);
        row.required = row.decoy != null
                ? null
                : whose.decision().flatMap(Decision::required).orElseThrow().requirement();
        row.mailed = row.decoy == null
                && notices.reach(
                        whose.person().get(),
                        whose.decision().flatMap(Decision::policy).orElseThrow(),
                        Action.labelled(row.action).orElseThrow());
        if (row.person != null) {
            kept.keep(row.id, new Reference(row.reference));
        }
        if (!quiet) {
            recordStart(row, whose.person().get());
        }
        wakeUps.changed(row.id);
    }

    /** Puts the start on record: at once, or later for one that was not told by itself and then was proved. */
    void recordStart(AttemptRow row, Person person) {
        events.write(NewEvent.of("attempt.started", row.id, row.revision)
                .with("action", row.action)
                .with("policy", row.policy)
                .with("decoy", row.decoy)
                .withPersonal("login", person.login())
                .withPersonal("network", row.network));
    }

    /** A stable word for what makes this a decoy, empty if nothing does. */
    String standsInTheWay(Person person, Decision decision) {
        // What is stopped for everybody was refused before; of a stopped policy its people learn after the proof.
        return decision.obstacles().stream()
                .filter(o -> !o.told())
                .map(Decision.Obstacle::code)
                .findFirst()
                .or(() -> closed.obstacle(person).map(Decision.Obstacle::code))
                .or(() -> resetLimits
                        .reached(
                                person.id(),
                                decision.action(),
                                decision.policy().orElseThrow())
                        .map(Decision.Obstacle::code))
                .orElse("");
    }
}
