package dev.entente.service.directory;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.StewardApi;
import jakarta.servlet.http.HttpServletRequest;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** When each steward was last heard of, and by which process. */
@Component
public class StewardPresence {
    private static final int LONGEST_TEXT = 300;
    private static final int LONGEST_VERSION = 40;
    private static final int LONGEST_DEMAND = 20_000;

    private final Session database;
    private final StewardCalls calls;
    private final Directories directories;
    private final EventLog events;
    private final ApplicationEventPublisher publisher;
    private final JsonMapper json;
    private final InstantSource clock;

    /** A steward asks from a new process: what the one before held and did not begin is free. */
    public record Restarted(UUID steward) {}

    StewardPresence(
            Session database,
            StewardCalls calls,
            Directories directories,
            EventLog events,
            ApplicationEventPublisher publisher,
            JsonMapper json,
            InstantSource clock) {
        this.database = database;
        this.calls = calls;
        this.directories = directories;
        this.events = events;
        this.publisher = publisher;
        this.json = json;
        this.clock = clock;
    }

    /** What was known of a steward before it asked, and whether its process is another one now. */
    private record Before(boolean restarted, boolean copied, boolean copiedNow) {}

    private record Noted(StewardCalls.Caller caller, Before before) {}

    /**
     * It asked for work just now. The call is taken and the presence noted by one statement: this is what goes on at rest.
     *
     * @throws Problem 403 if two processes take turns under its key: one of them holds a copy, and nobody can say which
     */
    @Transactional(noRollbackFor = Problem.class)
    public StewardCalls.Caller seen(HttpServletRequest request, String body, StewardApi.AskForWork asked) {
        var noted = calls.take(request, body, signed -> note(signed, asked));
        var caller = noted.caller();
        var before = noted.before();
        if (before.restarted()) {
            publisher.publishEvent(new Restarted(caller.steward()));
        }
        if (before.copiedNow()) {
            events.write(NewEvent.operation("steward.key-copied").with("steward", caller.name()));
        }
        if (before.copied() || before.copiedNow()) {
            throw Problem.of("steward-copied");
        }
        var moves = asked.moved() == null ? List.<StewardApi.Move>of() : asked.moved();
        if (!moves.isEmpty()) {
            moved(caller, moves.subList(0, Math.min(20, moves.size())));
        }
        return caller;
    }

    /** Not waited for on disk: what is lost with a crash is that somebody asked. */
    private Optional<Noted> note(StewardCalls.Signed signed, StewardApi.AskForWork asked) {
        return Sql.rows(database, """
                        WITH lazily AS (SELECT set_config('synchronous_commit', 'off', true)),
                        before AS (SELECT id, instance, instance_before, copied_at FROM steward WHERE id = :id
                            AND retired_at IS NULL AND identity_key = cast(:key AS jsonb) FOR UPDATE),
                        taken AS (INSERT INTO steward_call (jti, expires_at) SELECT :jti, :expires FROM lazily, before
                            ON CONFLICT DO NOTHING RETURNING 1)
                        UPDATE steward s SET last_seen = :now, version = :version, server = :server,
                            certificate_ends = to_timestamp(cast(:ends AS bigint) / 1000.0), latency_ms = :latency, demand = cast(:demand AS jsonb),
                            copied_at = CASE WHEN b.instance <> :instance AND b.instance_before = :instance
                                THEN coalesce(b.copied_at, :now) ELSE b.copied_at END,
                            instance_before = CASE WHEN b.instance <> :instance THEN b.instance ELSE b.instance_before END,
                            instance = :instance
                        FROM before b, taken WHERE s.id = b.id
                        RETURNING coalesce(b.instance <> :instance, false) AS restarted, b.copied_at IS NOT NULL AS copied,
                            b.copied_at IS NULL AND s.copied_at IS NOT NULL AS copied_now""", Before.class)
                .setParameter("jti", signed.jti())
                .setParameter("expires", signed.expires())
                .setParameter("now", clock.instant())
                .setParameter("version", bounded(asked.version(), LONGEST_VERSION))
                .setParameter("server", bounded(asked.server(), LONGEST_TEXT))
                .setParameter("ends", asked.certificateEnds())
                .setParameter("latency", asked.latencyMillis())
                .setParameter("demand", asked.demand() == null ? null : demand(asked.demand()))
                .setParameter("instance", bounded(String.valueOf(asked.instance()), LONGEST_VERSION))
                .setParameter("key", signed.key())
                .setParameter("id", signed.caller().steward())
                .getResultStream()
                .map(before -> new Noted(signed.caller(), before))
                .findFirst();
    }

    private record Doubted(String before) {}

    /** What it finds wrong with the record, by the checkpoint that it keeps; on record whenever that changes. */
    @Transactional
    public void doubts(StewardCalls.Caller caller, String doubt) {
        var said = doubt == null ? null : bounded(doubt, LONGEST_TEXT);
        Sql.rows(database, """
                        UPDATE steward s SET record_doubt = :doubt FROM (SELECT id, record_doubt FROM steward WHERE id = :id) b
                        WHERE s.id = b.id AND s.record_doubt IS DISTINCT FROM :doubt RETURNING b.record_doubt AS before""", Doubted.class)
                .setParameter("doubt", said)
                .setParameter("id", caller.steward())
                .getResultStream()
                .filter(changed -> said != null)
                .forEach(changed -> events.write(NewEvent.operation("record.doubted")
                        .with("directory", directories.name(caller.directory()))
                        .with("steward", caller.name())
                        .with("why", said)));
    }

    private String demand(StewardApi.Demand demand) {
        var text = json.writeValueAsString(demand);
        if (text.length() > LONGEST_DEMAND) {
            throw Problem.of("demand-too-long").with("longestDemand", LONGEST_DEMAND);
        }
        return text;
    }

    /** Moves of work between servers, as a steward reports them. */
    private void moved(StewardCalls.Caller caller, List<StewardApi.Move> moves) {
        for (var move : moves) {
            events.write(NewEvent.operation("directory.server-moved")
                    .with("directory", directories.name(caller.directory()))
                    .with("steward", caller.name())
                    .with("from", String.valueOf(move.from()))
                    .with("to", String.valueOf(move.to()))
                    .with("why", String.valueOf(move.why())));
        }
    }

    static String bounded(String text, int length) {
        return text == null ? null : text.substring(0, Math.min(length, text.length()));
    }
}
