package dev.entente.service.delivery;

import dev.entente.service.directory.StewardCalls.Caller;
import dev.entente.service.platform.ServiceSettings;
import java.util.List;
import org.hibernate.Session;
import org.springframework.stereotype.Component;

/** Deliveries that were told as unknown are looked at again while their seals are kept, so that they can be settled. */
@Component
class LaterLooks {
    /** Which those are; to follow an AND, and in need of {@code :lease}, in milliseconds. */
    static final String DUE = """

            state = 'unknown' AND sealed IS NOT NULL AND begun_version IS NOT NULL AND expires_at > entente_time()
            AND coalesce(checked_at, ended_at) < entente_time() - :lease * interval '1 ms'
            """;

    private final Session database;
    private final SignedOrders orders;
    private final ServiceSettings settings;

    LaterLooks(Session database, SignedOrders orders, ServiceSettings settings) {
        this.database = database;
        this.orders = orders;
        this.settings = settings;
    }

    /**
     * The oldest of a steward's directory, under its next epoch. Not before the time of a lease has passed, when nothing that was on
     * its way can land any more.
     */
    List<String> lease(Caller caller) {
        var leased = database.createNativeQuery("""
                        UPDATE delivery SET epoch = epoch + 1, steward = :steward, checked_at = entente_time()
                        WHERE id = (SELECT id FROM delivery WHERE directory = :directory AND """ + DUE + """
                            ORDER BY ended_at FOR UPDATE SKIP LOCKED LIMIT 1) RETURNING *""", DeliveryRow.class)
                .setParameter("steward", caller.steward())
                .setParameter("directory", caller.directory())
                .setParameter("lease", settings.lease().toMillis())
                .getResultList();
        return orders.of(leased, true);
    }
}
