package dev.entente.service.people;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.directory.Directories;
import dev.entente.wire.StewardApi;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import org.springframework.stereotype.Component;

/**
 * Whose an account is. That is decided when it is seen first and changes only by an administrator's hand: an attribute that moves
 * it to somebody else, and a second account of a person in one directory, are set aside until somebody looks.
 */
@Component
class AccountOwners {
    private final Directories directories;
    private final EventLog events;
    private final InstantSource clock;

    AccountOwners(Directories directories, EventLog events, InstantSource clock) {
        this.directories = directories;
        this.events = events;
        this.clock = clock;
    }

    /** Where an account belongs, and why it is set aside if it is. */
    record Place(String correlation, UUID person, String doubt, String before) {}

    /**
     * What is known of an account already.
     *
     * @param mail its addresses, encrypted; null for none, and where it is not known whether that was all of them
     */
    record Before(UUID person, String correlation, boolean quarantined, Instant passwordSetAt, byte[] mail) {}

    /** What is known of the accounts of a batch. */
    Map<UUID, Before> known(BatchSql sql, UUID directory, List<StewardApi.Person> batch) {
        var known = new HashMap<UUID, Before>();
        sql.query(
                """
                SELECT id, person, correlation, quarantined, password_set_at,
                    CASE WHEN mail_domains IS NOT NULL THEN mail END AS mail FROM account
                WHERE id = ANY(?) AND directory = ?""",
                row -> {
                    var set = row.getTimestamp("password_set_at");
                    known.put(
                            row.getObject("id", UUID.class),
                            new Before(
                                    row.getObject("person", UUID.class),
                                    row.getString("correlation"),
                                    row.getBoolean("quarantined"),
                                    set == null ? null : set.toInstant(),
                                    row.getBytes("mail")));
                },
                batch.stream().map(StewardApi.Person::id).toArray(UUID[]::new),
                directory);
        return known;
    }

    /** Where each account of a batch belongs. */
    List<Place> places(BatchSql sql, UUID directory, List<StewardApi.Person> batch, Map<UUID, Before> known) {
        var wanted = new ArrayList<String>();
        batch.stream().map(AccountOwners::correlation).filter(c -> c != null).forEach(wanted::add);
        var here = new HashMap<String, Set<UUID>>();
        var trusted = new HashMap<String, Integer>();
        sql.query(
                """
                SELECT a.correlation, a.id, a.directory = ? AS here, d.trust FROM account a
                JOIN known_directory d ON d.id = a.directory
                WHERE a.correlation = ANY(?) AND a.gone_at IS NULL AND NOT a.quarantined""",
                row -> {
                    var correlation = row.getString("correlation");
                    if (row.getBoolean("here")) {
                        here.computeIfAbsent(correlation, c -> new HashSet<>()).add(row.getObject("id", UUID.class));
                    }
                    trusted.merge(correlation, row.getInt("trust"), Math::min);
                },
                directory,
                wanted.toArray(String[]::new));
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
    List<UUID> owners(BatchSql sql, List<StewardApi.Person> batch, List<Place> places) {
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
            sql.query(
                    """
                    INSERT INTO person (id, correlation, display_name)
                    SELECT * FROM unnest(?::uuid[], ?::text[], ?::text[])
                    ON CONFLICT (correlation) DO UPDATE SET display_name = excluded.display_name
                    RETURNING correlation, id""",
                    row -> ids.put(row.getString("correlation"), row.getObject("id", UUID.class)),
                    keys.stream().map(k -> UUID.randomUUID()).toArray(UUID[]::new),
                    keys.toArray(String[]::new),
                    keys.stream().map(names::get).toArray(String[]::new));
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

    /** Opens a case for each account that is set aside anew. */
    void openCases(BatchSql sql, UUID directory, List<StewardApi.Person> batch, List<Place> places) {
        for (var i = 0; i < batch.size(); i++) {
            var place = places.get(i);
            if (place.doubt() == null || place.doubt().equals("open")) {
                continue;
            }
            var opened = sql.update(
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
}
