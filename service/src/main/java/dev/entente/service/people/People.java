package dev.entente.service.people;

import dev.entente.core.policy.PersonFacts;
import dev.entente.core.scope.GroupGraph;
import dev.entente.core.verify.Method;
import dev.entente.service.people.Person.Account;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.Standing;
import dev.entente.wire.PeopleApi;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
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

/** People as the directories have them. */
@Component
@Transactional(readOnly = true)
public class People {
    private static final int LONGEST_LOGIN = 256;
    private static final String ACCOUNTS = """
            SELECT a.id, a.directory, d.name AS directory_name, d.title AS directory_title, d.trust, a.person, p.number,
                p.display_name AS person_name, p.correlation, a.department, a.dn, a.login, a.display_name, a.disabled, a.locked,
                a.mail, a.mail_domains, d.mailboxes, a.phone, a.calls_only, a.quarantined, a.must_change, a.ends_at, a.last_sign_in, a.password_set_at, a.password_ends_at,
                a.changed_elsewhere_at, a.manager, a.rules, cast(a.attributes AS text) AS attributes,
                ARRAY(SELECT g.dn FROM membership m JOIN directory_group g ON g.directory = m.directory
                    AND g.dn_key = m.group_key WHERE m.directory = a.directory AND m.member_key = a.dn_key) AS groups,
                ARRAY(SELECT l.login_key FROM account_login l WHERE l.account = a.id) AS logins,
                ARRAY(SELECT DISTINCT m.method FROM method_of_person m WHERE m.person = a.person AND m.counts) AS methods
            FROM account a JOIN known_directory d ON d.id = a.directory JOIN person p ON p.id = a.person AND a.gone_at IS NULL
            """;

    private static final String IN_ORDER = "ORDER BY d.name DESC, a.login";

    private final Session database;
    private final DirectoryGroups groups;
    private final Standing standing;

    People(Session database, DirectoryGroups groups, Standing standing) {
        this.database = database;
        this.groups = groups;
        this.standing = standing;
    }

    /** A login name as it is compared. */
    static String loginKey(String typed) {
        return typed.strip().toLowerCase(Locale.ROOT);
    }

    /** The one person that a typed name means; empty if there is none, or more than one. */
    public Optional<Person> byLogin(String typed) {
        var key = typed == null || typed.length() > LONGEST_LOGIN ? "" : loginKey(typed);
        var rows = Sql.rows(database, ACCOUNTS + """
                        WHERE a.person IN (SELECT b.person FROM account_login l JOIN account b ON b.id = l.account
                            WHERE l.login_key = :key AND NOT l.shadowed AND b.gone_at IS NULL AND NOT b.quarantined)
                        """ + IN_ORDER, AccountRow.class)
                .setParameter("key", key)
                .getResultList();
        var found = persons(rows);
        return found.size() == 1 ? Optional.of(found.get(0)) : Optional.empty();
    }

    /** One person. */
    public Optional<Person> find(UUID id) {
        var rows = Sql.rows(database, ACCOUNTS + "WHERE a.person = :person " + IN_ORDER, AccountRow.class)
                .setParameter("person", id)
                .getResultList();
        return persons(rows).stream().findFirst();
    }

    /** A person by id, login name, or the only one whose name holds the text. */
    public Person resolve(String text) {
        try {
            return find(UUID.fromString(text)).orElseThrow(() -> Problem.of("person-not-found"));
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
                ? Problem.of("person-not-found/name").with("text", text)
                : Problem.of("several-people")
                        .with("text", text)
                        .with(
                                "list",
                                String.join(
                                        ", ", found.stream().map(Person::login).toList()))
                        .with("what", (found.size() == 3 ? " among them" : ""));
    }

    /** People by name, a page at a time; {@code after} is the last id of the page before. */
    public List<Person> search(String text, UUID after, int limit) {
        var typed = loginKey(text == null ? "" : text);
        var pattern = "%" + typed.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%";
        // Without a word to look for, the list is read in its order and no further than its page.
        var fits = typed.isEmpty() ? "" : """
                  AND (lower(q.display_name) LIKE :pattern OR q.id IN (SELECT b.person FROM account b
                    JOIN account_login l ON l.account = b.id WHERE l.login_key LIKE :pattern))""";
        var query = Sql.values(
                        database,
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

    /** Whom the most trusted directory that says so has as a person's manager; nobody is their own. */
    public Optional<Person> manager(Person person) {
        return person.accounts().stream()
                .filter(a -> !a.quarantined() && a.state().manager() != null)
                .min(Comparator.comparingInt(Account::trust))
                .flatMap(a -> Sql.values(database, """
                                SELECT person FROM account WHERE directory = :directory AND dn_key = :dn
                                AND gone_at IS NULL AND NOT quarantined""", UUID.class)
                        .setParameter("directory", a.directoryId())
                        .setParameter("dn", GroupGraph.placeKey(a.state().manager()))
                        .getResultStream()
                        .findFirst())
                .filter(manager -> !manager.equals(person.id()))
                .flatMap(this::find);
    }

    /** Several; whoever is gone is left out. */
    public Map<UUID, Person> find(List<UUID> ids) {
        if (ids.isEmpty()) {
            return Map.of();
        }
        var found = new HashMap<UUID, Person>();
        persons(Sql.rows(database, ACCOUNTS + "WHERE a.person IN (:ids) ORDER BY d.name DESC", AccountRow.class)
                        .setParameter("ids", ids)
                        .getResultList())
                .forEach(p -> found.put(p.id(), p));
        return found;
    }

    /** Several, in the order of their ids as given; whoever is gone is left out. */
    public List<PeopleApi.PersonRow> rows(List<UUID> ids) {
        var found = find(ids);
        return ids.stream()
                .filter(found::containsKey)
                .map(id -> found.get(id).row())
                .toList();
    }

    /** What deciding needs. */
    public PersonFacts facts(Person person) {
        var facts = new GatheredFacts(person.id(), person.enrolled());
        person.accounts().stream()
                .filter(a -> !a.quarantined())
                .forEach(a -> facts.add(
                        a.directory(),
                        a.trust(),
                        a.login(),
                        a.dn(),
                        a.disabled(),
                        a.reach(),
                        GatheredFacts.Mailboxes.of(a.mailDomains(), a.mailboxes()),
                        a.state().lastSignIn(),
                        a.attributes(),
                        a.logins()));
        var reach = groups.groups().reach(person.groups());
        return facts.facts(person.groups(), groups.protectedGroups().stream().anyMatch(reach::holds));
    }

    private record Numbered(int number, UUID id) {}

    private record Named(UUID id, String name) {}

    /** Ids by number. */
    public Map<Integer, UUID> numbered(List<Integer> numbers) {
        var ids = new HashMap<Integer, UUID>();
        if (!numbers.isEmpty()) {
            Sql.rows(database, "SELECT number, id FROM person WHERE number IN (:numbers)", Numbered.class)
                    .setParameter("numbers", numbers)
                    .getResultStream()
                    .forEach(row -> ids.put(row.number(), row.id()));
        }
        return ids;
    }

    /** Names by id, for lists. */
    public Map<UUID, String> names(Set<UUID> ids) {
        var names = new HashMap<UUID, String>();
        if (!ids.isEmpty()) {
            Sql.rows(database, "SELECT id, display_name AS name FROM person WHERE id IN (:ids)", Named.class)
                    .setParameter("ids", ids)
                    .getResultStream()
                    .forEach(row -> names.put(row.id(), row.name()));
        }
        return names;
    }

    /** Changes whenever what is known of people, groups and OUs does. */
    public String stamp() {
        return standing.stamp(Standing.Topic.PEOPLE);
    }

    /** Accounts as they come, each with its person; the person's department is that of the first account which has one. */
    private static List<Person> persons(List<AccountRow> rows) {
        var accounts = new LinkedHashMap<UUID, List<Account>>();
        var heads = new HashMap<UUID, AccountRow>();
        for (var row : rows) {
            heads.merge(
                    row.person(),
                    row,
                    (first, next) -> first.department() == null && next.department() != null ? next : first);
            accounts.computeIfAbsent(row.person(), id -> new ArrayList<>()).add(row.account());
        }
        return accounts.entrySet().stream()
                .map(of -> heads.get(of.getKey()).person(of.getValue()))
                .toList();
    }

    /** One row of {@link #ACCOUNTS}. */
    private record AccountRow(
            UUID id,
            UUID directory,
            String directoryName,
            String directoryTitle,
            int trust,
            UUID person,
            int number,
            String personName,
            String correlation,
            String department,
            String dn,
            String login,
            String displayName,
            boolean disabled,
            boolean locked,
            byte[] mail,
            String mailDomains,
            List<String> mailboxes,
            byte[] phone,
            boolean callsOnly,
            boolean quarantined,
            boolean mustChange,
            Instant endsAt,
            Instant lastSignIn,
            Instant passwordSetAt,
            Instant passwordEndsAt,
            Instant changedElsewhereAt,
            String manager,
            String rules,
            String attributes,
            List<String> groups,
            List<String> logins,
            List<String> methods) {
        Account account() {
            return new Account(
                    id,
                    directory,
                    directoryName,
                    directoryTitle,
                    login,
                    dn,
                    displayName,
                    disabled,
                    locked,
                    mail,
                    mailDomains,
                    mailboxes,
                    phone,
                    callsOnly,
                    groups,
                    trust,
                    quarantined,
                    new Person.State(
                            mustChange,
                            endsAt,
                            lastSignIn,
                            passwordSetAt,
                            passwordEndsAt,
                            changedElsewhereAt,
                            manager,
                            rules),
                    StoredAttributes.read(attributes),
                    logins);
        }

        Person person(List<Account> accounts) {
            var enrolled = methods.stream()
                    .flatMap(label -> Method.labelled(label).stream())
                    .collect(Collectors.toSet());
            return new Person(person, personName, correlation, department, accounts, enrolled, number);
        }
    }
}
