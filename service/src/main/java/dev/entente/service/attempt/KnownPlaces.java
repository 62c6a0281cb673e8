package dev.entente.service.attempt;

import dev.entente.core.guess.Familiarity;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Sql;
import java.time.Duration;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** Browsers and networks on which people proved who they are before. Kept as keyed hashes, forgotten when not used for long. */
@Component
public class KnownPlaces {
    private static final Duration LIFE = Duration.ofDays(400);
    private static final String BROWSER = "browser";
    private static final String NETWORK = "network";

    private final Session database;
    private final KeyRing keys;
    private final InstantSource clock;

    KnownPlaces(Session database, KeyRing keys, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.clock = clock;
    }

    /**
     * How well a person is known there.
     *
     * @param browser keyed hash; null if it is not known
     */
    @Transactional(readOnly = true)
    public Familiarity of(UUID person, byte[] browser, String network) {
        var known = Sql.values(database, """
                        SELECT kind FROM known_place WHERE person = :person AND last_at > :since
                        AND (kind = 'browser' AND place = cast(:browser AS bytea)
                            OR kind = 'network' AND place = cast(:network AS bytea))""", String.class)
                .setParameter("person", person)
                .setParameter("browser", browser)
                .setParameter("network", network == null ? null : network(network))
                .setParameter("since", clock.instant().minus(LIFE))
                .getResultList();
        return known.contains(BROWSER)
                ? Familiarity.BROWSER
                : known.contains(NETWORK) ? Familiarity.NETWORK : Familiarity.NONE;
    }

    /**
     * How familiar a place is, and which count of guesses is in force for the person.
     *
     * @param era see {@link Guesses#lift}
     */
    record Visit(Familiarity familiarity, int era) {}

    /** Both with one question; nobody's for an attempt that is nobody's. */
    @Transactional(readOnly = true)
    public Visit visit(UUID person, Coming coming) {
        return Sql.rows(database, """
                        SELECT coalesce((SELECT CASE max(CASE WHEN kind = 'browser' THEN 2 ELSE 1 END)
                                WHEN 2 THEN 'BROWSER' WHEN 1 THEN 'NETWORK' END FROM known_place
                            WHERE person = :person AND last_at > :since AND (kind = 'browser' AND place = :browser
                                OR kind = 'network' AND place = :network)), 'NONE') AS familiarity,
                            coalesce((SELECT era FROM person_limits WHERE person = :person), 0) AS era""", Visit.class)
                .setParameter("person", person)
                .setParameter("browser", coming.browser())
                .setParameter("network", network(coming.network()))
                .setParameter("since", clock.instant().minus(LIFE))
                .getSingleResult();
    }

    /**
     * How familiar a place is, and whether the person got a new password on that browser.
     *
     * @param knownDevice see {@link #knownDevice}
     */
    record Place(Familiarity familiarity, boolean knownDevice) {}

    private record Seen(String kind, boolean passwordSet) {}

    /** Both with one question. */
    @Transactional(readOnly = true)
    public Place place(UUID person, Coming coming) {
        var since = clock.instant().minus(LIFE);
        var known = new HashMap<String, Boolean>();
        Sql.rows(database, """
                        SELECT kind, coalesce(password_set_at > :since, false) AS password_set FROM known_place
                        WHERE person = :person AND last_at > :since AND (kind = 'browser' AND place = :browser
                            OR kind = 'network' AND place = :network)""", Seen.class)
                .setParameter("person", person)
                .setParameter("browser", coming.browser())
                .setParameter("network", network(coming.network()))
                .setParameter("since", since)
                .getResultStream()
                .forEach(row -> known.put(row.kind(), row.passwordSet()));
        return new Place(
                known.containsKey(BROWSER)
                        ? Familiarity.BROWSER
                        : known.containsKey(NETWORK) ? Familiarity.NETWORK : Familiarity.NONE,
                known.getOrDefault(BROWSER, false));
    }

    /**
     * Whether this person got a new password on this browser. An unlock does not count: it may have asked for less, and a
     * reset that follows must not be spared what it asks for on an unknown device.
     */
    @Transactional(readOnly = true)
    public boolean knownDevice(UUID person, byte[] browser) {
        return browser != null
                && Sql.values(
                                        database,
                                        "SELECT count(*) FROM known_place WHERE person = :person AND kind = 'browser'"
                                                + " AND place = :place AND password_set_at > :since",
                                        Long.class)
                                .setParameter("person", person)
                                .setParameter("place", browser)
                                .setParameter("since", clock.instant().minus(LIFE))
                                .getSingleResult()
                        > 0;
    }

    /** Whether anybody at all is known on this browser: says nothing about a name. */
    @Transactional(readOnly = true)
    public boolean anybody(byte[] browser) {
        return Sql.values(
                                database,
                                "SELECT count(*) FROM known_place WHERE kind = 'browser' AND place = :place AND last_at > :since",
                                Long.class)
                        .setParameter("place", browser)
                        .setParameter("since", clock.instant().minus(LIFE))
                        .getSingleResult()
                > 0;
    }

    /** A person has proved who they are there. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void proved(UUID person, Coming coming) {
        Sql.change(database, """
                        INSERT INTO known_place (person, kind, place, first_at, last_at)
                        VALUES (:person, 'browser', :browser, :now, :now), (:person, 'network', :network, :now, :now)
                        ON CONFLICT (person, kind, place) DO UPDATE SET last_at = excluded.last_at""")
                .setParameter("person", person)
                .setParameter("browser", coming.browser())
                .setParameter("network", network(coming.network()))
                .setParameter("now", clock.instant())
                .executeUpdate();
    }

    /** A person has a new password, set on this browser. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void passwordSet(UUID person, byte[] browser) {
        Sql.change(database, """
                        UPDATE known_place SET password_set_at = :now
                        WHERE person = :person AND kind = 'browser' AND place = :place""")
                .setParameter("now", clock.instant())
                .setParameter("person", person)
                .setParameter("place", browser)
                .executeUpdate();
    }

    private byte[] network(String network) {
        return keys.blind("network of a person", network);
    }

    @Scheduled(fixedDelay = 3_600_000, initialDelay = 120_000)
    @Transactional
    void forget() {
        Sql.change(database, "DELETE FROM known_place WHERE last_at < :before")
                .setParameter("before", clock.instant().minus(LIFE))
                .executeUpdate();
    }
}
