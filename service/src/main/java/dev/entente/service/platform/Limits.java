package dev.entente.service.platform;

import java.time.Duration;
import java.time.InstantSource;
import org.hibernate.Session;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * Counts within windows, in the database, so that they hold across nodes. A use is counted in a transaction of its own
 * before anything is compared, so that nothing rolls it back.
 */
@Component
public class Limits {
    private final Session database;
    private final KeyRing keys;
    private final InstantSource clock;

    Limits(Session database, KeyRing keys, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.clock = clock;
    }

    /**
     * Uses one of a limit.
     *
     * @param what the kind of limit
     * @param value what is counted; kept only as HMAC
     * @return whether there was one left
     */
    @Transactional(propagation = Propagation.REQUIRES_NEW)
    public boolean use(String what, String value, int max, Duration window) {
        var used = database.createNativeQuery("""
                        INSERT INTO limit_count (limit_key, window_end, used) VALUES (:key, to_timestamp(:end / 1000.0), 1)
                        ON CONFLICT (limit_key, window_end) DO UPDATE SET used = limit_count.used + 1
                        WHERE limit_count.used < :max RETURNING used""", Integer.class)
                .setParameter("key", keys.blind("limit " + what, value))
                .setParameter("end", end(window))
                .setParameter("max", max)
                .getResultList();
        return !used.isEmpty();
    }

    /** Gives back one that was used, since what it guards against turned out not to be. */
    @Transactional(propagation = Propagation.REQUIRES_NEW)
    public void giveBack(String what, String value, Duration window) {
        database.createNativeMutationQuery("""
                        UPDATE limit_count SET used = used - 1
                        WHERE limit_key = :key AND window_end = to_timestamp(:end / 1000.0) AND used > 0""")
                .setParameter("key", keys.blind("limit " + what, value))
                .setParameter("end", end(window))
                .executeUpdate();
    }

    private long end(Duration window) {
        return (clock.millis() / window.toMillis() + 1) * window.toMillis();
    }

    @Scheduled(fixedDelay = 600_000)
    @Transactional
    void forget() {
        database.createNativeMutationQuery("DELETE FROM limit_count WHERE window_end < now()")
                .executeUpdate();
    }
}
