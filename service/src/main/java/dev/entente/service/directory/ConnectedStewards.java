package dev.entente.service.directory;

import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Which directories have a connected steward that gets orders. */
@Component
public class ConnectedStewards {
    /** A steward that was there a moment ago is not looked for again. */
    private static final Duration SEEN_LATELY = Duration.ofSeconds(2);

    private final Map<UUID, Instant> seenConnected = new ConcurrentHashMap<>();

    private final Session database;
    private final ServiceSettings settings;
    private final InstantSource clock;
    private final Credentials credentials;

    ConnectedStewards(Session database, ServiceSettings settings, InstantSource clock, Credentials credentials) {
        this.credentials = credentials;
        this.database = database;
        this.settings = settings;
        this.clock = clock;
    }

    /** Whether some steward that gets orders of the directory asked for work lately. */
    @Transactional(readOnly = true)
    public boolean connected(UUID directory) {
        return lately(Set.of(directory)).anyMatch(one -> credentials.getsOrders(directory, one.id()));
    }

    /** Whether some steward that gets orders of each of these directories asked for work lately. */
    @Transactional(readOnly = true)
    public boolean connected(Set<UUID> those) {
        var now = clock.instant();
        var late = now.minus(SEEN_LATELY);
        if (those.stream().allMatch(id -> late.isBefore(seenConnected.getOrDefault(id, Instant.EPOCH)))) {
            return true;
        }
        var connected = lately(those)
                .filter(one -> credentials.getsOrders(one.directory(), one.id()))
                .map(Seen::directory)
                .collect(Collectors.toSet())
                .containsAll(those);
        if (connected) {
            those.forEach(id -> seenConnected.put(id, now));
        }
        return connected;
    }

    private record Seen(UUID id, UUID directory) {}

    private Stream<Seen> lately(Set<UUID> those) {
        return Sql.rows(
                database,
                "SELECT id, directory FROM steward WHERE directory IN (:those) AND last_seen > :since AND retired_at IS NULL",
                Seen.class)
                .setParameter("those", those)
                .setParameter("since", clock.instant().minus(settings.stewardMissedAfter()))
                .getResultList()
                .stream();
    }
}
