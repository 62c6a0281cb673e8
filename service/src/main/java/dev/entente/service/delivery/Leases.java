package dev.entente.service.delivery;

import dev.entente.core.delivery.Delivery;
import dev.entente.service.audit.EventLog;
import dev.entente.service.directory.Credentials;
import dev.entente.service.directory.Directories;
import dev.entente.service.directory.StewardCalls.Caller;
import dev.entente.service.directory.StewardPresence;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.platform.WhenDue;
import dev.entente.service.policy.Stops;
import dev.entente.wire.StewardApi;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * Hands orders to stewards, and lets them begin.
 *
 * <pre>
 * waiting ─lease→ leased ─begin→ begun ─receipt→ done | refused | failed | unknown
 *    │              │ lease over   │ lease over                                │ a later look
 *    │              └──────────────┴─→ leased again under the next epoch,      └→ done | failed
 *    │                                 two take-overs at most
 *    └ expired, or the directory suspended → failed
 *                                      begun and nobody left to take over → unknown
 * </pre>
 *
 * An order is held for its lease and for as long as a directory may take to answer. Only then may another steward take over, and
 * it first judges what the one before did. All times are the database's. {@link Receipts} takes what came of orders,
 * {@link LaterLooks} goes back to those that ended as unknown, {@link Sweep} ends what nobody can carry out any more.
 */
@Component
class Leases {
    private static final int MOST_AT_ONCE = 64;

    private final Session database;
    private final Directories directories;
    private final SignedOrders orders;
    private final LaterLooks laterLooks;
    private final EventLog events;
    private final DeliveryEvents deliveryEvents;
    private final WakeUps wakeUps;
    private final ServiceSettings settings;
    private final Credentials credentials;

    Leases(
            Session database,
            Directories directories,
            SignedOrders orders,
            LaterLooks laterLooks,
            EventLog events,
            DeliveryEvents deliveryEvents,
            WakeUps wakeUps,
            ServiceSettings settings,
            Credentials credentials) {
        this.credentials = credentials;
        this.database = database;
        this.directories = directories;
        this.orders = orders;
        this.laterLooks = laterLooks;
        this.events = events;
        this.deliveryEvents = deliveryEvents;
        this.wakeUps = wakeUps;
        this.settings = settings;
    }

    /** For which of these directories there is something to lease, or to look at again. */
    @Transactional(readOnly = true)
    public List<UUID> wanted(Set<UUID> of) {
        return Sql.values(database, """
                        SELECT DISTINCT directory FROM delivery WHERE directory IN (:of) AND (ended_at IS NULL
                            AND expires_at > entente_time() AND epoch < :epochs
                            AND (state = 'waiting' OR held_until < entente_time()) OR """ + LaterLooks.DUE + ")", UUID.class)
                .setParameter("of", of)
                .setParameter("epochs", Delivery.MOST_EPOCHS)
                .setParameter("lease", settings.lease().toMillis())
                .getResultList();
    }

    /** @see Credentials#getsOrders */
    @Transactional(readOnly = true)
    boolean getsOrders(Caller caller) {
        return credentials.getsOrders(caller.directory(), caller.steward());
    }

    /** Gives a steward the oldest orders of its directory, each under its next epoch; for one account one at a time. */
    @Transactional
    List<String> lease(Caller caller, int room) {
        var served = directories.get(caller.directory());
        if (!getsOrders(caller)) {
            return List.of();
        }
        var rows = new ArrayList<DeliveryRow>();
        if (!served.suspended()) {
            rows.addAll(database.createNativeQuery("""
                            UPDATE delivery SET state = 'leased', epoch = epoch + 1, steward = :steward,
                                leased_at = entente_time(),
                                leased_until = entente_time() + :lease * interval '1 ms',
                                held_until = entente_time() + (:lease + :timeout) * interval '1 ms'
                            WHERE id IN (SELECT d.id FROM delivery d WHERE d.directory = :directory AND d.ended_at IS NULL
                                AND d.expires_at > entente_time() AND d.epoch < :epochs
                                AND (d.state = 'waiting' OR d.held_until < entente_time())
                                AND NOT EXISTS (SELECT 1 FROM delivery o WHERE o.account = d.account AND o.id <> d.id
                                    AND o.ended_at IS NULL AND (o.state <> 'waiting' OR o.created_at < d.created_at))
                                ORDER BY d.created_at FOR UPDATE SKIP LOCKED LIMIT :room) RETURNING *""", DeliveryRow.class)
                    .setParameter("steward", caller.steward())
                    .setParameter("directory", caller.directory())
                    .setParameter("lease", settings.lease().toMillis())
                    .setParameter("timeout", settings.directoryTimeout().toMillis())
                    .setParameter("epochs", Delivery.MOST_EPOCHS)
                    .setParameter("room", Math.max(1, Math.min(MOST_AT_ONCE, room)))
                    .getResultList());
        }
        if (rows.isEmpty()) {
            return laterLooks.lease(caller);
        }
        rows.sort(Comparator.comparing(row -> row.createdAt));
        // That somebody works on it the page sees with its next look.
        for (var row : rows) {
            events.write(deliveryEvents
                    .about("order.leased", row)
                    .with("steward", caller.name())
                    .with("epoch", row.epoch)
                    .with("takeOver", row.epoch > 1));
        }
        return orders.of(rows, false);
    }

    /**
     * A compare-and-set on the epoch, before the write, for several orders at once. The lease begins anew, so that the steward
     * knows how long it may still send the write, counted from when it asked.
     *
     * @return the orders that may be written
     */
    @Transactional
    List<UUID> begin(Caller caller, List<StewardApi.Begin> begins) {
        // A statement about one is planned once; one about a list anew each time, which takes longer than it does.
        var those = begins.size() == 1 ? "(cast(:ids AS uuid[]))[1]" : "ANY(:ids)";
        // Locked in the order in which receipts lock, so that two calls never wait in a circle.
        var begun = database.createNativeQuery(
                        "WITH held AS (SELECT id FROM delivery d WHERE id = " + those + " AND NOT "
                                + Stops.OF_DELIVERY + """
                            AND NOT EXISTS (SELECT FROM known_directory r WHERE r.id = d.directory AND r.suspended_at IS NOT NULL)
                            ORDER BY attempt, sealing, created_at, id FOR UPDATE)
                        UPDATE delivery d SET state = 'begun', begun_server = b.server, begun_version = b.version,
                            begun_at = entente_time(), leased_until = entente_time() + :lease * interval '1 ms',
                            held_until = entente_time() + (:lease + :timeout) * interval '1 ms'
                        FROM held JOIN unnest(:ids, :epochs, :servers, :versions) AS b(id, epoch, server, version)
                            ON b.id = held.id
                        WHERE d.id = b.id AND d.steward = :steward AND d.epoch = b.epoch AND d.state = 'leased'
                            AND d.leased_until > entente_time() RETURNING d.*""",
                        DeliveryRow.class)
                .setParameter(
                        "ids", begins.stream().map(StewardApi.Begin::order).toArray(UUID[]::new))
                .setParameter(
                        "epochs", begins.stream().map(StewardApi.Begin::epoch).toArray(Integer[]::new))
                .setParameter(
                        "servers", begins.stream().map(StewardApi.Begin::server).toArray(String[]::new))
                .setParameter(
                        "versions",
                        begins.stream().map(StewardApi.Begin::version).toArray(String[]::new))
                .setParameter("lease", settings.lease().toMillis())
                .setParameter("timeout", settings.directoryTimeout().toMillis())
                .setParameter("steward", caller.steward())
                .getResultList();
        // The page says the same of an order that was handed out and of one that was begun.
        for (var row : begun) {
            events.write(deliveryEvents
                    .about("order.begun", row)
                    .with("server", row.begunServer)
                    .with("version", row.begunVersion)
                    .with("epoch", row.epoch));
        }
        return begun.stream().map(row -> row.id).toList();
    }

    /** What a process held that is gone now, and had not begun, need not wait for its lease; a late begin of it fails. */
    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void free(StewardPresence.Restarted restarted) {
        Sql.change(database, """
                        UPDATE delivery SET leased_until = entente_time(), held_until = entente_time()
                        WHERE steward = :steward AND state = 'leased'""").setParameter("steward", restarted.steward()).executeUpdate();
    }

    /** A steward that waits learns of an order whose holder went away, and of what is to be looked at. */
    @WhenDue("SELECT FROM delivery WHERE ended_at IS NULL AND held_until < entente_time()")
    @Transactional
    void offerAgain() {
        for (var directory : Sql.values(database, """
                        SELECT DISTINCT directory FROM delivery
                        WHERE ended_at IS NULL AND held_until < entente_time()""", UUID.class).getResultList()) {
            wakeUps.workFor(directory);
        }
    }
}
