package dev.entente.service.directory;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.platform.WhenDue;
import dev.entente.wire.DirectoryApi.Finding;
import dev.entente.wire.DirectoryApi.Job;
import dev.entente.wire.StewardApi;
import jakarta.persistence.LockModeType;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** Preflights and syncs: asked for by an administrator, done by a steward, one of a kind at a time for a directory. */
@Component
public class Jobs {
    private static final Duration LEASE = Duration.ofSeconds(90);
    /** How long a steward goes on looking by itself while nothing has changed. */
    private static final Duration WATCH = Duration.ofSeconds(50);
    // Of one that went away another takes over as soon as it was not heard of for a while.
    private static final Duration CHANGES_LEASE = Duration.ofSeconds(75);
    private static final Duration LOOK_AGAIN = Duration.ofMinutes(2);
    private static final Duration OFTEN = Duration.ofMinutes(10);
    private static final Duration DAILY = Duration.ofDays(1);
    private static final String CHANGES_DUE = """

            d.sync_cursor IS NOT NULL AND d.changes_due_at <= entente_now() AND d.removed_at IS NULL
            AND (d.changes_until IS NULL OR d.changes_until < entente_now() OR NOT EXISTS (
                SELECT FROM steward s WHERE s.id = d.changes_steward AND s.last_seen > :since))
            """;
    // Losing this many says nothing, however small the directory.
    private static final int FEW = 5;

    private final Session database;
    private final EventLog events;
    private final WakeUps wakeUps;
    private final ApplicationEventPublisher publisher;
    private final ServiceSettings settings;
    private final InstantSource clock;

    Jobs(
            Session database,
            EventLog events,
            WakeUps wakeUps,
            ApplicationEventPublisher publisher,
            ServiceSettings settings,
            InstantSource clock) {
        this.database = database;
        this.events = events;
        this.wakeUps = wakeUps;
        this.publisher = publisher;
        this.settings = settings;
        this.clock = clock;
    }

    /** A sync read everything; published in the transaction that ends the job. */
    public record SyncEnded(UUID directory, Instant since) {}

    /** A batch of what was read; published in the transaction that takes it. */
    public record SyncBatch(UUID directory, StewardApi.Batch batch) {}

    /** Whether a published policy needs e-mail addresses from a directory: asked before preflight looks for them. */
    public record MailNeeded(String directory, AtomicBoolean needed) {}

    /** How many people a full read missed: asked before what it did not see is taken as gone. */
    public record Missing(UUID directory, Instant since, AtomicInteger missed, AtomicInteger all) {}

    @Transactional
    Job start(DirectoryRow directory, String kind) {
        var running = database.createQuery(
                        "FROM JobRow WHERE directory = :directory AND kind = :kind AND endedAt IS NULL", JobRow.class)
                .setParameter("directory", directory.id)
                .setParameter("kind", kind)
                .getResultStream()
                .findFirst();
        if (running.isPresent()) {
            return running.get().shown();
        }
        if (directory.roster == null) {
            throw Problem.of("no-steward").with("name", directory.name);
        }
        if (database.createQuery(
                                "SELECT count(*) FROM StewardRow WHERE directory = :directory AND lastSeen > :since",
                                Long.class)
                        .setParameter("directory", directory.id)
                        .setParameter("since", clock.instant().minus(settings.stewardMissedAfter()))
                        .getSingleResult()
                == 0) {
            throw Problem.of("no-steward-connected").with("name", directory.name);
        }
        var row = new JobRow();
        row.id = UUID.randomUUID();
        row.directory = directory.id;
        row.kind = kind;
        row.state = "waiting";
        row.createdAt = clock.instant();
        database.persist(row);
        wakeUps.workFor(directory.id);
        return row.shown();
    }

    @Transactional(readOnly = true)
    Job get(UUID id) {
        return row(id).shown();
    }

    /** The latest of a kind, of each of these directories that had one. */
    Map<UUID, JobRow> latest(UUID[] directories, String kind) {
        return database.createNativeQuery("""
                        SELECT DISTINCT ON (directory) * FROM job WHERE kind = :kind AND directory = ANY(:directories)
                        ORDER BY directory, created_at DESC""", JobRow.class)
                .setParameter("kind", kind)
                .setParameter("directories", directories)
                .getResultStream()
                .collect(Collectors.toMap(job -> job.directory, job -> job));
    }

    Optional<JobRow> latest(UUID directory, String kind) {
        return database.createQuery(
                        "FROM JobRow WHERE directory = :directory AND kind = :kind ORDER BY createdAt DESC",
                        JobRow.class)
                .setParameter("directory", directory)
                .setParameter("kind", kind)
                .setMaxResults(1)
                .getResultStream()
                .findFirst();
    }

    /**
     * Hands the oldest waiting job of a directory to a steward. A sync waits for a preflight: both read everybody, and what a
     * preflight says is wanted first.
     */
    @Transactional
    public Optional<StewardApi.Task> lease(UUID directory, UUID steward) {
        List<UUID> ids = Sql.values(database, """
                        UPDATE job SET state = 'running', steward = :steward, leased_until = :until WHERE id = (
                            SELECT id FROM job WHERE directory = :directory
                                AND (state = 'waiting' OR state = 'running' AND leased_until < :now)
                                AND NOT (kind = 'sync' AND EXISTS (SELECT FROM job p WHERE p.directory = :directory
                                    AND p.kind = 'preflight' AND p.state IN ('waiting', 'running')))
                            ORDER BY created_at FOR UPDATE SKIP LOCKED LIMIT 1) RETURNING id""", UUID.class)
                .setParameter("steward", steward)
                .setParameter("directory", directory)
                .setParameter("now", clock.instant())
                .setParameter("until", clock.instant().plus(LEASE))
                .getResultList();
        return ids.stream()
                .map(id -> {
                    var row = row(id);
                    var of = database.find(DirectoryRow.class, directory);
                    if (row.startedAt == null) {
                        row.startedAt = clock.instant();
                    }
                    var mail = new MailNeeded(of.name, new AtomicBoolean());
                    publisher.publishEvent(mail);
                    return new StewardApi.Task(
                            id,
                            row.kind,
                            of.correlation,
                            of.loginAttributes,
                            of.attributes,
                            null,
                            mail.needed().get(),
                            0,
                            0);
                })
                .findFirst();
    }

    @Transactional
    void batch(UUID id, UUID steward, StewardApi.Batch batch) {
        var row = held(id, steward);
        publisher.publishEvent(new SyncBatch(row.directory, batch));
        // Batches come side by side, so they are counted by the database. A directory removed meanwhile has no job any
        // more.
        var counted = Sql.change(
                        database,
                        "UPDATE job SET done_count = done_count + :more, leased_until = :until WHERE id = :id")
                .setParameter(
                        "more",
                        batch.people().size()
                                + batch.groups().size()
                                + batch.ous().size())
                .setParameter("until", clock.instant().plus(LEASE))
                .setParameter("id", id)
                .executeUpdate();
        if (counted == 0) {
            throw notYours();
        }
    }

    @Transactional
    void end(UUID id, UUID steward, StewardApi.JobEnd end) {
        var row = held(id, steward);
        var directory = database.find(DirectoryRow.class, row.directory);
        row.state = end.done() ? "done" : "failed";
        row.message = end.message();
        row.cursor = end.cursor();
        row.result = end.findings() == null ? null : new JobRow.Result(found(row, end));
        row.endedAt = clock.instant();
        if (row.kind.equals("preflight")) {
            preflightEnded(row, directory);
        } else if (end.done() && !mayEnd(row, directory)) {
            return;
        } else if (end.done()) {
            synced(row, directory);
        } else {
            directory.syncDueAt = clock.instant().plus(settings.comparisonInterval());
        }
        events.write(NewEvent.operation(row.kind + ".ended")
                .with("directory", directory.name)
                .with("result", said(row)));
    }

    /**
     * A steward looked at its directory; whoever knows more about that directory adds it, in the same transaction.
     *
     * @param findings can be added to
     */
    public record Looked(UUID directory, List<Finding> findings) {}

    private List<Finding> found(JobRow row, StewardApi.JobEnd end) {
        var findings = new ArrayList<>(end.findings());
        if (row.kind.equals("preflight") && end.done()) {
            publisher.publishEvent(new Looked(row.directory, findings));
        }
        return findings;
    }

    private record Coded(UUID directory, String code) {}

    /** Which of these findings the latest preflight of each directory had. */
    @Transactional(readOnly = true)
    public Map<UUID, Set<String>> found(Set<String> codes) {
        var found = new HashMap<UUID, Set<String>>();
        Sql.rows(database, """
                        SELECT j.directory, f->>'code' AS code FROM (
                            SELECT DISTINCT ON (directory) directory, result FROM job
                            WHERE kind = 'preflight' AND state = 'done' ORDER BY directory, created_at DESC) j,
                            jsonb_array_elements(j.result->'findings') f
                        WHERE f->>'code' IN (:codes)""", Coded.class)
                .setParameter("codes", List.copyOf(codes))
                .getResultStream()
                .forEach(row -> found.computeIfAbsent(row.directory(), d -> new HashSet<>())
                        .add(row.code()));
        return found;
    }

    private static String said(JobRow row) {
        if (row.result == null) {
            return row.state.equals("done") ? row.doneCount + " entries" : row.message;
        }
        return row.count("error") + " errors, " + row.count("warning") + " warnings";
    }

    /** A change of outcome is on record. */
    private void preflightEnded(JobRow row, DirectoryRow directory) {
        var outcome = row.outcome();
        if (directory.preflightOutcome != null && !directory.preflightOutcome.equals(outcome)) {
            events.write(NewEvent.operation("preflight.changed")
                    .with("directory", directory.name)
                    .with("result", said(row))
                    .with("before", directory.preflightOutcome)
                    .with("after", outcome));
        }
        directory.preflightOutcome = outcome;
        var missing = row.result == null
                ? List.<String>of()
                : row.result.findings().stream()
                        .filter(f ->
                                f.code().startsWith("right-") && !f.severity().equals("ok"))
                        .map(Finding::severity)
                        .toList();
        directory.preflightDueAt = clock.instant()
                .plus(missing.isEmpty() ? DAILY : lookAgain(row, missing.contains("error") ? OFTEN : DAILY));
    }

    /**
     * What was granted takes a while to be in force, so a missing right is looked at again in minutes, and then after ever
     * longer times: it may be missing on purpose, and a look reads everybody. Asking for a look starts over.
     */
    private Duration lookAgain(JobRow row, Duration longest) {
        var before = database.createQuery(
                        "FROM JobRow WHERE directory = :directory AND kind = 'preflight' AND createdAt < :at"
                                + " ORDER BY createdAt DESC",
                        JobRow.class)
                .setParameter("directory", row.directory)
                .setParameter("at", row.createdAt)
                .setMaxResults(1)
                .getResultStream()
                .findFirst();
        var twice = before.filter(b -> b.outcome().equals(row.outcome()))
                .map(b -> Duration.between(b.createdAt, row.createdAt).multipliedBy(2))
                .orElse(LOOK_AGAIN);
        return twice.compareTo(LOOK_AGAIN) < 0 ? LOOK_AGAIN : twice.compareTo(longest) > 0 ? longest : twice;
    }

    /** A full read that misses many people is held until an administrator agrees: the fault may be in the reading. */
    private boolean mayEnd(JobRow row, DirectoryRow directory) {
        var missing = new Missing(directory.id, row.startedAt, new AtomicInteger(), new AtomicInteger());
        publisher.publishEvent(missing);
        var missed = missing.missed().get();
        if (missed <= FEW
                || missed * 100L <= (long) directory.lossShare * missing.all().get()) {
            return true;
        }
        row.state = "held";
        row.message = "The sync did not see " + missed + " of " + missing.all().get() + " accounts, more than "
                + directory.lossShare + " per cent. They are kept until you agree that they are gone: entente directory"
                + " accept-loss " + directory.name + ". If they are not, look at the base and at the rights to read.";
        directory.syncCursor = null;
        events.write(NewEvent.operation("sync.held")
                .with("directory", directory.name)
                .with("missed", missed)
                .with("all", missing.all().get()));
        return false;
    }

    private void synced(JobRow row, DirectoryRow directory) {
        publisher.publishEvent(new SyncEnded(row.directory, row.startedAt));
        directory.syncedAt = clock.instant();
        directory.changedAt = clock.instant();
        directory.syncCursor = row.cursor;
        directory.changesDueAt = clock.instant();
        directory.changesUntil = null;
        directory.syncDueAt = clock.instant().plus(settings.comparisonInterval());
    }

    /** An administrator agrees that what a sync did not see is gone. */
    @Transactional
    Job acceptLoss(DirectoryRow directory, String administrator) {
        var row = latest(directory.id, "sync")
                .filter(j -> j.state.equals("held"))
                .orElseThrow(() -> Problem.of("no-loss-to-accept").with("name", directory.name));
        row.state = "done";
        row.message = null;
        synced(row, directory);
        events.write(
                NewEvent.administration("sync.loss-accepted", administrator).with("directory", directory.name));
        return row.shown();
    }

    /** For which of these directories a job waits, or it is time to look for changes. */
    @Transactional(readOnly = true)
    public List<UUID> wanted(Set<UUID> of) {
        return Sql.values(database, """
                        SELECT d.id FROM directory d WHERE d.id IN (:of) AND (EXISTS (SELECT FROM job j
                            WHERE j.directory = d.id AND (j.state = 'waiting' OR j.state = 'running' AND j.leased_until < entente_now()))
                            OR """ + CHANGES_DUE + ")", UUID.class)
                .setParameter("of", of)
                .setParameter("since", clock.instant().minus(settings.stewardMissedAfter()))
                .getResultList();
    }

    private record Watched(
            UUID id, String correlation, String syncCursor, List<String> loginAttributes, List<String> attributes) {}

    /** Hands the reading of changes to a steward that waits, when it is due; to another when it brings nothing for long. */
    @Transactional
    public Optional<StewardApi.Task> leaseChanges(UUID directory, UUID steward) {
        return Sql.rows(database, """
                        UPDATE directory SET changes_until = entente_now() + CAST(:lease AS interval),
                            changes_steward = :steward
                        WHERE id = (SELECT d.id FROM directory d WHERE d.id = :directory AND """ + CHANGES_DUE + """
                            FOR UPDATE SKIP LOCKED)
                        RETURNING id, correlation, sync_cursor, login_attributes, attributes""", Watched.class)
                .setParameter("lease", CHANGES_LEASE.toString())
                .setParameter("since", clock.instant().minus(settings.stewardMissedAfter()))
                .setParameter("steward", steward)
                .setParameter("directory", directory)
                .getResultStream()
                .findFirst()
                .map(watched -> new StewardApi.Task(
                        watched.id(),
                        "changes",
                        watched.correlation(),
                        List.copyOf(watched.loginAttributes()),
                        List.copyOf(watched.attributes()),
                        watched.syncCursor(),
                        false,
                        (int) WATCH.toSeconds(),
                        (int) settings.changesInterval().toSeconds()));
    }

    /** Takes what changed. Handing in the same twice changes nothing; a cursor that is not the one in force is refused. */
    @Transactional
    void changes(StewardCalls.Caller caller, StewardApi.Changes changes) {
        if (changes.batch() == null && changes.last() && Objects.equals(changes.from(), changes.to())) {
            nothingChanged(caller, changes.from());
            return;
        }
        var row = database.find(DirectoryRow.class, caller.directory(), LockModeType.PESSIMISTIC_WRITE);
        if (row.syncCursor == null || !row.syncCursor.equals(changes.from())) {
            throw readByAnother();
        }
        if (changes.batch() != null) {
            publisher.publishEvent(new SyncBatch(row.id, changes.batch()));
            row.changedAt = clock.instant();
        }
        if (!changes.last()) {
            row.changesUntil = clock.instant().plus(CHANGES_LEASE);
            return;
        }
        row.changesUntil = null;
        row.changesDueAt = clock.instant().plus(settings.changesInterval());
        if (changes.to() == null) {
            row.syncCursor = null;
            row.syncDueAt = clock.instant();
            events.write(NewEvent.operation("sync.starts-over")
                    .with("directory", row.name)
                    .with("why", String.valueOf(changes.why())));
        } else {
            row.syncCursor = changes.to();
        }
    }

    private void nothingChanged(StewardCalls.Caller caller, String cursor) {
        var ended = Sql.change(database, """
                        UPDATE directory SET changes_until = NULL, changes_due_at = :due
                        WHERE id = :directory AND sync_cursor = :cursor AND changes_steward = :steward""")
                .setParameter("due", clock.instant().plus(settings.changesInterval()))
                .setParameter("directory", caller.directory())
                .setParameter("cursor", cursor)
                .setParameter("steward", caller.steward())
                .executeUpdate();
        if (ended == 0) {
            throw readByAnother();
        }
    }

    private static Problem readByAnother() {
        return Problem.of("changes-read-already");
    }

    /** Starts what is due, where a steward is there to do it; one node starts each. */
    @WhenDue("""
            SELECT FROM directory d WHERE (preflight_due_at <= entente_now() OR sync_due_at <= entente_now()) AND roster IS NOT NULL
            AND EXISTS (SELECT FROM steward s WHERE s.directory = d.id AND s.last_seen > entente_now() - interval '25 s')""")
    @Transactional
    void startDue() {
        for (var kind : List.of("preflight", "sync")) {
            for (var id : Sql.values(
                            database,
                            "UPDATE directory SET " + kind
                                    + "_due_at = NULL WHERE id IN (SELECT id FROM directory WHERE " + kind
                                    + "_due_at <= entente_now() AND roster IS NOT NULL AND EXISTS (SELECT 1 FROM steward s"
                                    + " WHERE s.directory = directory.id AND s.last_seen > :since)"
                                    + " FOR UPDATE SKIP LOCKED) RETURNING id",
                            UUID.class)
                    .setParameter("since", clock.instant().minus(settings.stewardMissedAfter()))
                    .getResultList()) {
                start(database.find(DirectoryRow.class, id), kind);
            }
        }
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void free(StewardPresence.Restarted restarted) {
        Sql.change(database, "UPDATE job SET leased_until = :now WHERE steward = :steward AND state = 'running'")
                .setParameter("now", clock.instant())
                .setParameter("steward", restarted.steward())
                .executeUpdate();
        Sql.change(database, "UPDATE directory SET changes_until = NULL WHERE changes_steward = :steward")
                .setParameter("steward", restarted.steward())
                .executeUpdate();
    }

    private record Given(UUID directory, String kind) {}

    /** Jobs whose steward went away for good are told as failed, and tried again later. */
    @WhenDue("""
            SELECT FROM job WHERE ended_at IS NULL AND created_at < entente_now() - interval '90 s'
            AND (leased_until IS NULL OR leased_until < entente_now())""")
    @Transactional
    void giveUp() {
        var given = Sql.rows(database, """
                        UPDATE job SET state = 'failed', ended_at = :now,
                            message = 'No steward took it up in time. Check that one is running: entente steward list.'
                        WHERE ended_at IS NULL AND created_at < :limit AND (leased_until IS NULL OR leased_until < :now)
                        RETURNING directory, kind""", Given.class)
                .setParameter("now", clock.instant())
                .setParameter("limit", clock.instant().minus(LEASE))
                .getResultList();
        for (var job : given) {
            var row = database.find(DirectoryRow.class, job.directory());
            var next = clock.instant().plus(LOOK_AGAIN);
            if (job.kind().equals("preflight")) {
                row.preflightDueAt = next;
            } else {
                row.syncDueAt = next;
            }
        }
    }

    private JobRow held(UUID id, UUID steward) {
        var row = row(id);
        if (!"running".equals(row.state) || !steward.equals(row.steward)) {
            throw notYours();
        }
        return row;
    }

    private static Problem notYours() {
        return Problem.of("job-taken-over");
    }

    private JobRow row(UUID id) {
        var row = database.find(JobRow.class, id);
        if (row == null) {
            throw Problem.of("job-not-found");
        }
        return row;
    }
}
