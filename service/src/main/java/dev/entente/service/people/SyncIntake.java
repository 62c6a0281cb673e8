package dev.entente.service.people;

import dev.entente.core.scope.GroupGraph;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.directory.Directories;
import dev.entente.service.directory.Jobs;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.wire.StewardApi;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.function.Function;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * Takes in what a sync reads, a whole batch with each statement. Each row carries when it was seen last; when a full read has
 * ended, rows that it did not see are gone from the directory, and kept for their history.
 *
 * <p>Whose an account is, is decided when it is seen first and changes only by an administrator's hand: an attribute that
 * moves it to somebody else, and a second account of a person in one directory, are set aside until somebody looks.
 */
@Component
class SyncIntake {
    private static final int MOST_PEOPLE = 500;
    private static final int MOST_GROUPS = 50;
    private static final int MOST_MEMBERS = 2000;
    private static final int MOST_GONE = 10_000;
    // Clocks of directories and ours may differ this much, and a password that we set be seen this late.
    private static final Duration OURS = Duration.ofMinutes(2);

    private final Session database;
    private final Directories directories;
    private final EventLog events;
    private final KeyRing keys;
    private final InstantSource clock;

    SyncIntake(Session database, Directories directories, EventLog events, KeyRing keys, InstantSource clock) {
        this.database = database;
        this.directories = directories;
        this.events = events;
        this.keys = keys;
        this.clock = clock;
    }

    /** Where an account belongs, and why it is set aside if it is. */
    private record Place(String correlation, UUID person, String doubt, String before) {}

    /** What is known of an account already. */
    private record Known(UUID person, String correlation, boolean quarantined, Instant passwordSetAt) {}

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void take(Jobs.SyncBatch sync) {
        var batch = sync.batch();
        if (batch.people().size() > MOST_PEOPLE
                || batch.groups().size() > MOST_GROUPS
                || batch.ous().size() > MOST_PEOPLE
                || batch.gone().size() > MOST_GONE
                || batch.groups().stream().anyMatch(g -> g.members().size() > MOST_MEMBERS)) {
            throw Problem.invalid(
                    "batch-too-large",
                    "A batch can hold at most " + MOST_PEOPLE + " people and OUs, " + MOST_GROUPS + " groups of "
                            + MOST_MEMBERS + " members, and " + MOST_GONE + " ids.");
        }
        database.doWork(connection -> {
            // Tables grow a thousandfold during a first read: a plan kept from its beginning is wrong at its end.
            try (var statement = connection.prepareStatement("SET LOCAL plan_cache_mode = force_custom_plan")) {
                statement.execute();
            }
            if (!batch.people().isEmpty()) {
                people(connection, sync.directory(), batch.people());
            }
            for (var group : batch.groups()) {
                group(connection, sync.directory(), group);
            }
            if (!batch.ous().isEmpty()) {
                update(connection, """
                        INSERT INTO directory_ou (directory, dn, seen_at)
                        SELECT ?, dn, ? FROM unnest(?::text[]) AS t(dn) ORDER BY dn
                        ON CONFLICT (directory, dn) DO UPDATE SET seen_at = excluded.seen_at""", sync.directory(), clock.instant(), texts(batch.ous()));
            }
            if (!batch.gone().isEmpty()) {
                update(
                        connection,
                        "UPDATE account SET gone_at = ?, changed_in = this_transaction()"
                                + " WHERE directory = ? AND id = ANY(?) AND gone_at IS NULL",
                        clock.instant(),
                        sync.directory(),
                        batch.gone().toArray(UUID[]::new));
            }
        });
    }

    /** What was read from a directory goes with it. */
    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void forget(Directories.Removed removed) {
        for (var statement : List.of(
                "DELETE FROM correlation_case WHERE directory = :directory",
                "DELETE FROM account_login WHERE account IN (SELECT id FROM account WHERE directory = :directory)",
                "DELETE FROM account WHERE directory = :directory",
                "DELETE FROM membership WHERE directory = :directory",
                "DELETE FROM directory_group WHERE directory = :directory",
                "DELETE FROM directory_ou WHERE directory = :directory")) {
            database.createNativeMutationQuery(statement)
                    .setParameter("directory", removed.directory())
                    .executeUpdate();
        }
    }

    private void people(Connection connection, UUID directory, List<StewardApi.Person> batch) throws SQLException {
        var known = known(connection, directory, batch);
        var places = places(connection, directory, batch, known);
        var owners = owners(connection, batch, places);
        var now = clock.instant();
        Function<Function<StewardApi.Person, String>, String[]> column =
                value -> batch.stream().map(value).toArray(String[]::new);
        update(
                connection,
                """
                INSERT INTO account (id, directory, person, dn, dn_key, login, display_name, department, disabled, locked,
                    mail, seen_at, correlation, quarantined, manager, ends_at, must_change, last_sign_in, password_set_at,
                    password_ends_at, rules, attributes, changed_in)
                SELECT t.id, ?, t.person, t.dn, t.dn_key, t.login, t.name, t.department, t.disabled, t.locked, t.mail, ?,
                    t.correlation, t.quarantined, t.manager, t.ends_at, t.must_change, t.last_sign_in, t.password_set_at,
                    t.password_ends_at, t.rules, t.attributes,
                    (SELECT this_transaction())
                FROM unnest(?::uuid[], ?::uuid[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::boolean[],
                    ?::boolean[], ?::bytea[], ?::text[], ?::boolean[], ?::text[], ?::timestamptz[], ?::boolean[],
                    ?::timestamptz[], ?::timestamptz[], ?::timestamptz[], ?::text[], ?::jsonb[])
                    AS t(id, person, dn, dn_key, login, name, department, disabled, locked, mail, correlation, quarantined,
                        manager, ends_at, must_change, last_sign_in, password_set_at, password_ends_at, rules, attributes)
                ON CONFLICT (id) DO UPDATE SET dn = excluded.dn, dn_key = excluded.dn_key, login = excluded.login,
                    display_name = excluded.display_name, department = excluded.department, disabled = excluded.disabled,
                    locked = excluded.locked, mail = excluded.mail, seen_at = excluded.seen_at, gone_at = NULL,
                    person = excluded.person, correlation = excluded.correlation, quarantined = excluded.quarantined,
                    manager = excluded.manager, ends_at = excluded.ends_at, must_change = excluded.must_change,
                    last_sign_in = excluded.last_sign_in, password_set_at = excluded.password_set_at,
                    password_ends_at = excluded.password_ends_at, rules = excluded.rules,
                    attributes = excluded.attributes, changed_in = excluded.changed_in
                WHERE account.directory = excluded.directory""",
                directory,
                now,
                batch.stream().map(StewardApi.Person::id).toArray(UUID[]::new),
                owners.toArray(UUID[]::new),
                column.apply(StewardApi.Person::dn),
                column.apply(p -> GroupGraph.placeKey(p.dn())),
                column.apply(StewardApi.Person::login),
                column.apply(p -> p.displayName() == null ? p.login() : p.displayName()),
                column.apply(StewardApi.Person::department),
                batch.stream().map(StewardApi.Person::disabled).toArray(Boolean[]::new),
                batch.stream().map(StewardApi.Person::locked).toArray(Boolean[]::new),
                batch.stream()
                        .map(p -> p.mail() == null ? null : keys.encrypt(People.mailContext(p.id()), p.mail()))
                        .toArray(byte[][]::new),
                places.stream().map(Place::correlation).toArray(String[]::new),
                places.stream().map(p -> p.doubt() != null).toArray(Boolean[]::new),
                column.apply(StewardApi.Person::manager),
                times(batch, StewardApi.Person::expiresAt),
                batch.stream().map(StewardApi.Person::mustChange).toArray(Boolean[]::new),
                times(batch, StewardApi.Person::lastSignIn),
                times(batch, StewardApi.Person::passwordSetAt),
                times(batch, StewardApi.Person::passwordEndsAt),
                column.apply(StewardApi.Person::rules),
                column.apply(p -> People.attributesText(p.attributes())));
        logins(connection, directory, batch, known.keySet());
        doubts(connection, directory, batch, places);
        passwordsSetElsewhere(connection, directory, batch, known);
    }

    private static Map<UUID, Known> known(Connection connection, UUID directory, List<StewardApi.Person> batch)
            throws SQLException {
        var known = new HashMap<UUID, Known>();
        try (var statement = connection.prepareStatement("""
                SELECT id, person, correlation, quarantined, password_set_at, directory FROM account
                WHERE id = ANY(?)""")) {
            statement.setArray(
                    1,
                    connection.createArrayOf(
                            "uuid", batch.stream().map(StewardApi.Person::id).toArray()));
            try (var rows = statement.executeQuery()) {
                while (rows.next()) {
                    if (!rows.getObject(6, UUID.class).equals(directory)) {
                        continue;
                    }
                    var set = rows.getTimestamp(5);
                    known.put(
                            rows.getObject(1, UUID.class),
                            new Known(
                                    rows.getObject(2, UUID.class),
                                    rows.getString(3),
                                    rows.getBoolean(4),
                                    set == null ? null : set.toInstant()));
                }
            }
        }
        return known;
    }

    private List<Place> places(
            Connection connection, UUID directory, List<StewardApi.Person> batch, Map<UUID, Known> known)
            throws SQLException {
        var wanted = new ArrayList<String>();
        batch.stream().map(SyncIntake::correlation).filter(c -> c != null).forEach(wanted::add);
        var here = new HashMap<String, Set<UUID>>();
        var trusted = new HashMap<String, Integer>();
        try (var statement = connection.prepareStatement("""
                SELECT a.correlation, a.id, a.directory = ?, d.trust FROM account a JOIN directory d ON d.id = a.directory
                WHERE a.correlation = ANY(?) AND a.gone_at IS NULL AND NOT a.quarantined""")) {
            statement.setObject(1, directory);
            statement.setArray(2, connection.createArrayOf("text", wanted.toArray()));
            try (var rows = statement.executeQuery()) {
                while (rows.next()) {
                    if (rows.getBoolean(3)) {
                        here.computeIfAbsent(rows.getString(1), c -> new HashSet<>())
                                .add(rows.getObject(2, UUID.class));
                    }
                    trusted.merge(rows.getString(1), rows.getInt(4), Math::min);
                }
            }
        }
        var places = new ArrayList<Place>();
        for (var person : batch) {
            var correlation = correlation(person);
            var before = known.get(person.id());
            if (before != null && same(before.correlation(), correlation)) {
                places.add(new Place(correlation, before.person(), before.quarantined() ? "open" : null, null));
                continue;
            }
            var others = here.getOrDefault(correlation, Set.of());
            var taken = correlation != null && others.stream().anyMatch(id -> !id.equals(person.id()));
            if (before != null && (before.correlation() != null || taken || trusted.containsKey(correlation))) {
                // Whoever may write the attribute must not get hold of somebody else's way in.
                places.add(new Place(correlation, before.person(), "changed", before.correlation()));
            } else if (taken) {
                places.add(new Place(correlation, null, "double", null));
            } else {
                places.add(new Place(correlation, null, null, null));
                if (correlation != null) {
                    here.computeIfAbsent(correlation, c -> new HashSet<>()).add(person.id());
                }
            }
        }
        return places;
    }

    private static String correlation(StewardApi.Person person) {
        return person.correlation() == null || person.correlation().isBlank()
                ? null
                : person.correlation().strip();
    }

    private static boolean same(String one, String other) {
        return one == null ? other == null : one.equals(other);
    }

    /** The person of each account, made where there is none. In one order for everybody, so that nobody waits in a circle. */
    private static List<UUID> owners(Connection connection, List<StewardApi.Person> batch, List<Place> places)
            throws SQLException {
        var names = new HashMap<String, String>();
        for (var i = 0; i < batch.size(); i++) {
            if (places.get(i).person() == null) {
                names.putIfAbsent(
                        personKey(batch.get(i), places.get(i)),
                        batch.get(i).displayName() == null
                                ? batch.get(i).login()
                                : batch.get(i).displayName());
            }
        }
        var keys = names.keySet().stream().sorted(Comparator.naturalOrder()).toList();
        var ids = new HashMap<String, UUID>();
        if (!keys.isEmpty()) {
            try (var statement = connection.prepareStatement("""
                    INSERT INTO person (id, correlation, display_name)
                    SELECT * FROM unnest(?::uuid[], ?::text[], ?::text[])
                    ON CONFLICT (correlation) DO UPDATE SET display_name = excluded.display_name
                    RETURNING correlation, id""")) {
                statement.setArray(
                        1,
                        connection.createArrayOf(
                                "uuid",
                                keys.stream().map(k -> UUID.randomUUID()).toArray()));
                statement.setArray(2, connection.createArrayOf("text", keys.toArray()));
                statement.setArray(
                        3,
                        connection.createArrayOf(
                                "text", keys.stream().map(names::get).toArray()));
                try (var rows = statement.executeQuery()) {
                    while (rows.next()) {
                        ids.put(rows.getString(1), rows.getObject(2, UUID.class));
                    }
                }
            }
        }
        var owners = new ArrayList<UUID>();
        for (var i = 0; i < batch.size(); i++) {
            var place = places.get(i);
            owners.add(place.person() != null ? place.person() : ids.get(personKey(batch.get(i), place)));
        }
        return owners;
    }

    /** Without a value to correlate by, or while it is in doubt, an account is a person of its own. */
    private static String personKey(StewardApi.Person person, Place place) {
        return place.correlation() == null || place.doubt() != null ? "account " + person.id() : place.correlation();
    }

    private void logins(Connection connection, UUID directory, List<StewardApi.Person> batch, Set<UUID> known)
            throws SQLException {
        var accounts = new ArrayList<UUID>();
        var names = new ArrayList<String>();
        for (var person : batch) {
            var logins = new LinkedHashSet<String>();
            logins.add(People.loginKey(person.login()));
            person.logins().forEach(l -> logins.add(People.loginKey(l)));
            for (var login : logins) {
                accounts.add(person.id());
                names.add(login);
            }
        }
        if (!known.isEmpty()) {
            update(connection, """
                    DELETE FROM account_login l WHERE l.account = ANY(?) AND NOT EXISTS (
                        SELECT 1 FROM unnest(?::uuid[], ?::text[]) AS t(account, login)
                        WHERE t.account = l.account AND t.login = l.login_key)""", known.toArray(UUID[]::new), accounts.toArray(UUID[]::new), texts(names));
        }
        try (var statement = connection.prepareStatement("""
                INSERT INTO account_login (account, login_key) SELECT * FROM unnest(?::uuid[], ?::text[])
                ON CONFLICT DO NOTHING RETURNING account, login_key""")) {
            statement.setArray(1, connection.createArrayOf("uuid", accounts.toArray()));
            statement.setArray(2, connection.createArrayOf("text", names.toArray()));
            var fresh = new ArrayList<UUID>();
            var freshNames = new ArrayList<String>();
            try (var rows = statement.executeQuery()) {
                while (rows.next()) {
                    fresh.add(rows.getObject(1, UUID.class));
                    freshNames.add(rows.getString(2));
                }
            }
            if (!fresh.isEmpty()) {
                namesOfTwo(connection, directory, fresh, freshNames);
            }
        }
    }

    /**
     * A name that somebody else signs in with already goes on to mean them: whoever may write such a name must not make its owner
     * unknown. An administrator is asked.
     */
    private void namesOfTwo(Connection connection, UUID directory, List<UUID> accounts, List<String> names)
            throws SQLException {
        try (var statement = connection.prepareStatement("""
                WITH fresh AS (SELECT * FROM unnest(?::uuid[], ?::text[]) AS f(account, login_key)),
                second AS (SELECT DISTINCT ON (f.account, f.login_key) f.account, f.login_key, p.correlation
                    FROM fresh f JOIN account a ON a.id = f.account
                    JOIN account_login o ON o.login_key = f.login_key AND NOT o.shadowed AND o.account <> f.account
                    JOIN account b ON b.id = o.account AND b.gone_at IS NULL AND b.person <> a.person
                    JOIN person p ON p.id = b.person
                    LEFT JOIN fresh g ON g.account = o.account AND g.login_key = o.login_key
                    WHERE g.account IS NULL OR g.account < f.account
                    ORDER BY f.account, f.login_key, p.correlation),
                shadowed AS (UPDATE account_login l SET shadowed = true FROM second s
                    WHERE l.account = s.account AND l.login_key = s.login_key)
                INSERT INTO correlation_case (id, directory, account, kind, before, after, opened_at)
                SELECT DISTINCT ON (account) gen_random_uuid(), ?, account, 'login', login_key, correlation, ? FROM second
                ON CONFLICT (account) WHERE settled_at IS NULL DO NOTHING RETURNING before""")) {
            statement.setArray(1, connection.createArrayOf("uuid", accounts.toArray()));
            statement.setArray(2, connection.createArrayOf("text", names.toArray()));
            statement.setObject(3, directory);
            statement.setTimestamp(4, Timestamp.from(clock.instant()));
            try (var rows = statement.executeQuery()) {
                while (rows.next()) {
                    events.write(NewEvent.operation("correlation.in-doubt")
                            .with("directory", directories.get(directory).name())
                            .with("kind", "login")
                            .withPersonal("login", rows.getString(1)));
                }
            }
        }
    }

    private void doubts(Connection connection, UUID directory, List<StewardApi.Person> batch, List<Place> places)
            throws SQLException {
        for (var i = 0; i < batch.size(); i++) {
            var place = places.get(i);
            if (place.doubt() == null || place.doubt().equals("open")) {
                continue;
            }
            var opened = update(
                    connection,
                    """
                    INSERT INTO correlation_case (id, directory, account, kind, before, after, opened_at)
                    VALUES (?, ?, ?, ?, ?, ?, ?)
                    ON CONFLICT (account) WHERE settled_at IS NULL DO UPDATE SET after = excluded.after""",
                    UUID.randomUUID(),
                    directory,
                    batch.get(i).id(),
                    place.doubt(),
                    place.before(),
                    place.correlation(),
                    clock.instant());
            if (opened == 1) {
                events.write(NewEvent.operation("correlation.in-doubt")
                        .with("directory", directories.get(directory).name())
                        .with("kind", place.doubt())
                        .withPersonal("login", batch.get(i).login()));
            }
        }
    }

    /** A password that moved without us is noticed: it may have fallen out of step with the person's other accounts. */
    private void passwordsSetElsewhere(
            Connection connection, UUID directory, List<StewardApi.Person> batch, Map<UUID, Known> known)
            throws SQLException {
        for (var person : batch) {
            var before = known.get(person.id());
            if (before == null || before.passwordSetAt() == null || person.passwordSetAt() == null) {
                continue;
            }
            var set = Instant.ofEpochMilli(person.passwordSetAt());
            if (Duration.between(before.passwordSetAt(), set).abs().compareTo(OURS) <= 0) {
                continue;
            }
            var noticed = update(connection, """
                    UPDATE account SET changed_elsewhere_at = ? WHERE id = ? AND NOT EXISTS (
                        SELECT 1 FROM delivery d WHERE d.account = account.id
                        AND (d.ended_at IS NULL OR d.ended_at > ?))""", set, person.id(), set.minus(OURS));
            if (noticed == 1) {
                events.write(NewEvent.operation("password.set-elsewhere")
                        .with("directory", directories.get(directory).name())
                        .withPersonal("login", person.login()));
            }
        }
    }

    private void group(Connection connection, UUID directory, StewardApi.Group group) throws SQLException {
        var key = GroupGraph.key(group.dn());
        update(
                connection,
                """
                INSERT INTO directory_group (directory, dn, name, dn_key, seen_at) VALUES (?, ?, ?, ?, ?)
                ON CONFLICT (directory, dn) DO UPDATE SET name = excluded.name, dn_key = excluded.dn_key,
                    seen_at = excluded.seen_at""",
                directory,
                group.dn(),
                group.name() == null ? GroupGraph.shortName(group.dn()) : group.name(),
                key,
                clock.instant());
        var members = group.members().stream()
                .map(GroupGraph::key)
                .distinct()
                .sorted()
                .toList();
        var changes = 0;
        if (group.first()) {
            // Those who stay are left alone, so that a comparison that finds nothing new writes nothing.
            changes += update(
                    connection,
                    "DELETE FROM membership WHERE directory = ? AND group_key = ? AND NOT member_key = ANY(?)",
                    directory,
                    key,
                    texts(members));
        }
        if (!members.isEmpty()) {
            changes += update(connection, """
                    INSERT INTO membership (directory, group_key, member_key)
                    SELECT ?, ?, member FROM unnest(?::text[]) AS t(member) ON CONFLICT DO NOTHING""", directory, key, texts(members));
        }
        if (changes > 0) {
            update(
                    connection,
                    "UPDATE directory_group SET changed_in = this_transaction() WHERE directory = ? AND dn = ?",
                    directory,
                    group.dn());
        }
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void count(Jobs.Missing missing) {
        var counts = database.createNativeQuery("""
                        SELECT count(*) FILTER (WHERE seen_at < :since), count(*) FROM account
                        WHERE directory = :directory AND gone_at IS NULL""", Object[].class)
                .setParameter("since", missing.since())
                .setParameter("directory", missing.directory())
                .getSingleResult();
        missing.missed().set(((Number) counts[0]).intValue());
        missing.all().set(((Number) counts[1]).intValue());
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void sweep(Jobs.SyncEnded sync) {
        database.createNativeMutationQuery("""
                        UPDATE account SET gone_at = :now, changed_in = this_transaction()
                        WHERE directory = :directory AND seen_at < :since AND gone_at IS NULL""")
                .setParameter("now", clock.instant())
                .setParameter("directory", sync.directory())
                .setParameter("since", sync.since())
                .executeUpdate();
        for (var statement : new String[] {
            "DELETE FROM membership m USING directory_group g WHERE g.directory = :directory AND g.seen_at < :since"
                    + " AND m.directory = g.directory AND m.group_key = g.dn_key",
            "DELETE FROM directory_group WHERE directory = :directory AND seen_at < :since",
            "DELETE FROM directory_ou WHERE directory = :directory AND seen_at < :since"
        }) {
            database.createNativeMutationQuery(statement)
                    .setParameter("directory", sync.directory())
                    .setParameter("since", sync.since())
                    .executeUpdate();
        }
    }

    private static String[] texts(List<String> values) {
        return values.toArray(String[]::new);
    }

    private static Timestamp[] times(List<StewardApi.Person> batch, Function<StewardApi.Person, Long> time) {
        return batch.stream()
                .map(time)
                .map(at -> at == null ? null : new Timestamp(at))
                .toArray(Timestamp[]::new);
    }

    /** One statement with its values; arrays become arrays of the database. */
    private static int update(Connection connection, String sql, Object... values) throws SQLException {
        try (var statement = connection.prepareStatement(sql)) {
            var index = 1;
            for (var value : values) {
                if (value instanceof Instant at) {
                    statement.setTimestamp(index, Timestamp.from(at));
                } else if (value instanceof Object[] array) {
                    statement.setArray(index, connection.createArrayOf(type(array), array));
                } else {
                    statement.setObject(index, value);
                }
                index++;
            }
            return statement.executeUpdate();
        }
    }

    private static String type(Object[] array) {
        if (array instanceof UUID[]) {
            return "uuid";
        }
        if (array instanceof Boolean[]) {
            return "boolean";
        }
        if (array instanceof Timestamp[]) {
            return "timestamptz";
        }
        return array instanceof byte[][] ? "bytea" : "text";
    }
}
