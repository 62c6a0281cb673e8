package dev.entente.service.people;

import dev.entente.core.policy.PersonFacts;
import dev.entente.core.verify.Method;
import dev.entente.service.platform.Sql;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.function.BiConsumer;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * What deciding needs to know about everybody, or about those who changed since a mark. Groups, and with them who is
 * privileged, are told apart from people: one group may change a hundred thousand of them.
 */
@Component
@Transactional(propagation = Propagation.MANDATORY)
public class Census {
    private static final int FETCHED_AT_ONCE = 5000;
    private static final String MEMBERS = """
            SELECT g.dn, a.person FROM directory_group g
            JOIN membership m ON m.directory = g.directory AND m.group_key = g.dn_key
            JOIN account a ON a.directory = m.directory AND a.dn_key = m.member_key
            WHERE a.gone_at IS NULL AND NOT a.quarantined""";

    private final Session database;

    Census(Session database) {
        this.database = database;
    }

    /**
     * How far something was read.
     *
     * @param era differs when so much changed that everything has to be read
     * @param state differs when anything changed
     * @param since the oldest transaction that this did not see
     */
    public record Mark(String era, String state, long since) {}

    /** To be taken before reading: what changes meanwhile is read again next time. */
    public Mark mark() {
        var state = Sql.rows(database, """
                        SELECT string_agg(concat_ws(' ', id, name, trust, protected_groups, mailboxes, removed_at), ', ' ORDER BY id)
                                || (SELECT count(*) FROM correlation_case WHERE decision = 'join') AS era,
                            string_agg(cast(changed_at AS text), ', ' ORDER BY id)
                                || (SELECT concat_ws(' ', ', ', count(*), sum(changed_in)) FROM method_of_person)
                                || (SELECT count(*) FROM correlation_case WHERE settled_at IS NOT NULL) AS since_then,
                            cast(cast(pg_snapshot_xmin(pg_current_snapshot()) AS text) AS bigint) AS oldest
                        FROM known_directory""", State.class).getSingleResult();
        return new Mark(String.valueOf(state.era()), state.era() + "; " + state.sinceThen(), state.oldest());
    }

    /** @param oldest the oldest transaction that was not over */
    private record State(String era, String sinceThen, long oldest) {}

    /** People of whom anything changed; those who are gone, too. */
    public List<UUID> changedSince(Mark mark) {
        return Sql.values(database, """
                        SELECT person FROM account WHERE changed_in >= :since
                        UNION SELECT person FROM method_of_person WHERE changed_in >= :since""", UUID.class)
                .setParameter("since", mark.since())
                .getResultList();
    }

    /**
     * Everybody, or some; without their groups and without saying who is privileged.
     *
     * @param ids null for everybody
     * @param each gets a person and the person's own number
     */
    public void people(List<UUID> ids, BiConsumer<PersonFacts, Integer> each) {
        var enrolled = enrolled(ids);
        stream("""
                SELECT a.person, p.number, d.name AS directory, d.trust, a.login, a.dn, a.disabled, a.quarantined,
                    a.mail IS NOT NULL AS has_mail, a.mail_domains, d.mailboxes, a.phone IS NOT NULL AS has_phone, a.calls_only, a.last_sign_in, cast(a.attributes AS text) AS attributes,
                    ARRAY(SELECT l.login_key FROM account_login l WHERE l.account = a.id) AS logins
                FROM account a JOIN known_directory d ON d.id = a.directory JOIN person p ON p.id = a.person
                WHERE a.gone_at IS NULL""" + (ids == null ? "" : " AND a.person = ANY(?)") + " ORDER BY a.person", ids, rows -> {
            GatheredFacts person = null;
            var number = 0;
            while (rows.next()) {
                var id = rows.getObject("person", UUID.class);
                if (person == null || !person.id.equals(id)) {
                    if (person != null) {
                        each.accept(person.facts(Set.of(), null), number);
                    }
                    person = new GatheredFacts(id, enrolled.getOrDefault(id, Set.of()));
                    number = rows.getInt("number");
                }
                if (!rows.getBoolean("quarantined")) {
                    add(person, rows);
                }
            }
            if (person != null) {
                each.accept(person.facts(Set.of(), null), number);
            }
        });
    }

    private static void add(GatheredFacts person, ResultSet row) throws SQLException {
        var signedIn = row.getTimestamp("last_sign_in");
        person.add(
                row.getString("directory"),
                row.getInt("trust"),
                row.getString("login"),
                row.getString("dn"),
                row.getBoolean("disabled"),
                Person.Account.reach(
                        row.getBoolean("has_mail"), row.getBoolean("has_phone"), row.getBoolean("calls_only")),
                GatheredFacts.Mailboxes.of(row.getString("mail_domains"), Arrays.asList((String[])
                        row.getArray("mailboxes").getArray())),
                signedIn == null ? null : signedIn.toInstant(),
                StoredAttributes.read(row.getString("attributes")),
                Arrays.asList((String[]) row.getArray("logins").getArray()));
    }

    private Map<UUID, Set<Method>> enrolled(List<UUID> ids) {
        var enrolled = new HashMap<UUID, Set<Method>>();
        stream(
                "SELECT person, method FROM method_of_person WHERE counts"
                        + (ids == null ? "" : " AND person = ANY(?)"),
                ids,
                rows -> {
                    while (rows.next()) {
                        var methods =
                                enrolled.computeIfAbsent(rows.getObject("person", UUID.class), id -> new TreeSet<>());
                        Method.labelled(rows.getString("method")).ifPresent(methods::add);
                    }
                });
        return enrolled;
    }

    /**
     * Which groups list whom.
     *
     * @param ids people to ask for; null for everybody
     * @param each gets a group's distinguished name and a person
     */
    public void members(List<UUID> ids, BiConsumer<String, UUID> each) {
        stream(MEMBERS + (ids == null ? "" : " AND a.person = ANY(?)"), ids, rows -> {
            while (rows.next()) {
                each.accept(rows.getString("dn"), rows.getObject("person", UUID.class));
            }
        });
    }

    /** Whom the groups list whose own list of members changed; a group that lists nobody any more, too. */
    public Map<String, List<UUID>> groupsChangedSince(Mark mark) {
        var groups = new HashMap<String, List<UUID>>();
        Sql.values(database, "SELECT dn FROM directory_group WHERE changed_in >= :since", String.class)
                .setParameter("since", mark.since())
                .getResultList()
                .forEach(dn -> groups.put(dn, new ArrayList<>()));
        if (!groups.isEmpty()) {
            stream(MEMBERS + " AND g.dn = ANY(?)", List.copyOf(groups.keySet()), rows -> {
                while (rows.next()) {
                    groups.get(rows.getString("dn")).add(rows.getObject("person", UUID.class));
                }
            });
        }
        return groups;
    }

    private interface Reader {
        void read(ResultSet rows) throws SQLException;
    }

    /** @param values of the statement's only parameter; null where it has none */
    private void stream(String sql, List<?> values, Reader reader) {
        database.doWork(connection -> {
            try (var statement = connection.prepareStatement(sql)) {
                statement.setFetchSize(FETCHED_AT_ONCE);
                if (values != null) {
                    statement.setArray(1, array(connection, values));
                }
                try (var rows = statement.executeQuery()) {
                    reader.read(rows);
                }
            }
        });
    }

    private static java.sql.Array array(Connection connection, List<?> values) throws SQLException {
        var type = values.stream().allMatch(v -> v instanceof UUID) ? "uuid" : "text";
        return connection.createArrayOf(type, values.toArray());
    }
}
