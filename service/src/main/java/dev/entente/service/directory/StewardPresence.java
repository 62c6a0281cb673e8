package dev.entente.service.directory;

import java.time.InstantSource;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** When each steward was last heard of. */
@Component
public class StewardPresence {
    private static final int LONGEST_VERSION = 40;

    private final Session database;
    private final InstantSource clock;

    StewardPresence(Session database, InstantSource clock) {
        this.database = database;
        this.clock = clock;
    }

    /** It asked for work just now. */
    @Transactional
    public void seen(StewardCalls.Caller caller, String version) {
        database.createNativeMutationQuery("UPDATE steward SET last_seen = :now, version = :version WHERE id = :id")
                .setParameter("now", clock.instant())
                .setParameter("version", bounded(version))
                .setParameter("id", caller.steward())
                .executeUpdate();
    }

    static String bounded(String version) {
        return version == null ? "?" : version.substring(0, Math.min(LONGEST_VERSION, version.length()));
    }
}
