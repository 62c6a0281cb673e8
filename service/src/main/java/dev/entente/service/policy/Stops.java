package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Policy;
import dev.entente.core.policy.Stop;
import dev.entente.core.verify.Method;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.directory.Directories;
import dev.entente.service.directory.Suspensions;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.Standing;
import dev.entente.service.platform.WhenDue;
import dev.entente.wire.PolicyApi;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * The stop switch: takes effect with the next question of anybody, on every node, and needs no draft. Whether
 * something was stopped meanwhile is asked of the database each time, see {@link Standing}, so that no node can go on for want of
 * having heard.
 */
@Component
public class Stops {
    /**
     * Whether a delivery {@code d} must not go on: a condition for SQL. What replaces an unused temporary password takes
     * something away, and is never stopped.
     */
    public static final String OF_DELIVERY = """
            (d.action <> 'retire' AND EXISTS (SELECT 1 FROM stop s
                WHERE s.ended_at IS NULL AND (s.ends_at IS NULL OR s.ends_at > entente_time())
                AND (s.kind = 'everything' OR s.kind = 'action' AND s.name = d.action
                    OR s.kind = 'policy' AND s.name = d.policy)))""";

    private static final int LONGEST_REASON = 200;
    private static final Duration LONGEST = Duration.ofDays(366);
    private static final int SHOWN = 50;

    private final Session database;
    private final Standing standing;
    private final Directories directories;
    private final EventLog events;
    private final ServiceSettings settings;
    private final InstantSource clock;
    private final Suspensions suspensions;

    Stops(
            Session database,
            Standing standing,
            Directories directories,
            EventLog events,
            ServiceSettings settings,
            InstantSource clock,
            Suspensions suspensions) {
        this.database = database;
        this.standing = standing;
        this.directories = directories;
        this.events = events;
        this.settings = settings;
        this.clock = clock;
        this.suspensions = suspensions;
    }

    /** What is stopped now. */
    @Transactional(readOnly = true)
    public List<Stop> inForce() {
        var now = clock.instant();
        return standing.kept(Standing.Topic.STOP, "started", Started.class, this::started).stops().stream()
                .filter(stop -> stop.until() == null || stop.until().isAfter(now))
                .toList();
    }

    private record Started(List<Stop> stops) {}

    private Started started() {
        return new Started(Sql.rows(database, """
                        SELECT upper(kind) AS kind, name, reason, ends_at AS until FROM stop
                        WHERE ended_at IS NULL ORDER BY started_at""", Stop.class).getResultList());
    }

    /** When what stops an action for everybody ends by itself; empty if nothing stops it, an empty time if it does not. */
    @Transactional(readOnly = true)
    public Optional<Optional<Instant>> stopped(Action action) {
        return latest(inForce().stream().filter(stop -> stop.stops(action)).toList());
    }

    private static Optional<Optional<Instant>> latest(List<Stop> stops) {
        if (stops.isEmpty()) {
            return Optional.empty();
        }
        return Optional.of(
                stops.stream().anyMatch(stop -> stop.until() == null)
                        ? Optional.empty()
                        : stops.stream().map(Stop::until).max(Instant::compareTo));
    }

    /** @throws Problem 503 if the action is stopped for everybody */
    @Transactional(readOnly = true)
    public void check(Action action) {
        stopped(action).ifPresent(this::refuse);
    }

    /** @throws Problem 503 if the action or the policy that decided is stopped; only to be asked after the first proof */
    @Transactional(readOnly = true)
    public void check(Action action, String policy) {
        latest(inForce().stream()
                        .filter(stop -> stop.stops(action) || stop.stopsPolicy(policy))
                        .toList())
                .ifPresent(this::refuse);
    }

    /** @throws Problem 503 if nobody may start anything from this address; says nothing about any name */
    @Transactional(readOnly = true)
    public void checkNetwork(String address) {
        latest(inForce().stream().filter(stop -> stop.stopsNetwork(address)).toList())
                .ifPresent(this::refuse);
    }

    private void refuse(Optional<Instant> until) {
        throw Problem.of("stopped")
                .with("helpDesk", settings.helpDesk())
                .with("until", until.map(Instant::toString).orElse(null))
                .with(
                        "retryAfter",
                        until.map(at -> Math.max(
                                        1, Duration.between(clock.instant(), at).toSeconds()))
                                .orElse(null));
    }

    /** Those in force first, and then the latest that ended. */
    @Transactional(readOnly = true)
    public List<PolicyApi.Stop> all() {
        return Sql.rows(database, """
                        SELECT id, CASE WHEN name = '' THEN kind ELSE kind || ':' || name END AS what, reason, started_at AS since,
                            started_by AS by, ends_at AS until, ended_at AS ended, ended_by FROM stop
                        ORDER BY ended_at IS NOT NULL, coalesce(ended_at, started_at) DESC LIMIT :shown""", PolicyApi.Stop.class)
                .setParameter("shown", SHOWN)
                .getResultList();
    }

    /** Everything that can be stopped now, in the order in which it is offered. */
    @Transactional(readOnly = true)
    public List<String> possible(List<Policy> policies) {
        var possible = new ArrayList<>(List.of(Stop.Kind.EVERYTHING.label()));
        for (var action : Action.values()) {
            if (action.available() || action == Action.TEMPORARY) {
                possible.add("action:" + action.label());
            }
        }
        for (var method : Method.known()) {
            possible.add("method:" + method.label());
        }
        directories.all().forEach(directory -> possible.add("directory:" + directory.name()));
        policies.forEach(policy -> possible.add("policy:" + policy.name()));
        return possible;
    }

    /**
     * Stops something at once. Stopping what is stopped already changes its reason and its end.
     *
     * @throws Problem if nothing has this name, or reason or time are not usable
     */
    @Transactional
    public void stop(PolicyApi.NewStop wanted, List<Policy> policies, String administrator) {
        var reason = Objects.requireNonNullElse(wanted.reason(), "").strip();
        if (reason.isEmpty()
                || reason.length() > LONGEST_REASON
                || reason.lines().count() > 1) {
            throw Problem.of("stop-reason").with("longestReason", LONGEST_REASON);
        }
        var until = wanted.until();
        if (until != null
                && (!until.isAfter(clock.instant())
                        || until.isAfter(clock.instant().plus(LONGEST)))) {
            throw Problem.of("stop-end");
        }
        var what = Objects.requireNonNullElse(wanted.what(), "");
        var possible = possible(policies);
        var stop = Stop.of(what, reason, until)
                .filter(s -> s.kind() == Stop.Kind.NETWORK || possible.contains(what))
                .orElseThrow(() -> Problem.of("stop-unknown")
                        .with("what", (what.length() > 80 ? "that" : what))
                        .with("list", String.join(", ", possible)));
        if (stop.kind() == Stop.Kind.DIRECTORY) {
            // The end of a stop lets the directory go on, which would lift what somebody else meant to last.
            if (directories.find(stop.name()).orElseThrow().suspended()
                    && inForce().stream().noneMatch(other -> other.what().equals(what))) {
                throw Problem.of("directory-suspended").with("name", stop.name());
            }
            suspensions.suspend(stop.name(), true, administrator);
        }
        Sql.change(database, """
                        INSERT INTO stop (id, kind, name, reason, started_at, started_by, ends_at)
                        VALUES (:id, :kind, :name, :reason, :now, :by, cast(:until AS timestamptz))
                        ON CONFLICT (kind, name) WHERE ended_at IS NULL DO UPDATE SET reason = excluded.reason,
                            started_by = excluded.started_by, ends_at = excluded.ends_at""")
                .setParameter("id", UUID.randomUUID())
                .setParameter("kind", stop.kind().label())
                .setParameter("name", stop.name())
                .setParameter("reason", reason)
                .setParameter("now", clock.instant())
                .setParameter("by", administrator)
                .setParameter("until", until)
                .executeUpdate();
        events.write(NewEvent.administration("stop.started", administrator)
                .with("what", what)
                .with("reason", reason)
                .with("until", until == null ? null : until.toString()));
    }

    private static Problem nothing(String what) {
        return Problem.of("stop-not-found").with("what", (what.length() > 80 ? "that" : "\"" + what + "\""));
    }

    /** @throws Problem if it is not stopped */
    @Transactional
    public void resume(String what, String administrator) {
        var stop = Stop.of(what, "", null).orElseThrow(() -> nothing(what));
        if (end(stop.kind(), stop.name(), administrator) == 0) {
            throw nothing(what);
        }
        if (stop.kind() == Stop.Kind.DIRECTORY) {
            suspensions.suspend(stop.name(), false, administrator);
        }
        events.write(NewEvent.administration("stop.ended", administrator).with("what", what));
    }

    private int end(Stop.Kind kind, String name, String by) {
        return Sql.change(database, """
                        UPDATE stop SET ended_at = :now, ended_by = :by
                        WHERE kind = :kind AND name = :name AND ended_at IS NULL""")
                .setParameter("now", clock.instant())
                .setParameter("by", by)
                .setParameter("kind", kind.label())
                .setParameter("name", name)
                .executeUpdate();
    }

    /** A directory that is let go on by itself, or is removed, is stopped no more. */
    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void resumed(Directories.Resumed directory) {
        end(Stop.Kind.DIRECTORY, directory.name(), directory.administrator());
    }

    /** Ends what ends by itself, and puts that on record. */
    @WhenDue("SELECT FROM stop WHERE ended_at IS NULL AND ends_at <= entente_now()")
    @Transactional
    void over() {
        var ended = Sql.rows(database, """
                        UPDATE stop SET ended_at = ends_at WHERE id IN (SELECT id FROM stop
                            WHERE ended_at IS NULL AND ends_at <= :now FOR UPDATE SKIP LOCKED)
                        RETURNING kind, name""", Ended.class)
                .setParameter("now", clock.instant())
                .getResultList();
        for (var one : ended) {
            if (one.kind().equals(Stop.Kind.DIRECTORY.label())) {
                suspensions.suspend(one.name(), false, null);
            }
            events.write(NewEvent.operation("stop.ended")
                    .with("what", one.name().isEmpty() ? one.kind() : one.kind() + ":" + one.name()));
        }
    }

    private record Ended(String kind, String name) {}
}
