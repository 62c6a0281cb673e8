package dev.entente.service.outlet;

import dev.entente.core.audit.OutletKind;
import dev.entente.service.audit.AuditTrail;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.OutletApi;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.regex.Pattern;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Security event tokens for those who fetch them (RFC 8936): what is not acknowledged is offered again each time. It is answered at once,
 * also when there is nothing: how long a call may wait is left to both ends, and here it does not.
 */
@Component
@Transactional
class FetchedStreams {
    private static final int MOST = 100;
    /** Events that are looked at for one call. */
    private static final int LOOKED_AT = 1_000;

    private static final Pattern ERROR = Pattern.compile("[a-z_]{1,40}");

    private final Session database;
    private final Outlets outlets;
    private final SecurityEvents tokens;
    private final AuditTrail trail;
    private final EventLog events;
    private final KeyRing keys;
    private final InstantSource clock;

    FetchedStreams(
            Session database,
            Outlets outlets,
            SecurityEvents tokens,
            AuditTrail trail,
            EventLog events,
            KeyRing keys,
            InstantSource clock) {
        this.database = database;
        this.outlets = outlets;
        this.tokens = tokens;
        this.trail = trail;
        this.events = events;
        this.keys = keys;
        this.clock = clock;
    }

    /**
     * Takes what was acknowledged, and offers what was not.
     *
     * @param bearer what the caller proves itself by
     */
    OutletApi.Polled poll(String name, String bearer, OutletApi.Poll asked) {
        outlet(name, bearer);
        // Held until the end: of two that fetch at once the second sees what the first has taken. Strangers hold
        // nothing.
        Sql.values(database, "SELECT name FROM outlet WHERE name = :name FOR UPDATE", String.class)
                .setParameter("name", name)
                .getResultList();
        var outlet = outlet(name, bearer);
        acknowledge(outlet, asked);
        var most = asked.maxEvents() == null ? MOST : Math.max(0, Math.min(asked.maxEvents(), MOST));
        if (outlet.state() != OutletState.FOLLOWING || most == 0) {
            return new OutletApi.Polled(Map.of(), outlet.state() == OutletState.FOLLOWING && more(name));
        }
        offer(outlet, most);
        var sets = new LinkedHashMap<String, String>();
        trail.events(offered(name, most))
                .forEach(event -> tokens.token(outlet, outlet.told(event))
                        .ifPresent(token -> sets.put(event.id().toString(), token)));
        return new OutletApi.Polled(sets, sets.size() == most && more(name));
    }

    /** Nobody learns which outlets there are. */
    private Outlet outlet(String name, String bearer) {
        try {
            var outlet = outlets.find(name);
            if (outlet.kind() == OutletKind.SECURITY_EVENTS_FETCHED
                    && bearer != null
                    && MessageDigest.isEqual(
                            bearer.getBytes(StandardCharsets.UTF_8),
                            outlet.credential(keys).getBytes(StandardCharsets.UTF_8))) {
                return outlet;
            }
        } catch (Problem e) {
            // The same answer as for a wrong token.
        }
        throw Problem.of("stream-token");
    }

    private void acknowledge(Outlet outlet, OutletApi.Poll asked) {
        var refused = asked.setErrs() == null ? Map.<String, OutletApi.SetError>of() : asked.setErrs();
        if (refused.size() > MOST || asked.ack() != null && asked.ack().size() > LOOKED_AT) {
            throw Problem.of("stream-acknowledged");
        }
        var done = new ArrayList<UUID>();
        if (asked.ack() != null) {
            asked.ack().forEach(id -> done.add(id(id)));
        }
        refused.forEach((id, error) -> {
            done.add(id(id));
            var err = error == null
                            || error.err() == null
                            || !ERROR.matcher(error.err()).matches()
                    ? "no reason that can be told"
                    : error.err();
            events.write(NewEvent.operation("outlet.refused")
                    .with("outlet", outlet.name())
                    .with("event", id)
                    .with("why", err));
        });
        if (!done.isEmpty()) {
            Sql.change(
                            database,
                            "DELETE FROM outlet_offered WHERE outlet = :outlet AND event = ANY(cast(:done AS uuid[]))")
                    .setParameter("outlet", outlet.name())
                    .setParameter("done", done.stream().map(UUID::toString).toArray(String[]::new))
                    .executeUpdate();
            Sql.change(database, "UPDATE outlet SET sent_at = :now WHERE name = :outlet")
                    .setParameter("now", clock.instant())
                    .setParameter("outlet", outlet.name())
                    .executeUpdate();
        }
    }

    private static UUID id(String said) {
        try {
            return UUID.fromString(said);
        } catch (IllegalArgumentException | NullPointerException e) {
            throw Problem.of("stream-acknowledged/unknown");
        }
    }

    private void offer(Outlet outlet, int most) {
        var waiting = offered(outlet.name(), most).size();
        var stretch = trail.stretch(outlet.position(), LOOKED_AT);
        var next = stretch.next();
        for (var event : stretch.events()) {
            if (outlet.wants(event) && tokens.token(outlet, event).isPresent()) {
                if (waiting == most) {
                    next = event.seq();
                    break;
                }
                waiting++;
                Sql.change(
                                database,
                                "INSERT INTO outlet_offered (outlet, seq, event, at) VALUES (:outlet, :seq, :event, :at)")
                        .setParameter("outlet", outlet.name())
                        .setParameter("seq", event.seq())
                        .setParameter("event", event.id())
                        .setParameter("at", event.at())
                        .executeUpdate();
            }
        }
        Sql.change(database, "UPDATE outlet SET position = :next WHERE name = :name")
                .setParameter("next", next)
                .setParameter("name", outlet.name())
                .executeUpdate();
    }

    private List<AuditTrail.Located> offered(String outlet, int most) {
        return Sql.rows(
                        database,
                        "SELECT event, at FROM outlet_offered WHERE outlet = :outlet ORDER BY seq LIMIT :most",
                        AuditTrail.Located.class)
                .setParameter("outlet", outlet)
                .setParameter("most", most)
                .getResultList();
    }

    /** Whether anything is there that was not looked at yet. */
    private boolean more(String name) {
        return outlets.shown(name).behind() > 0;
    }
}
