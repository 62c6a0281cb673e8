package dev.entente.service.people;

import dev.entente.core.policy.PersonFacts;
import dev.entente.core.scope.GroupGraph;
import dev.entente.core.verify.Method;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Standing;
import dev.entente.wire.AdminApi;
import java.sql.Timestamp;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** People as the directories have them. */
@Component
@Transactional(readOnly = true)
public class People {
    private static final JsonMapper JSON = JsonMapper.builder().build();
    private static final int LONGEST_LOGIN = 256;
    private static final String ACCOUNTS =
            "SELECT a.id, a.directory, d.name, a.person, p.display_name, p.correlation, a.dn, a.login, a.department,"
                    + " a.disabled, a.locked, a.mail, ARRAY(SELECT g.dn FROM membership m JOIN directory_group g"
                    + " ON g.directory = m.directory AND g.dn_key = m.group_key"
                    + " WHERE m.directory = a.directory AND m.member_key = a.dn_key) AS groups, a.display_name AS own_name,"
                    + " d.title, d.trust, a.quarantined, a.must_change, a.ends_at, a.last_sign_in, a.password_set_at,"
                    + " a.password_ends_at, a.changed_elsewhere_at, a.manager, a.rules, cast(a.attributes AS text),"
                    + " ARRAY(SELECT l.login_key FROM account_login l WHERE l.account = a.id),"
                    + " ARRAY(SELECT DISTINCT e.method FROM enrolment e WHERE e.person = a.person"
                    + " AND e.confirmed_at IS NOT NULL AND e.removed_at IS NULL), p.number FROM account a"
                    + " JOIN directory d ON d.id = a.directory JOIN person p ON p.id = a.person AND a.gone_at IS NULL ";

    private static final String IN_ORDER = "ORDER BY d.name DESC, a.login";

    private final Session database;
    private final KeyRing keys;
    private final Standing standing;

    People(Session database, KeyRing keys, Standing standing) {
        this.database = database;
        this.keys = keys;
        this.standing = standing;
    }

    private record Graph(GroupGraph groups, List<String> protectedGroups) {}

    /** One account. */
    public record Account(
            UUID id,
            UUID directoryId,
            String directory,
            String directoryTitle,
            String login,
            String dn,
            String displayName,
            boolean disabled,
            boolean locked,
            byte[] mail,
            List<String> groups,
            int trust,
            boolean quarantined,
            State state,
            Map<String, List<String>> attributes,
            List<String> logins) {}

    /**
     * What else a directory says about an account; null where it does not.
     *
     * @param changedElsewhereAt when others set its password, so that it fell out of step with the person's other accounts
     */
    public record State(
            boolean mustChange,
            Instant endsAt,
            Instant lastSignIn,
            Instant passwordSetAt,
            Instant passwordEndsAt,
            Instant changedElsewhereAt,
            String manager,
            String rules) {}

    /**
     * One person with all accounts.
     *
     * @param number stays the person's own, for sets of people
     */
    public record Person(
            UUID id,
            String name,
            String correlation,
            String department,
            List<Account> accounts,
            Set<Method> enrolled,
            int number) {
        /** Groups that list one of the accounts, by distinguished name. */
        public Set<String> groups() {
            var groups = new HashSet<String>();
            accounts.stream().filter(a -> !a.quarantined()).forEach(a -> groups.addAll(a.groups()));
            return groups;
        }

        /** What the directories say, names in lower case. */
        public Map<String, Set<String>> attributes() {
            var attributes = new HashMap<String, Set<String>>();
            accounts.stream()
                    .filter(a -> !a.quarantined())
                    .forEach(account -> account.attributes()
                            .forEach((name, values) -> attributes
                                    .computeIfAbsent(name.toLowerCase(Locale.ROOT), n -> new LinkedHashSet<>())
                                    .addAll(values)));
            return attributes;
        }

        /** The first account's login name, to name the person by. */
        public String login() {
            return accounts.get(0).login();
        }

        /** For the list and the single page. */
        public AdminApi.PersonRow row() {
            return new AdminApi.PersonRow(id, name, department, shownAccounts());
        }

        List<AdminApi.Account> shownAccounts() {
            return accounts.stream()
                    .map(a -> new AdminApi.Account(
                            a.id(),
                            a.directory(),
                            a.login(),
                            a.dn(),
                            a.disabled(),
                            a.locked(),
                            a.mail() != null,
                            a.quarantined(),
                            a.state().mustChange(),
                            a.state().endsAt(),
                            a.state().lastSignIn(),
                            a.state().passwordSetAt(),
                            a.state().passwordEndsAt(),
                            accounts.size() > 1 ? a.state().changedElsewhereAt() : null,
                            a.state().manager(),
                            a.state().rules()))
                    .toList();
        }
    }

    /** A login name as it is compared. */
    static String loginKey(String typed) {
        return typed.strip().toLowerCase(Locale.ROOT);
    }

    /** The one person that a typed name means; empty if there is none, or more than one. */
    public Optional<Person> byLogin(String typed) {
        var key = typed == null || typed.length() > LONGEST_LOGIN ? "" : loginKey(typed);
        var rows = database.createNativeQuery(ACCOUNTS + """
                        WHERE a.person IN (SELECT b.person FROM account_login l JOIN account b ON b.id = l.account
                            WHERE l.login_key = :key AND NOT l.shadowed AND b.gone_at IS NULL AND NOT b.quarantined)
                        """ + IN_ORDER, Object[].class)
                .setParameter("key", key)
                .getResultList();
        var found = persons(rows);
        return found.size() == 1 ? Optional.of(found.get(0)) : Optional.empty();
    }

    /** One person. */
    public Optional<Person> find(UUID id) {
        var rows = database.createNativeQuery(ACCOUNTS + "WHERE a.person = :person " + IN_ORDER, Object[].class)
                .setParameter("person", id)
                .getResultList();
        return persons(rows).stream().findFirst();
    }

    /** A person by id, login name, or the only one whose name holds the text. */
    public Person resolve(String text) {
        try {
            return find(UUID.fromString(text)).orElseThrow(() -> Problem.missing("person", "with this id"));
        } catch (IllegalArgumentException e) {
            var exact = byLogin(text);
            if (exact.isPresent()) {
                return exact.get();
            }
        }
        var found = search(text, null, 3);
        if (found.size() == 1) {
            return found.get(0);
        }
        throw found.isEmpty()
                ? Problem.missing("person", "\"" + text + "\". Try a login name or part of the name")
                : Problem.conflict(
                        "several-people",
                        "More than one person matches \"" + text + "\": "
                                + String.join(
                                        ", ", found.stream().map(Person::login).toList())
                                + (found.size() == 3 ? " among them" : "") + "; give a login name.");
    }

    /** People by name, a page at a time; {@code after} is the last id of the page before. */
    public List<Person> search(String text, UUID after, int limit) {
        var typed = loginKey(text == null ? "" : text);
        var pattern = "%" + typed.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%";
        // Without a word to look for, the list is read in its order and no further than its page.
        var fits = typed.isEmpty() ? "" : """
                  AND (lower(q.display_name) LIKE :pattern OR q.id IN (SELECT b.person FROM account b
                    JOIN account_login l ON l.account = b.id WHERE l.login_key LIKE :pattern))""";
        var query = database.createNativeQuery(
                        """
                        SELECT q.id FROM person q
                        WHERE (SELECT true FROM account c WHERE c.person = q.id AND c.gone_at IS NULL LIMIT 1)
                        """ + (after == null ? "" : """
                         AND (lower(q.display_name), q.id) >
                            (SELECT lower(r.display_name), r.id FROM person r WHERE r.id = :after)""") + fits + " ORDER BY lower(q.display_name), q.id LIMIT :limit",
                        UUID.class)
                .setParameter("limit", limit);
        if (after != null) {
            query.setParameter("after", after);
        }
        if (!typed.isEmpty()) {
            query.setParameter("pattern", pattern);
        }
        var ids = query.getResultList();
        var found = find(ids);
        return ids.stream().filter(found::containsKey).map(found::get).toList();
    }

    /** Several; whoever is gone is left out. */
    public Map<UUID, Person> find(List<UUID> ids) {
        if (ids.isEmpty()) {
            return Map.of();
        }
        var found = new HashMap<UUID, Person>();
        persons(database.createNativeQuery(ACCOUNTS + "WHERE a.person IN (:ids) ORDER BY d.name DESC", Object[].class)
                        .setParameter("ids", ids)
                        .getResultList())
                .forEach(p -> found.put(p.id(), p));
        return found;
    }

    /** Several, in the order of their ids as given; whoever is gone is left out. */
    public List<AdminApi.PersonRow> rows(List<UUID> ids) {
        var found = find(ids);
        return ids.stream()
                .filter(found::containsKey)
                .map(id -> found.get(id).row())
                .toList();
    }

    /** What deciding needs. */
    public PersonFacts facts(Person person) {
        var graph = graph();
        var facts = new GatheredFacts(person.id(), person.enrolled());
        person.accounts().stream()
                .filter(a -> !a.quarantined())
                .forEach(a -> facts.add(
                        a.directory(),
                        a.trust(),
                        a.login(),
                        a.dn(),
                        a.disabled(),
                        a.mail() != null,
                        a.state().lastSignIn(),
                        a.attributes(),
                        a.logins()));
        var reach = graph.groups().reach(person.groups());
        return facts.facts(person.groups(), graph.protectedGroups().stream().anyMatch(reach::holds));
    }

    /** Ids by number. */
    public Map<Integer, UUID> numbered(List<Integer> numbers) {
        var ids = new HashMap<Integer, UUID>();
        if (!numbers.isEmpty()) {
            for (var row : database.createNativeQuery(
                            "SELECT number, id FROM person WHERE number IN (:numbers)", Object[].class)
                    .setParameter("numbers", numbers)
                    .getResultList()) {
                ids.put(((Number) row[0]).intValue(), (UUID) row[1]);
            }
        }
        return ids;
    }

    /** Names by id, for lists. */
    public Map<UUID, String> names(Set<UUID> ids) {
        var names = new HashMap<UUID, String>();
        if (!ids.isEmpty()) {
            for (var row : database.createNativeQuery(
                            "SELECT id, display_name FROM person WHERE id IN (:ids)", Object[].class)
                    .setParameter("ids", ids)
                    .getResultList()) {
                names.put((UUID) row[0], (String) row[1]);
            }
        }
        return names;
    }

    /**
     * The address that codes go to: that of an account in the most trusted directory where the person has any account. What
     * a less trusted directory says does not recover a more trusted account.
     */
    public Optional<String> mail(Person person) {
        return mailAccount(person).map(a -> keys.decrypt(mailContext(a.id()), a.mail()));
    }

    private static Optional<Account> mailAccount(Person person) {
        var accounts = person.accounts().stream().filter(a -> !a.quarantined()).toList();
        var most = accounts.stream().mapToInt(Account::trust).min().orElse(0);
        return accounts.stream()
                .filter(a -> a.mail() != null && a.trust() == most)
                .findFirst();
    }

    /** That a delivery of ours set an account's password. */
    public record PasswordSet(UUID account, boolean mustChange, Instant at) {}

    /** Deliveries of ours set passwords: the accounts are in step, and a later sync that sees it is no surprise. */
    @Transactional
    public void passwordsSet(List<PasswordSet> set) {
        var inOrder =
                set.stream().sorted(Comparator.comparing(PasswordSet::account)).toList();
        database.doWork(connection -> {
            try (var statement = connection.prepareStatement("""
                    UPDATE account SET password_set_at = ?, changed_elsewhere_at = NULL, must_change = ?, locked = false
                    WHERE id = ?""")) {
                for (var one : inOrder) {
                    statement.setTimestamp(1, Timestamp.from(one.at()));
                    statement.setBoolean(2, one.mustChange());
                    statement.setObject(3, one.account());
                    statement.addBatch();
                }
                statement.executeBatch();
            }
        });
    }

    /** Deliveries of ours cleared lockouts. */
    @Transactional
    public void unlocked(Set<UUID> accounts) {
        database.createNativeMutationQuery("UPDATE account SET locked = false WHERE id IN (:ids)")
                .setParameter("ids", accounts)
                .executeUpdate();
    }

    /** How many people have accounts that fell out of step. */
    public int outOfStep() {
        return database.createNativeQuery("""
                        SELECT count(DISTINCT a.person) FROM account a WHERE a.changed_elsewhere_at IS NOT NULL
                        AND a.gone_at IS NULL AND EXISTS (SELECT 1 FROM account o WHERE o.person = a.person
                            AND o.id <> a.id AND o.gone_at IS NULL)""", Long.class).getSingleResult().intValue();
    }

    static String mailContext(UUID account) {
        return "mail of account " + account + " v1";
    }

    /** All groups of all directories, read anew after each sync. */
    public GroupGraph groups() {
        return graph().groups();
    }

    /** Groups whose members are privileged. */
    public List<String> protectedGroups() {
        return graph().protectedGroups();
    }

    /** Changes whenever what is known of people, groups and OUs does. */
    public String stamp() {
        return standing.stamp(Standing.Topic.PEOPLE);
    }

    /** Whether a directory was read with people in it. */
    public boolean read() {
        return !database.createNativeQuery("SELECT 1 FROM account WHERE gone_at IS NULL LIMIT 1", Integer.class)
                .getResultList()
                .isEmpty();
    }

    /** Attributes that directories are read for, and those that each directory has anyway. */
    public Set<String> attributesRead() {
        return new HashSet<>(database.createNativeQuery(
                        "SELECT DISTINCT unnest(attributes) FROM directory WHERE removed_at IS NULL", String.class)
                .getResultList());
    }

    /** Distinguished names of all groups. */
    public List<String> groupNames() {
        return database.createNativeQuery("SELECT dn FROM directory_group ORDER BY dn", String.class)
                .getResultList();
    }

    /** Distinguished names of all OUs, and of the bases that directories are read from. */
    public List<String> ouNames() {
        return database.createNativeQuery("""
                        SELECT dn FROM directory_ou UNION SELECT base FROM directory WHERE removed_at IS NULL AND base IS NOT NULL
                        UNION SELECT group_base FROM directory WHERE removed_at IS NULL AND group_base IS NOT NULL""", String.class).getResultList();
    }

    /** Whether somebody signs in with a name, in lower case. */
    public boolean loginKnown(String key) {
        return !database.createNativeQuery("""
                        SELECT 1 FROM account_login l JOIN account a ON a.id = l.account
                        WHERE l.login_key = :key AND a.gone_at IS NULL LIMIT 1""", Integer.class)
                .setParameter("key", key)
                .getResultList()
                .isEmpty();
    }

    /** Some names to sign in with that begin alike. */
    public List<String> loginsLike(String name) {
        return database.createNativeQuery(
                        "SELECT DISTINCT login_key FROM account_login WHERE login_key LIKE :like ORDER BY 1 LIMIT 50",
                        String.class)
                .setParameter(
                        "like",
                        loginKey(name).substring(0, Math.min(2, name.length())).replaceAll("[%_\\\\]", "") + "%")
                .getResultList();
    }

    private Graph graph() {
        return standing.kept(Standing.Topic.PEOPLE, "groups", Graph.class, this::readGraph);
    }

    private Graph readGraph() {
        var parents = new HashMap<String, List<String>>();
        for (var row : database.createNativeQuery("""
                        SELECT c.dn, ARRAY(SELECT g.dn FROM membership m JOIN directory_group g
                            ON g.directory = m.directory AND g.dn_key = m.group_key
                            WHERE m.directory = c.directory AND m.member_key = c.dn_key) FROM directory_group c""", Object[].class).getResultList()) {
            parents.put((String) row[0], Arrays.asList((String[]) row[1]));
        }
        var guarded = database.createNativeQuery(
                        "SELECT DISTINCT unnest(protected_groups) FROM directory WHERE removed_at IS NULL",
                        String.class)
                .getResultList();
        return new Graph(new GroupGraph(parents), guarded);
    }

    private static Set<Method> methods(String[] labels) {
        return Arrays.stream(labels).flatMap(l -> Method.labelled(l).stream()).collect(Collectors.toSet());
    }

    /** Attributes as they are stored. */
    static String attributesText(Map<String, List<String>> attributes) {
        return JSON.writeValueAsString(attributes == null ? Map.of() : attributes);
    }

    static Map<String, List<String>> attributes(String text) {
        return JSON.readValue(text, new TypeReference<>() {});
    }

    private static List<Person> persons(List<Object[]> rows) {
        var accounts = new LinkedHashMap<UUID, List<Account>>();
        var heads = new HashMap<UUID, Object[]>();
        for (var r : rows) {
            var person = (UUID) r[3];
            heads.merge(person, r, (first, next) -> first[8] == null && next[8] != null ? next : first);
            accounts.computeIfAbsent(person, id -> new ArrayList<>())
                    .add(new Account(
                            (UUID) r[0],
                            (UUID) r[1],
                            (String) r[2],
                            (String) r[14],
                            (String) r[7],
                            (String) r[6],
                            (String) r[13],
                            (Boolean) r[9],
                            (Boolean) r[10],
                            (byte[]) r[11],
                            Arrays.asList((String[]) r[12]),
                            ((Number) r[15]).intValue(),
                            (Boolean) r[16],
                            new State(
                                    (Boolean) r[17],
                                    (Instant) r[18],
                                    (Instant) r[19],
                                    (Instant) r[20],
                                    (Instant) r[21],
                                    (Instant) r[22],
                                    (String) r[23],
                                    (String) r[24]),
                            attributes((String) r[25]),
                            Arrays.asList((String[]) r[26])));
        }
        return accounts.entrySet().stream()
                .map(e -> {
                    var head = heads.get(e.getKey());
                    return new Person(
                            e.getKey(),
                            (String) head[4],
                            (String) head[5],
                            (String) head[8],
                            e.getValue(),
                            methods((String[]) head[27]),
                            ((Number) head[28]).intValue());
                })
                .toList();
    }
}
