package dev.entente.service.people;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.PeopleApi;
import java.sql.Timestamp;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Accounts whose person is in doubt, and how an administrator settles it. */
@Component
class Correlations {
    private final Session database;
    private final EventLog events;
    private final InstantSource clock;

    Correlations(Session database, EventLog events, InstantSource clock) {
        this.database = database;
        this.events = events;
        this.clock = clock;
    }

    /** What is open, oldest first, at most 200. */
    @Transactional(readOnly = true)
    List<PeopleApi.CorrelationCase> open() {
        return Sql.rows(database, """
                        SELECT c.id, c.kind, d.name AS directory, a.id AS account, a.login, a.dn, p.id AS person,
                            p.display_name AS name, c.before, c.after, o.id AS other, o.display_name AS other_name, c.opened_at
                        FROM correlation_case c JOIN known_directory d ON d.id = c.directory JOIN account a ON a.id = c.account
                        JOIN person p ON p.id = a.person LEFT JOIN person o ON o.correlation = c.after
                        WHERE c.settled_at IS NULL AND a.gone_at IS NULL ORDER BY c.opened_at, c.id LIMIT 200""", Open.class)
                .getResultStream()
                .map(c -> new PeopleApi.CorrelationCase(
                        c.id(),
                        c.kind(),
                        c.directory(),
                        c.account(),
                        c.login(),
                        c.dn(),
                        c.person(),
                        c.name(),
                        c.before(),
                        c.after(),
                        c.other(),
                        c.otherName(),
                        c.openedAt(),
                        says(c.kind(), c.login(), c.before(), c.after(), c.otherName())))
                .toList();
    }

    /** @param other whom the attribute names now; null if that is nobody yet */
    private record Open(
            UUID id,
            String kind,
            String directory,
            UUID account,
            String login,
            String dn,
            UUID person,
            String name,
            String before,
            String after,
            UUID other,
            String otherName,
            Instant openedAt) {}

    private record Settled(UUID account, String after) {}

    private static String says(String kind, String login, String before, String after, String other) {
        var whose = other == null ? "nobody else yet" : other;
        if (kind.equals("login")) {
            return "The account " + login + " has the name \"" + (before == null ? login : before) + "\", which "
                    + (other == null ? "someone else" : other)
                    + " signs in with, too. Until you settle it, the name means that person.";
        }
        return kind.equals("double")
                ? "The account " + login + " names " + after + ", which is " + whose
                        + ", who has an account in this directory already."
                : "The account " + login + " named " + (before == null ? "nobody" : before) + " and now names "
                        + (after == null ? "nobody" : after) + ", which is " + whose + ".";
    }

    /** Takes the account to the person whom its attribute names, or leaves it; the quarantine ends either way. */
    @Transactional
    void settle(UUID id, String decision, String administrator) {
        if (!"join".equals(decision) && !"keep-apart".equals(decision)) {
            throw Problem.of("case-decision");
        }
        var settled = Sql.rows(database, """
                        UPDATE correlation_case SET settled_at = :now, decision = :decision
                        WHERE id = :id AND settled_at IS NULL RETURNING account, after""", Settled.class)
                .setParameter("now", Timestamp.from(clock.instant()))
                .setParameter("decision", decision)
                .setParameter("id", id)
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.of("case-settled"));
        var account = settled.account();
        var after = settled.after();
        if (decision.equals("join")) {
            Sql.change(database, """
                            INSERT INTO person (id, correlation, display_name) SELECT :id, :key, display_name FROM account
                            WHERE id = :account ON CONFLICT (correlation) DO NOTHING""")
                    .setParameter("id", UUID.randomUUID())
                    .setParameter("key", after == null ? "account " + account : after)
                    .setParameter("account", account)
                    .executeUpdate();
            Sql.change(database, """
                            UPDATE account SET person = (SELECT id FROM person WHERE correlation = :key)
                            WHERE id = :account""")
                    .setParameter("key", after == null ? "account " + account : after)
                    .setParameter("account", account)
                    .executeUpdate();
        }
        // A name that nobody else has any more is the account's own.
        Sql.change(database, """
                        UPDATE account_login l SET shadowed = false FROM account a
                        WHERE a.id = l.account AND l.account = :account AND l.shadowed AND NOT EXISTS (
                            SELECT 1 FROM account_login o JOIN account b ON b.id = o.account
                            WHERE o.login_key = l.login_key AND NOT o.shadowed AND b.gone_at IS NULL
                            AND b.person <> a.person)""").setParameter("account", account).executeUpdate();
        Sql.change(database, """
                        UPDATE account SET quarantined = false,
                            changed_in = this_transaction() WHERE id = :account""").setParameter("account", account).executeUpdate();
        events.write(NewEvent.administration("correlation.settled", administrator)
                .with("decision", decision)
                .withPersonal("account", account.toString()));
    }
}
