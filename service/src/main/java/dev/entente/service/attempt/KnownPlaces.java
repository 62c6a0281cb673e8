package dev.entente.service.attempt;

import dev.entente.core.guess.Familiarity;
import dev.entente.service.notification.Notifications;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.policy.Configurations;
import dev.entente.service.verify.Enrolments;
import dev.entente.service.verify.knowndevice.KnownDevices;
import java.time.Duration;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
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
    private final Configurations configurations;
    private final Enrolments enrolments;
    private final KnownDevices devices;
    private final ServiceSettings settings;

    KnownPlaces(
            Session database,
            KeyRing keys,
            InstantSource clock,
            Configurations configurations,
            Enrolments enrolments,
            KnownDevices devices,
            ServiceSettings settings) {
        this.settings = settings;
        this.database = database;
        this.keys = keys;
        this.clock = clock;
        this.configurations = configurations;
        this.enrolments = enrolments;
        this.devices = devices;
    }

    /**
     * What a browser is known by there; null where several people use one device, so that none is remembered.
     *
     * @param cookie as the browser sent it; null if it sent none
     */
    public byte[] browser(String cookie, String address) {
        return configurations.current().shared(address) ? null : keys.blind("device", cookie == null ? "" : cookie);
    }

    /** Whether several people use one device there, so that nothing may be kept on it. */
    public boolean shared(String address) {
        return configurations.current().shared(address);
    }

    /** How long what was proved in an attempt may be left alone. */
    Duration idle(AttemptRow row) {
        return idle(row.network);
    }

    /** The same, by the address that it was started from. */
    public Duration idle(String address) {
        return shared(address) ? settings.attemptIdleShared() : settings.attemptIdle();
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
                            WHERE person = :person AND last_at > :since AND (kind = 'browser' AND place = cast(:browser AS bytea)
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
                        WHERE person = :person AND last_at > :since AND (kind = 'browser' AND place = cast(:browser AS bytea)
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
    public boolean anybody(Coming coming) {
        return Sql.values(
                                database,
                                "SELECT count(*) FROM known_place WHERE kind = 'browser' AND place = cast(:place AS bytea) AND last_at > :since",
                                Long.class)
                        .setParameter("place", coming.browser())
                        .setParameter("since", clock.instant().minus(LIFE))
                        .getSingleResult()
                > 0;
    }

    /** A person has proved who they are there. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void proved(UUID person, Coming coming) {
        Sql.change(database, """
                        INSERT INTO known_place (person, kind, place, first_at, last_at)
                        SELECT :person, kind, place, :now, :now
                        FROM (VALUES ('browser', cast(:browser AS bytea)), ('network', cast(:network AS bytea))) AS here (kind, place)
                        WHERE place IS NOT NULL
                        ON CONFLICT (person, kind, place) DO UPDATE SET last_at = excluded.last_at""")
                .setParameter("person", person)
                .setParameter("browser", coming.browser())
                .setParameter("network", network(coming.network()))
                .setParameter("now", clock.instant())
                .executeUpdate();
    }

    /** A person has a new password, set on the browser of this attempt: from now on it is a device of theirs. */
    @Transactional(propagation = Propagation.MANDATORY)
    void passwordSet(AttemptRow row) {
        var known = Sql.values(database, """
                        WITH before AS (SELECT password_set_at FROM known_place
                            WHERE person = :person AND kind = 'browser' AND place = :place FOR UPDATE)
                        UPDATE known_place SET password_set_at = :now FROM before
                        WHERE person = :person AND kind = 'browser' AND place = :place
                        RETURNING before.password_set_at IS NOT NULL""", Boolean.class)
                .setParameter("now", clock.instant())
                .setParameter("person", row.person)
                .setParameter("place", row.device)
                .getResultList();
        // A device of theirs is a place where they got a password, and stops being both at once.
        if (known.contains(false)) {
            var id = enrolments.came(row.person, devices.method(), row.deviceName, row.id, row.revision);
            devices.keep(id, row.person, row.device);
        }
    }

    /** The person doesn't count it among their devices any more: it's as if they had never been there. */
    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void forgotten(KnownDevices.Forgotten device) {
        forget(device.person(), device.browser());
    }

    private void forget(UUID person, byte[] browser) {
        Sql.change(database, "DELETE FROM known_place WHERE person = :person AND kind = 'browser' AND place = :place")
                .setParameter("person", person)
                .setParameter("place", browser)
                .executeUpdate();
    }

    /** Where it was somebody else, the browser is no device of the person's, and no place where they are known. */
    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void alarmed(Notifications.AlarmRaised alarm) {
        // An old message un-knows a browser once, and one that only failed there not at all.
        var row = alarm.attempt() == null || !alarm.first() ? null : database.find(AttemptRow.class, alarm.attempt());
        if (row != null && row.person != null && row.device != null && !row.proved.isEmpty()) {
            devices.end(row.person, row.device);
            forget(row.person, row.device);
        }
    }

    private byte[] network(String network) {
        return keys.blind("network of a person", network);
    }

    private record Forgotten(UUID person, String kind, byte[] place) {}

    @Scheduled(fixedDelay = 3_600_000, initialDelay = 120_000)
    @Transactional
    void forget() {
        Sql.rows(
                        database,
                        "DELETE FROM known_place WHERE last_at < :before RETURNING person, kind, place",
                        Forgotten.class)
                .setParameter("before", clock.instant().minus(LIFE))
                .getResultStream()
                .filter(f -> f.kind().equals(BROWSER))
                .forEach(f -> devices.end(f.person(), f.place()));
    }
}
