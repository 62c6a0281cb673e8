package dev.entente.service.directory;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.wire.StewardApi;
import java.time.InstantSource;
import java.util.List;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** When each steward was last heard of, and by which process. */
@Component
public class StewardPresence {
    private static final int LONGEST_TEXT = 300;
    private static final int LONGEST_VERSION = 40;

    private final Session database;
    private final Directories directories;
    private final EventLog events;
    private final ApplicationEventPublisher publisher;
    private final InstantSource clock;

    /** A steward asks from a new process: what the one before held and did not begin is free. */
    public record Restarted(UUID steward) {}

    StewardPresence(
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

    /**
     * It asked for work just now.
     *
     * @throws Problem 403 if two processes take turns under its key: one of them holds a copy, and nobody can say which
     */
    @Transactional(noRollbackFor = Problem.class)
    public void seen(StewardCalls.Caller caller, StewardApi.AskForWork asked) {
        var instance = bounded(String.valueOf(asked.instance()), LONGEST_VERSION);
        var restarted = database.createNativeQuery(
                        "SELECT 1 FROM steward WHERE id = :id AND instance <> :instance", Integer.class)
                .setParameter("id", caller.steward())
                .setParameter("instance", instance)
                .getResultList();
        if (!restarted.isEmpty()) {
            publisher.publishEvent(new Restarted(caller.steward()));
        }
        var copied = database.createNativeMutationQuery("""
                        UPDATE steward SET copied_at = :now WHERE id = :id AND copied_at IS NULL
                        AND instance <> :instance AND instance_before = :instance""")
                .setParameter("now", clock.instant())
                .setParameter("instance", instance)
                .setParameter("id", caller.steward())
                .executeUpdate();
        if (copied == 1) {
            events.write(NewEvent.operation("steward.key-copied").with("steward", caller.name()));
        }
        var row = database.createNativeQuery("""
                        UPDATE steward SET last_seen = :now, version = :version, server = :server,
                            certificate_ends = to_timestamp(cast(:ends AS bigint) / 1000.0), latency_ms = :latency,
                            instance_before = CASE WHEN instance <> :instance THEN instance ELSE instance_before END,
                            instance = :instance
                        WHERE id = :id RETURNING copied_at IS NULL""", Boolean.class)
                .setParameter("now", clock.instant())
                .setParameter("version", bounded(asked.version(), LONGEST_VERSION))
                .setParameter("server", bounded(asked.server(), LONGEST_TEXT))
                .setParameter("ends", asked.certificateEnds())
                .setParameter("latency", asked.latencyMillis())
                .setParameter("instance", instance)
                .setParameter("id", caller.steward())
                .getResultList();
        if (row.isEmpty() || !row.get(0)) {
            throw Problem.of(
                    HttpStatus.FORBIDDEN,
                    "steward-copied",
                    "Two processes use this steward's key, so it gets no more work. Replace it: entente steward admit with"
                            + " the same name, join from a new state folder, and sign the roster.");
        }
        var moves = asked.moved() == null ? List.<StewardApi.Move>of() : asked.moved();
        if (!moves.isEmpty()) {
            directories.moved(caller, moves.subList(0, Math.min(20, moves.size())));
        }
    }

    static String bounded(String text, int length) {
        return text == null ? null : text.substring(0, Math.min(length, text.length()));
    }
}
