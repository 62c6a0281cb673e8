package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.AttemptStep;
import dev.entente.core.policy.Action;
import dev.entente.service.attempt.Attempts.Attempt;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.people.People;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.policy.Configurations;
import dev.entente.service.policy.Stops;
import jakarta.persistence.LockModeType;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Going on for a short while after an attempt has ended, without proving again. */
@Component
public class Continuation {
    private static final Duration GO_ON_WINDOW = Duration.ofMinutes(10);

    private final Attempts attempts;
    private final Configurations configurations;
    private final People people;
    private final Admission admission;
    private final KnownPlaces places;
    private final Offering offering;
    private final PersonNotices notices;
    private final Stops stops;
    private final EventLog events;
    private final WakeUps wakeUps;
    private final InstantSource clock;
    private final AttemptCookies cookies;
    private final ClosedPeople closed;
    private final AttemptProofs proofs;

    Continuation(
            Attempts attempts,
            Configurations configurations,
            People people,
            Admission admission,
            KnownPlaces places,
            Offering offering,
            PersonNotices notices,
            Stops stops,
            EventLog events,
            WakeUps wakeUps,
            InstantSource clock,
            AttemptCookies cookies,
            ClosedPeople closed,
            AttemptProofs proofs) {
        this.closed = closed;
        this.proofs = proofs;
        this.attempts = attempts;
        this.configurations = configurations;
        this.people = people;
        this.admission = admission;
        this.places = places;
        this.offering = offering;
        this.notices = notices;
        this.stops = stops;
        this.events = events;
        this.wakeUps = wakeUps;
        this.clock = clock;
        this.cookies = cookies;
    }

    /**
     * Goes on with an attempt that ended a short while ago, without proving again: after an unlock to a new password, and
     * after a failure to another try.
     *
     * @throws Problem if it is too late, or nothing can follow
     */
    @Transactional
    public Attempt goOn(String cookie) {
        var row = cookies.row(cookie, LockModeType.PESSIMISTIC_WRITE).orElseThrow(Attempts::gone);
        var now = clock.instant();
        // Before anything that depends on the policy: only whoever proved something gets so far.
        if (row.endedAt == null
                || row.decoy != null
                || row.proved.isEmpty()
                || row.endedAt.plus(GO_ON_WINDOW).isBefore(now)
                || row.sealings >= Conclusion.SEALINGS) {
            throw Problem.of("too-late");
        }
        stops.check(Action.labelled(row.action).orElseThrow(), row.policy);
        if (closed.contains(row.person)) {
            throw Attempts.gone();
        }
        if (row.state == AttemptState.COMPLETED && row.action.equals(Action.UNLOCK.label())) {
            stops.check(Action.RESET, row.policy);
            var person = people.find(row.person).orElseThrow(Attempts::gone);
            var decision = configurations.decide(
                    person, Action.RESET, configurations.now(row.network, places.knownDevice(row.person, row.device)));
            var obstacle = admission.standsInTheWay(person, decision);
            if (!obstacle.isEmpty()) {
                throw Problem.of("only-unlocked");
            }
            row.action = Action.RESET.label();
            row.mailed = notices.reach(person, decision.policy().orElseThrow(), Action.RESET);
            row.required = decision.required().orElseThrow().requirement();
            row.challenges = 0;
            proofs.forget(row.id);
            // A reset may ask for more than the unlock did.
            var proved = row.provedMethods();
            var enough = row.required.metBy(proved)
                    && offering.next(
                                    row.id,
                                    row.person,
                                    decision.policy().orElseThrow(),
                                    Action.RESET,
                                    row.required,
                                    proved)
                            .isEmpty();
            row.reopen(
                    enough ? AttemptStep.GO_ON : AttemptStep.PROVE_MORE,
                    row.state,
                    now,
                    now.plus(GO_ON_WINDOW),
                    places.idle(row));
            events.write(NewEvent.of("attempt.went-on", row.id, row.revision));
        } else if (List.of(AttemptState.INCOMPLETE, AttemptState.REFUSED, AttemptState.FAILED)
                .contains(row.state)) {
            row.reopen(AttemptStep.TRY_AGAIN, row.state, now, now.plus(GO_ON_WINDOW), places.idle(row));
            events.write(NewEvent.of("attempt.tried-again", row.id, row.revision));
        } else {
            throw Problem.of("nothing-follows");
        }
        wakeUps.changed(row.id);
        return Attempts.running(row);
    }

    /** Whether the person could go on now: to a new password after an unlock, or to another try. */
    public boolean possible(Attempt attempt) {
        return attempt.endedAt() != null
                && attempt.endedAt().plus(GO_ON_WINDOW).isAfter(clock.instant())
                && attempt.sealings() < Conclusion.SEALINGS
                && (attempt.state() == AttemptState.COMPLETED
                        ? attempt.action() == Action.UNLOCK
                                && attempts.policy(attempt).allow().value().contains(Action.RESET)
                        : List.of(AttemptState.INCOMPLETE, AttemptState.REFUSED, AttemptState.FAILED)
                                .contains(attempt.state()));
    }
}
