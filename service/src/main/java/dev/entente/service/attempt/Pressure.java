package dev.entente.service.attempt;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import org.hibernate.Session;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * What strangers do, by the hour: an attack can be told from a normal day by it, and one event tells of many. Counted in memory
 * and written down every second, so that a flood costs no statement each; what a node that dies had not written is lost.
 */
@Component
public class Pressure {
    private static final UUID NOBODY = new UUID(0, 0);
    private static final Duration KEPT = Duration.ofDays(8);
    private static final Duration REPORT = Duration.ofMinutes(10);
    /** Of one hour so many networks and people are told apart; the rest is counted together. */
    private static final int MOST_APART = 5000;

    private static final String ELSEWHERE = "elsewhere";

    private final Session database;
    private final EventLog events;
    private final Limits limits;
    private final TransactionTemplate transaction;
    private final InstantSource clock;
    private final Map<Key, Long> counted = new ConcurrentHashMap<>();

    Pressure(Session database, EventLog events, Limits limits, TransactionTemplate transaction, InstantSource clock) {
        this.database = database;
        this.events = events;
        this.limits = limits;
        this.transaction = transaction;
        this.clock = clock;
    }

    /** What is counted. */
    public enum Kind {
        /** Attempts for names that mean nobody. */
        MADE_UP(
                "attempts were started for names that don't exist",
                "attempt was started for a name that doesn't exist",
                30),
        /** Wrong answers in the name of somebody. */
        WRONG("wrong answers were given", "wrong answer was given", 20),
        /** Codes that were asked for and not sent, since enough had been sent. */
        WITHHELD(
                "codes were asked for and not sent, because that person had enough",
                "code was asked for and not sent, because that person had enough",
                5),
        /** Attempts in the name of one person beyond what is put on record one by one. */
        CROWDED("more attempts were started in one person's name", "more attempt was started in one person's name", 5),
        /** Starts that were refused, since their network had started too many. */
        REFUSED(
                "starts were refused, because their network had too many",
                "start was refused, because its network had too many",
                20);

        private final String many;
        private final String one;
        private final int few;

        Kind(String many, String one, int few) {
            this.many = many;
            this.one = one;
            this.few = few;
        }

        /** The name in interfaces. */
        public String label() {
            return name().toLowerCase(Locale.ROOT).replace('_', '-');
        }

        /** A number of them in words. */
        public String words(long count) {
            return "%,d %s".formatted(count, count == 1 ? one : many);
        }
    }

    private record Key(Instant hour, Kind kind, String network, UUID person) {}

    /**
     * Counts one.
     *
     * @param person in whose name; null for nobody
     */
    void count(Kind kind, String network, UUID person) {
        var hour = hour();
        var known = counted.size() < MOST_APART;
        counted.merge(
                known
                        ? new Key(hour, kind, network, person == null ? NOBODY : person)
                        : new Key(hour, kind, ELSEWHERE, NOBODY),
                1L,
                Long::sum);
    }

    private Instant hour() {
        return clock.instant().truncatedTo(ChronoUnit.HOURS);
    }

    @Scheduled(fixedDelay = 1000)
    void write() {
        if (counted.isEmpty()) {
            return;
        }
        var taken = new ArrayList<Map.Entry<Key, Long>>();
        for (var key : List.copyOf(counted.keySet())) {
            var count = counted.remove(key);
            if (count != null) {
                taken.add(Map.entry(key, count));
            }
        }
        try {
            transaction.executeWithoutResult(status -> write(taken));
        } catch (RuntimeException e) {
            taken.forEach(one -> counted.merge(one.getKey(), one.getValue(), Long::sum));
            throw e;
        }
    }

    private void write(List<Map.Entry<Key, Long>> taken) {
        database.doWork(connection -> {
            try (var statement = connection.prepareStatement("""
                    INSERT INTO pressure (hour, kind, network, person, count)
                    SELECT hour, kind, min(network), (min(person::text))::uuid, sum(count) FROM (
                        SELECT t.hour, t.kind, t.count,
                            CASE WHEN crowded THEN ? ELSE t.network END AS network,
                            CASE WHEN crowded THEN ?::uuid ELSE t.person END AS person
                        FROM unnest(?::timestamptz[], ?::text[], ?::text[], ?::uuid[], ?::bigint[])
                            AS t(hour, kind, network, person, count),
                            (SELECT count(*) > ? AS crowded FROM pressure WHERE hour = ?) c) AS apart
                    GROUP BY hour, kind, network, person ORDER BY hour, kind, network, person
                    ON CONFLICT (hour, kind, network, person) DO UPDATE SET count = pressure.count + excluded.count""")) {
                statement.setString(1, ELSEWHERE);
                statement.setObject(2, NOBODY);
                statement.setArray(
                        3,
                        connection.createArrayOf(
                                "timestamptz",
                                taken.stream()
                                        .map(t -> t.getKey().hour().toString())
                                        .toArray()));
                statement.setArray(
                        4,
                        connection.createArrayOf(
                                "text",
                                taken.stream()
                                        .map(t -> t.getKey().kind().label())
                                        .toArray()));
                statement.setArray(
                        5,
                        connection.createArrayOf(
                                "text",
                                taken.stream().map(t -> t.getKey().network()).toArray()));
                statement.setArray(
                        6,
                        connection.createArrayOf(
                                "uuid",
                                taken.stream().map(t -> t.getKey().person()).toArray()));
                statement.setArray(
                        7,
                        connection.createArrayOf(
                                "int8", taken.stream().map(Map.Entry::getValue).toArray()));
                statement.setInt(8, MOST_APART);
                statement.setTimestamp(9, java.sql.Timestamp.from(hour()));
                statement.executeUpdate();
            }
        });
    }

    /** @param most the network that most of it came from */
    private record Untold(long more, long networks, String most) {}

    /** One event for many: what was not told one by one goes on record with its number, every ten minutes at most. */
    @WhenDue(
            value = "SELECT FROM pressure WHERE count > reported AND kind IN ('made-up', 'crowded', 'refused')",
            pause = 10)
    @Transactional
    public void report() {
        for (var kind : List.of(Kind.MADE_UP, Kind.CROWDED, Kind.REFUSED)) {
            var untold = Sql.rows(database, """
                            SELECT coalesce(sum(count - reported), 0) AS more, count(DISTINCT network) AS networks,
                                (array_agg(network ORDER BY count - reported DESC))[1] AS most
                            FROM pressure WHERE kind = :kind AND count > reported""", Untold.class)
                    .setParameter("kind", kind.label())
                    .getSingleResult();
            var more = untold.more();
            // Whoever takes the window is the node that reports.
            if (more == 0 || !limits.use("pressure-reported", kind.label(), 1, REPORT)) {
                continue;
            }
            Sql.change(database, "UPDATE pressure SET reported = count WHERE kind = :kind AND count > reported")
                    .setParameter("kind", kind.label())
                    .executeUpdate();
            events.write(NewEvent.operation("strangers.counted")
                    .with("kind", kind.label())
                    .with("count", more)
                    .with("says", kind.words(more))
                    .with("networks", untold.networks())
                    .withPersonal("network", untold.most()));
        }
    }

    /**
     * How much of a kind there was.
     *
     * @param lastHour within the last 60 minutes or little more
     * @param usual in an hour, over the last week
     */
    public record Level(Kind kind, long lastHour, double usual) {
        /** Whether this is far above what is usual. */
        public boolean unusual() {
            return lastHour >= kind.few && lastHour > 3 * usual;
        }
    }

    /** How much there is of each kind. */
    @Transactional(readOnly = true)
    public List<Level> levels() {
        var since = since();
        var levels = new ArrayList<Level>();
        for (var kind : Kind.values()) {
            var counts = Sql.rows(database, """
                            SELECT coalesce(sum(count) FILTER (WHERE hour >= :since), 0) AS lately,
                                coalesce(sum(count) FILTER (WHERE hour < :since), 0) AS before
                            FROM pressure WHERE kind = :kind""", Counts.class)
                    .setParameter("since", since)
                    .setParameter("kind", kind.label())
                    .getSingleResult();
            levels.add(new Level(
                    kind,
                    counts.lately(),
                    (double) counts.before() / KEPT.minusDays(1).toHours()));
        }
        return levels;
    }

    private record Counts(long lately, long before) {}

    /** Hours are whole: until a quarter past, the one before counts, too. */
    private Instant since() {
        var hour = hour();
        return Duration.between(hour, clock.instant()).toMinutes() < 15 ? hour.minus(1, ChronoUnit.HOURS) : hour;
    }

    /** A network or a person, and how much of a kind came from it or in their name. */
    public record Source(Kind kind, String network, UUID person, long count) {}

    /** Which networks they came from, most first. */
    @Transactional(readOnly = true)
    public List<Source> networks(Instant since, int most) {
        return sources("network", "network <> ''", since, most);
    }

    /** Within the last hour. */
    @Transactional(readOnly = true)
    public List<Source> networks(int most) {
        return networks(since(), most);
    }

    /** In whose name they came within the last hour, most first. */
    @Transactional(readOnly = true)
    public List<Source> people(int most) {
        return sources("person", "person <> '" + NOBODY + "'", since(), most);
    }

    private List<Source> sources(String column, String which, Instant since, int most) {
        return Sql.rows(
                        database,
                        "SELECT upper(replace(kind, '-', '_')) AS kind, cast("
                                + (column.equals("network") ? column : "NULL") + " AS text) AS network, cast("
                                + (column.equals("person") ? column : "NULL")
                                + " AS uuid) AS person, sum(count) AS count FROM pressure WHERE hour >= :since AND "
                                + which
                                + " GROUP BY kind, " + column + " ORDER BY 4 DESC, " + column + " LIMIT :most",
                        Source.class)
                .setParameter("since", since)
                .setParameter("most", most)
                .getResultList();
    }

    @Scheduled(fixedDelay = 3_600_000, initialDelay = 60_000)
    @Transactional
    void forget() {
        Sql.change(database, "DELETE FROM pressure WHERE hour < :before")
                .setParameter("before", clock.instant().minus(KEPT))
                .executeUpdate();
    }
}
