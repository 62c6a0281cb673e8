package dev.entente.service.directory;

import dev.entente.service.platform.ServiceSettings;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Which directories have a steward that is there. */
@Component
public class ConnectedStewards {
    /** A steward that was there a moment ago is not looked for again. */
    private static final Duration SEEN_LATELY = Duration.ofSeconds(2);

    private final Map<UUID, Instant> seenConnected = new ConcurrentHashMap<>();

    private final Session database;
    private final ServiceSettings settings;
    private final InstantSource clock;

    ConnectedStewards(Session database, ServiceSettings settings, InstantSource clock) {
        this.database = database;
        this.settings = settings;
        this.clock = clock;
    }

    /** Whether some steward of the directory asked for work lately. */
    @Transactional(readOnly = true)
    public boolean connected(UUID directory) {
        return !database.createQuery(
                        "SELECT id FROM StewardRow WHERE directory = :directory AND lastSeen > :since AND retiredAt IS NULL",
                        UUID.class)
                .setParameter("directory", directory)
                .setParameter("since", clock.instant().minus(settings.stewardMissedAfter()))
                .setMaxResults(1)
                .getResultList()
                .isEmpty();
    }

    /** Whether some steward of each of these directories asked for work lately. */
    @Transactional(readOnly = true)
    public boolean connected(Set<UUID> those) {
        var now = clock.instant();
        var late = now.minus(SEEN_LATELY);
        if (those.stream().allMatch(id -> late.isBefore(seenConnected.getOrDefault(id, Instant.EPOCH)))) {
            return true;
        }
        var connected = database.createQuery(
                                "SELECT count(DISTINCT directory) FROM StewardRow WHERE directory IN (:those)"
                                        + " AND lastSeen > :since AND retiredAt IS NULL",
                                Long.class)
                        .setParameter("those", those)
                        .setParameter("since", now.minus(settings.stewardMissedAfter()))
                        .getSingleResult()
                == those.size();
        if (connected) {
            those.forEach(id -> seenConnected.put(id, now));
        }
        return connected;
    }
}
