package dev.entente.service.directory;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.WakeUps;
import dev.entente.wire.AdminApi.Job;
import dev.entente.wire.StewardApi;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Preflights and syncs: asked for by an administrator, done by a steward, one of a kind at a time for a directory. */
@Component
public class Jobs {
    private static final Duration LEASE = Duration.ofSeconds(90);

    private final Session database;
    private final EventLog events;
    private final WakeUps wakeUps;
    private final ApplicationEventPublisher publisher;
    private final InstantSource clock;

    Jobs(Session database, EventLog events, WakeUps wakeUps, ApplicationEventPublisher publisher, InstantSource clock) {
        this.database = database;
        this.events = events;
        this.wakeUps = wakeUps;
        this.publisher = publisher;
        this.clock = clock;
    }

    /** A sync read everything; published in the transaction that ends the job. */
    public record SyncEnded(UUID directory, UUID job) {}

    /** A batch of what a sync reads; published in the transaction that counts it. */
    public record SyncBatch(UUID directory, UUID job, StewardApi.Batch batch) {}

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
            throw Problem.conflict("No steward serves " + directory.name
                    + " yet. Admit one, let it join, and sign the roster: entente steward admit.");
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

    /** Hands the oldest waiting job of a directory to a steward. */
    @Transactional
    public Optional<StewardApi.Task> lease(UUID directory, UUID steward) {
        List<UUID> ids = database.createNativeQuery("""
                        UPDATE job SET state = 'running', steward = :steward, leased_until = :until WHERE id = (
                            SELECT id FROM job WHERE directory = :directory AND (state = 'waiting'
                                OR state = 'running' AND leased_until < :now)
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
                    return new StewardApi.Task(id, row.kind, of.correlation, of.base);
                })
                .findFirst();
    }

    @Transactional
    void batch(UUID id, UUID steward, StewardApi.Batch batch) {
        var row = held(id, steward);
        publisher.publishEvent(new SyncBatch(row.directory, id, batch));
        row.doneCount +=
                batch.people().size() + batch.groups().size() + batch.ous().size();
        row.leasedUntil = clock.instant().plus(LEASE);
    }

    @Transactional
    void end(UUID id, UUID steward, StewardApi.JobEnd end) {
        var row = held(id, steward);
        row.state = end.done() ? "done" : "failed";
        row.message = end.message();
        row.result = end.findings() == null ? null : new JobRow.Result(end.findings());
        row.endedAt = clock.instant();
        var directory = database.find(DirectoryRow.class, row.directory);
        if (end.done() && row.kind.equals("sync")) {
            publisher.publishEvent(new SyncEnded(row.directory, id));
            directory.syncedAt = clock.instant();
        }
        var worst = end.findings() == null
                ? end.done() ? row.doneCount + " entries" : end.message()
                : end.findings().stream()
                                .filter(f -> f.severity().equals("error"))
                                .count() + " errors, "
                        + end.findings().stream()
                                .filter(f -> f.severity().equals("warning"))
                                .count() + " warnings";
        events.write(NewEvent.operation(row.kind + ".ended")
                .with("directory", directory.name)
                .with("result", worst));
    }

    /** Jobs whose steward went away for good are told as failed. */
    @Scheduled(fixedDelay = 5000)
    @Transactional
    void giveUp() {
        database.createNativeMutationQuery("""
                        UPDATE job SET state = 'failed', ended_at = :now,
                            message = 'No steward took it up in time. Check that one is running: entente steward list.'
                        WHERE ended_at IS NULL AND created_at < :limit AND (leased_until IS NULL OR leased_until < :now)""")
                .setParameter("now", clock.instant())
                .setParameter("limit", clock.instant().minus(LEASE))
                .executeUpdate();
    }

    private JobRow held(UUID id, UUID steward) {
        var row = row(id);
        if (!"running".equals(row.state) || !steward.equals(row.steward)) {
            throw Problem.conflict("This job is not yours any more.");
        }
        return row;
    }

    private JobRow row(UUID id) {
        var row = database.find(JobRow.class, id);
        if (row == null) {
            throw Problem.missing("job with this id");
        }
        return row;
    }
}
