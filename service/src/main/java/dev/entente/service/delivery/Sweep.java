package dev.entente.service.delivery;

import dev.entente.core.attempt.Cause;
import dev.entente.core.delivery.Delivery;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import dev.entente.service.policy.Stops;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Ends what nobody can carry out any more, and forgets seals whose time is over. */
@Component
class Sweep {
    /** Deliveries that nobody can carry out any more. */
    private static final String OVER =
            """
            FROM delivery d JOIN known_directory r ON r.id = d.directory WHERE d.ended_at IS NULL AND (
                d.state = 'waiting' AND d.expires_at < entente_time()
                OR d.begun_at IS NULL AND (r.suspended_at IS NOT NULL OR """ + Stops.OF_DELIVERY + """
)
                OR d.state <> 'waiting' AND d.held_until < entente_time()
                    AND (d.epoch >= """ + Delivery.MOST_EPOCHS + " OR d.expires_at < entente_time()))";

    private static final String FORGOTTEN = """
            s.expires_at < entente_time() AND NOT EXISTS (
                SELECT FROM delivery d WHERE d.sealed = s.id AND d.ended_at IS NULL)""";

    private final Session database;
    private final Endings endings;

    Sweep(Session database, Endings endings) {
        this.database = database;
        this.endings = endings;
    }

    /** Ends what nobody can carry out any more: told as failed if nothing was begun, as unknown otherwise. */
    @WhenDue("SELECT d.id " + OVER)
    @Transactional
    void sweep() {
        var candidates = over();
        if (!candidates.isEmpty()) {
            var locked = endings.lock(List.copyOf(candidates.keySet()));
            // Once more, now that nobody else can change them: the machine has the last word, with what stood in the
            // way.
            var hindrances = over();
            for (var row : locked.rows()) {
                if (hindrances.containsKey(row.id)) {
                    row.machine()
                            .giveUp(hindrances.get(row.id).orElse(null), locked.now())
                            .ifPresent(after -> endings.end(locked, row, after, null));
                }
            }
            endings.conclude(locked);
        }
    }

    /** A seal whose time is over is of use to nobody. */
    @WhenDue("SELECT FROM sealed_password s WHERE " + FORGOTTEN)
    @Transactional
    void forgetSeals() {
        Sql.change(database, "DELETE FROM sealed_password s WHERE " + FORGOTTEN).executeUpdate();
    }

    private record Hindered(UUID id, Cause cause) {}

    /** Each with what keeps it from being written, if anything does. */
    private Map<UUID, Optional<Cause>> over() {
        var over = new LinkedHashMap<UUID, Optional<Cause>>();
        Sql.rows(
                        database,
                        "SELECT d.id, CASE WHEN " + Stops.OF_DELIVERY + "\n THEN 'STOPPED'"
                                + " WHEN r.suspended_at IS NOT NULL THEN 'SUSPENDED' END AS cause " + OVER
                                + " ORDER BY d.created_at LIMIT 100",
                        Hindered.class)
                .getResultStream()
                .forEach(row -> over.put(row.id(), Optional.ofNullable(row.cause())));
        return over;
    }
}
