package dev.entente.service.people;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.directory.Directories;
import dev.entente.wire.StewardApi;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import org.springframework.stereotype.Component;

/** The names that people sign in with, as a sync reads them. */
@Component
class LoginNames {
    private final Directories directories;
    private final EventLog events;
    private final InstantSource clock;

    LoginNames(Directories directories, EventLog events, InstantSource clock) {
        this.directories = directories;
        this.events = events;
        this.clock = clock;
    }

    /** Takes the names that the accounts of a batch have now; {@code known} are those that had some before. */
    void take(BatchSql sql, UUID directory, List<StewardApi.Person> batch, Set<UUID> known) {
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
            sql.update("""
                    DELETE FROM account_login l WHERE l.account = ANY(?) AND NOT EXISTS (
                        SELECT 1 FROM unnest(?::uuid[], ?::text[]) AS t(account, login)
                        WHERE t.account = l.account AND t.login = l.login_key)""", known.toArray(UUID[]::new), accounts.toArray(UUID[]::new), names.toArray(String[]::new));
        }
        var fresh = new ArrayList<UUID>();
        var freshNames = new ArrayList<String>();
        sql.query(
                """
                INSERT INTO account_login (account, login_key) SELECT * FROM unnest(?::uuid[], ?::text[])
                ON CONFLICT DO NOTHING RETURNING account, login_key""",
                row -> {
                    fresh.add(row.getObject("account", UUID.class));
                    freshNames.add(row.getString("login_key"));
                },
                accounts.toArray(UUID[]::new),
                names.toArray(String[]::new));
        if (!fresh.isEmpty()) {
            namesOfTwo(sql, directory, fresh, freshNames);
        }
    }

    /**
     * A name that somebody else signs in with already goes on to mean them: whoever may write such a name must not make its owner
     * unknown. An administrator is asked.
     */
    private void namesOfTwo(BatchSql sql, UUID directory, List<UUID> accounts, List<String> names) {
        sql.query(
                """
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
                ON CONFLICT (account) WHERE settled_at IS NULL DO NOTHING RETURNING before""",
                row -> events.write(NewEvent.operation("correlation.in-doubt")
                        .with("directory", directories.name(directory))
                        .with("kind", "login")
                        .withPersonal("login", row.getString("before"))),
                accounts.toArray(UUID[]::new),
                names.toArray(String[]::new),
                directory,
                clock.instant());
    }
}
