package dev.entente.service.people;

import dev.entente.service.directory.Directories;
import dev.entente.service.directory.Jobs;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import java.time.InstantSource;
import java.util.List;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * Takes in what a sync reads. Each row carries when it was seen last; when a full read has ended, rows that it did not see are gone
 * from the directory, and kept for their history. {@link AccountOwners} says whose an account is.
 */
@Component
class SyncIntake {
    private static final int MOST_PEOPLE = 500;
    private static final int MOST_GROUPS = 50;
    private static final int MOST_MEMBERS = 2000;
    private static final int MOST_GONE = 10_000;
    private final Session database;
    private final AccountIntake accounts;
    private final GroupIntake groups;
    private final InstantSource clock;

    SyncIntake(Session database, AccountIntake accounts, GroupIntake groups, InstantSource clock) {
        this.database = database;
        this.accounts = accounts;
        this.groups = groups;
        this.clock = clock;
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void take(Jobs.SyncBatch sync) {
        var batch = sync.batch();
        if (batch.people().size() > MOST_PEOPLE
                || batch.groups().size() > MOST_GROUPS
                || batch.ous().size() > MOST_PEOPLE
                || batch.gone().size() > MOST_GONE
                || batch.groups().stream().anyMatch(g -> g.members().size() > MOST_MEMBERS)) {
            throw Problem.of("batch-too-large")
                    .with("mostPeople", MOST_PEOPLE)
                    .with("mostGroups", MOST_GROUPS)
                    .with("mostMembers", MOST_MEMBERS)
                    .with("mostGone", MOST_GONE);
        }
        database.doWork(connection -> {
            var sql = new BatchSql(connection);
            // Tables grow a thousandfold during a first read: a plan kept from its beginning is wrong at its end.
            sql.update("SET LOCAL plan_cache_mode = force_custom_plan");
            if (!batch.people().isEmpty()) {
                accounts.take(sql, sync.directory(), batch.people());
            }
            for (var group : batch.groups()) {
                groups.take(sql, sync.directory(), group);
            }
            if (!batch.ous().isEmpty()) {
                sql.update("""
                        INSERT INTO directory_ou (directory, dn, seen_at)
                        SELECT ?, dn, ? FROM unnest(?::text[]) AS t(dn) ORDER BY dn
                        ON CONFLICT (directory, dn) DO UPDATE SET seen_at = excluded.seen_at""", sync.directory(), clock.instant(), batch.ous().toArray(String[]::new));
            }
            if (!batch.gone().isEmpty()) {
                sql.update(
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
            Sql.change(database, statement)
                    .setParameter("directory", removed.directory())
                    .executeUpdate();
        }
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void count(Jobs.Missing missing) {
        var counts = Sql.rows(database, """
                        SELECT count(*) FILTER (WHERE seen_at < :since) AS missed, count(*) AS everyone FROM account
                        WHERE directory = :directory AND gone_at IS NULL""", Counts.class)
                .setParameter("since", missing.since())
                .setParameter("directory", missing.directory())
                .getSingleResult();
        missing.missed().set(counts.missed());
        missing.all().set(counts.everyone());
    }

    private record Counts(int missed, int everyone) {}

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void sweep(Jobs.SyncEnded sync) {
        Sql.change(database, """
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
            Sql.change(database, statement)
                    .setParameter("directory", sync.directory())
                    .setParameter("since", sync.since())
                    .executeUpdate();
        }
    }
}
