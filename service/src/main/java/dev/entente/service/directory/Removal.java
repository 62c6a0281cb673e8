package dev.entente.service.directory;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Sql;
import jakarta.persistence.LockModeType;
import java.time.InstantSource;
import java.util.List;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Removes directories. */
@Component
public class Removal {
    private final Session database;
    private final Directories directories;
    private final EventLog events;
    private final ApplicationEventPublisher publisher;
    private final InstantSource clock;

    Removal(
            Session database,
            Directories directories,
            EventLog events,
            ApplicationEventPublisher publisher,
            InstantSource clock) {
        this.database = database;
        this.directories = directories;
        this.events = events;
        this.publisher = publisher;
        this.clock = clock;
    }

    /** Removes a directory with everything read from it. Attempts, deliveries and the record stay. */
    @Transactional
    public void remove(String name, String administrator) {
        var row = directories.named(name);
        database.lock(row, LockModeType.PESSIMISTIC_WRITE);
        publisher.publishEvent(new Directories.Resumed(name, administrator));
        // First, so that a batch on its way either ends before everybody is removed, or finds no job to belong to.
        Sql.change(database, "DELETE FROM job WHERE directory = :directory")
                .setParameter("directory", row.id)
                .executeUpdate();
        publisher.publishEvent(new Directories.Removed(row.id));
        for (var statement : List.of(
                "DELETE FROM join_code WHERE directory = :directory",
                "DELETE FROM sealing_key WHERE steward IN (SELECT id FROM steward WHERE directory = :directory)",
                "UPDATE steward SET retired_at = coalesce(retired_at, entente_now()) WHERE directory = :directory")) {
            Sql.change(database, statement).setParameter("directory", row.id).executeUpdate();
        }
        row.removedAt = clock.instant();
        row.name = name + " removed " + row.id;
        row.roster = null;
        row.syncCursor = null;
        row.syncDueAt = null;
        row.preflightDueAt = null;
        events.write(NewEvent.administration("directory.removed", administrator).with("directory", name));
    }
}
