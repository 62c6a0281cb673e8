package dev.entente.service.people;

import dev.entente.service.platform.Sql;
import java.sql.Timestamp;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** When the passwords of accounts were set, and whether those of one person are in step. */
@Component
public class AccountPasswords {
    private final Session database;

    AccountPasswords(Session database) {
        this.database = database;
    }

    /** That a delivery of ours set an account's password. */
    public record PasswordSet(UUID account, boolean mustChange, Instant at) {}

    /** Deliveries of ours set passwords: the accounts are in step, and a later sync that sees it is no surprise. */
    @Transactional
    public void set(List<PasswordSet> those) {
        var inOrder = those.stream()
                .sorted(Comparator.comparing(PasswordSet::account))
                .toList();
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
        Sql.change(database, "UPDATE account SET locked = false WHERE id IN (:ids)")
                .setParameter("ids", accounts)
                .executeUpdate();
    }

    /** How many people have accounts that fell out of step. */
    public int outOfStep() {
        return Sql.values(database, """
                        SELECT count(DISTINCT a.person) FROM account a WHERE a.changed_elsewhere_at IS NOT NULL
                        AND a.gone_at IS NULL AND EXISTS (SELECT 1 FROM account o WHERE o.person = a.person
                            AND o.id <> a.id AND o.gone_at IS NULL)""", Long.class).getSingleResult().intValue();
    }
}
