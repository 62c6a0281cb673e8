package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.AttemptStep;
import dev.entente.core.policy.Action;
import dev.entente.service.attempt.Attempts.Attempt;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.platform.WhenDue;
import dev.entente.service.policy.Stops;
import dev.entente.service.verify.Awaited;
import jakarta.persistence.LockModeType;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Collection;
import java.util.EnumSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.function.Consumer;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** How attempts end: by their deliveries, by what needs none, and by themselves. */
@Component
public class Conclusion {
    /** How often passwords may be handed in for one attempt. */
    static final int SEALINGS = 5;

    private static final Duration LOST_START = Duration.ofMinutes(1);
    private static final int EXPIRED_AT_ONCE = 2000;
    private static final Set<AttemptState> NOTHING_DONE = EnumSet.of(AttemptState.REFUSED, AttemptState.FAILED);

    private final Session database;
    private final Attempts attempts;
    private final KnownPlaces places;
    private final PersonNotices notices;
    private final Stops stops;
    private final EventLog events;
    private final WakeUps wakeUps;
    private final ServiceSettings settings;
    private final InstantSource clock;
    private final AttemptCookies cookies;
    private final ClosedPeople closed;
    private final Awaited awaited;

    Conclusion(
            Session database,
            Attempts attempts,
            KnownPlaces places,
            PersonNotices notices,
            Stops stops,
            EventLog events,
            WakeUps wakeUps,
            ServiceSettings settings,
            InstantSource clock,
            AttemptCookies cookies,
            ClosedPeople closed,
            Awaited awaited) {
        this.closed = closed;
        this.awaited = awaited;
        this.database = database;
        this.attempts = attempts;
        this.places = places;
        this.notices = notices;
        this.stops = stops;
        this.events = events;
        this.wakeUps = wakeUps;
        this.settings = settings;
        this.clock = clock;
        this.cookies = cookies;
    }

    /**
     * Sealed passwords are handed in: the attempt waits for their delivery.
     *
     * @return the attempt as it is then; its {@code sealings} numbers this round
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public Attempt seal(UUID id, Instant until) {
        var row = database.find(AttemptRow.class, id, LockModeType.PESSIMISTIC_WRITE);
        stops.check(Action.labelled(row.action).orElseThrow(), row.policy);
        // What an administrator gives is no self-service.
        if (!row.action.equals(Action.TEMPORARY.label()) && closed.contains(row.person)) {
            throw Attempts.gone();
        }
        if (row.sealings >= SEALINGS) {
            throw Problem.of("too-many-passwords").with("helpDesk", settings.helpDesk());
        }
        if (attempts.terms(Attempts.running(row)).isPresent()) {
            throw Problem.of("terms-not-accepted");
        }
        row.take(AttemptStep.SEAL, clock.instant());
        row.sealings++;
        row.expiresAt = until.isAfter(row.expiresAt) ? until : row.expiresAt;
        wakeUps.changed(id);
        return Attempts.running(row);
    }

    /**
     * Every delivery of a round has ended: concludes the attempt, or asks for another password. What was done is told whatever follows: the
     * person may leave, run out of time or say that it wasn't them.
     *
     * @param doneIn where it was done, if the person was not told all of that before; else empty
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public void delivered(UUID id, Collection<AttemptStep.Ended> ended, List<String> doneIn) {
        var row = database.find(AttemptRow.class, id, LockModeType.PESSIMISTIC_WRITE);
        wakeUps.changed(id);
        if (row.state == AttemptState.DELIVERING) {
            concluded(row, ended);
        }
        if (!doneIn.isEmpty()) {
            done(row, doneIn);
        }
    }

    private void concluded(AttemptRow row, Collection<AttemptStep.Ended> ended) {
        var again = row.sealings < SEALINGS && clock.instant().isBefore(row.expiresAt);
        var step = AttemptStep.concluding(ended, again && !row.action.equals(Action.TEMPORARY.label()));
        if (step == AttemptStep.CHOOSE_AGAIN) {
            row.reopen(
                    step,
                    row.state.after(AttemptStep.concluding(ended, false)),
                    clock.instant(),
                    row.expiresAt,
                    places.idle(row));
            events.write(NewEvent.of("attempt.choose-again", row.id, row.revision));
        } else {
            take(row, step);
        }
    }

    private void take(AttemptRow row, AttemptStep step) {
        row.take(step, clock.instant());
        events.write(NewEvent.of("attempt.concluded", row.id, row.revision)
                .with("state", row.state.name().toLowerCase(Locale.ROOT)));
        if (NOTHING_DONE.contains(row.state) && !row.action.equals(Action.TEMPORARY.label())) {
            notices.failed(row, "no directory took it");
        }
    }

    private void done(AttemptRow row, List<String> doneIn) {
        notices.done(row, doneIn);
        var resets = row.action.equals(Action.RESET.label()) || row.action.equals(Action.CHANGE.label());
        if (row.state == AttemptState.COMPLETED && resets && row.device != null) {
            places.passwordSet(row);
        }
    }

    /**
     * What was told as unknown is settled: the attempt is told anew if that changes how it ended, or will end.
     *
     * @param doneIn where it was done, if the person was not told all of that before; else empty
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public void settled(UUID id, Collection<AttemptStep.Ended> ended, List<String> doneIn) {
        var row = database.find(AttemptRow.class, id, LockModeType.PESSIMISTIC_WRITE);
        var step = switch (AttemptStep.concluding(ended, false)) {
            case ALL_DONE -> Optional.of(AttemptStep.SETTLE_DONE);
            case NONE_DONE_FAILED -> Optional.of(AttemptStep.SETTLE_FAILED);
            default -> Optional.<AttemptStep>empty();
        };
        if (row.state == AttemptState.INCOMPLETE) {
            step.ifPresent(one -> take(row, one));
        } else if (row.told == AttemptState.INCOMPLETE && AttemptRow.OPEN.contains(row.state)) {
            step.ifPresent(one -> row.told = row.told.after(one));
        }
        if (!doneIn.isEmpty()) {
            done(row, doneIn);
        }
        wakeUps.changed(id);
    }

    /**
     * The person leaves: nothing that was proved counts any more, nothing that was asked elsewhere can be agreed to, and the cookie
     * opens nothing. What stewards have already goes its way.
     *
     * @param signed throws unless the call comes from the page that began the attempt
     */
    @Transactional
    public void leave(String cookie, Consumer<Attempt> signed) {
        cookies.row(cookie, LockModeType.PESSIMISTIC_WRITE).ifPresent(row -> {
            signed.accept(Attempts.running(row));
            leave(row, "left");
        });
    }

    /** Another attempt begins in the browser that holds this one: the page of before is left. */
    @Transactional
    public void replaced(String cookie) {
        cookies.row(cookie, LockModeType.PESSIMISTIC_WRITE).ifPresent(row -> leave(row, "replaced"));
    }

    private void leave(AttemptRow row, String why) {
        if (AttemptRow.OPEN.contains(row.state)) {
            row.leave(clock.instant());
            if (!row.quiet) {
                events.write(NewEvent.of("attempt.left", row.id, row.revision)
                        .with("state", row.state.name().toLowerCase(Locale.ROOT))
                        .with("why", why));
            }
            awaited.over(List.of(row.id));
        }
        row.cookieBefore = null;
        cookies.renew(row);
        wakeUps.changed(row.id);
    }

    /** The person is still there: the time begins anew for which the attempt may be left alone. */
    @Transactional
    public void present(String cookie, Consumer<Attempt> signed) {
        var row = cookies.row(cookie, LockModeType.PESSIMISTIC_WRITE).orElseThrow(Attempts::gone);
        signed.accept(Attempts.running(row));
        if (row.idleAt != null) {
            row.idleAt = clock.instant().plus(places.idle(row));
        }
    }

    /** The person is done with what needs no delivery. */
    @Transactional
    public Attempt finish(String cookie) {
        var row = cookies.row(cookie, LockModeType.PESSIMISTIC_WRITE).orElseThrow(Attempts::gone);
        if (!row.action.equals(Action.DETAILS.label()) || row.state != AttemptState.PROVED) {
            throw Problem.of("nothing-to-finish");
        }
        row.take(AttemptStep.FINISH, clock.instant());
        events.write(NewEvent.of("attempt.concluded", row.id, row.revision)
                .with("state", row.state.name().toLowerCase(Locale.ROOT)));
        wakeUps.changed(row.id);
        return Attempts.running(row);
    }

    /** Ends what nobody continued. */
    @WhenDue(
            "SELECT FROM attempt WHERE ended_at IS NULL AND (expires_at < entente_now() OR idle_at < entente_now()) AND state IN ('identified', 'proving', 'proved')")
    @Transactional
    void expire() {
        // All that strangers began is ended by one statement; only what concerned a person is put on record one by one.
        var expired = Sql.rows(database, """
                        UPDATE attempt SET state = coalesce(told, :expired), ended_at = :now
                        WHERE id IN (SELECT id FROM attempt WHERE ended_at IS NULL AND (expires_at < :now OR idle_at < :now)
                            AND state IN ('identified', 'proving', 'proved') LIMIT :most FOR UPDATE SKIP LOCKED)
                        RETURNING id, revision, state, quiet""", Expired.class)
                .setParameter(
                        "expired", AttemptState.IDENTIFIED.left(null).name().toLowerCase(Locale.ROOT))
                .setParameter("now", clock.instant())
                .setParameter("most", EXPIRED_AT_ONCE)
                .getResultList();
        awaited.over(expired.stream().map(Expired::id).toList());
        for (var row : expired) {
            if (!row.quiet()) {
                events.write(
                        NewEvent.of("attempt.expired", row.id(), row.revision()).with("state", row.state()));
            }
            wakeUps.changed(row.id());
        }
    }

    private record Expired(UUID id, int revision, String state, boolean quiet) {}

    /** Whose it is, is known to nobody any more if the node ended that had read the name: its person starts again. */
    @WhenDue("SELECT FROM attempt WHERE NOT resolved AND created_at < entente_now() - interval '1 minute'")
    @Transactional
    void forgetLostStarts() {
        Sql.change(database, "UPDATE attempt SET resolved = true WHERE NOT resolved AND created_at < :before")
                .setParameter("before", clock.instant().minus(LOST_START))
                .executeUpdate();
    }
}
