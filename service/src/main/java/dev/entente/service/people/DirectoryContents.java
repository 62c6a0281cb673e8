package dev.entente.service.people;

import dev.entente.service.platform.Sql;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** What there is in directories, for whoever checks whether a name that was written means something. */
@Component
@Transactional(readOnly = true)
public class DirectoryContents {
    private final Session database;

    DirectoryContents(Session database) {
        this.database = database;
    }

    /** Whether a directory was read with people in it. */
    public boolean read() {
        return !Sql.values(database, "SELECT 1 FROM account WHERE gone_at IS NULL LIMIT 1", Integer.class)
                .getResultList()
                .isEmpty();
    }

    /** Attributes that directories are read for, and those that each directory has anyway. */
    public Set<String> attributesRead() {
        return new HashSet<>(Sql.values(
                        database,
                        "SELECT DISTINCT unnest(attributes) FROM known_directory WHERE removed_at IS NULL",
                        String.class)
                .getResultList());
    }

    /** Distinguished names of all groups. */
    public List<String> groupNames() {
        return Sql.values(database, "SELECT dn FROM directory_group ORDER BY dn", String.class)
                .getResultList();
    }

    /** Distinguished names of all OUs, and of the bases that directories are read from. */
    public List<String> ouNames() {
        return Sql.values(database, """
                        SELECT dn FROM directory_ou UNION SELECT base FROM known_directory WHERE removed_at IS NULL AND base IS NOT NULL
                        UNION SELECT group_base FROM known_directory WHERE removed_at IS NULL AND group_base IS NOT NULL""", String.class).getResultList();
    }

    /** Whether somebody signs in with a name, in lower case. */
    public boolean loginKnown(String key) {
        return !Sql.values(database, """
                        SELECT 1 FROM account_login l JOIN account a ON a.id = l.account
                        WHERE l.login_key = :key AND a.gone_at IS NULL LIMIT 1""", Integer.class)
                .setParameter("key", key)
                .getResultList()
                .isEmpty();
    }

    /** Some names to sign in with that begin alike. */
    public List<String> loginsLike(String name) {
        return Sql.values(
                        database,
                        "SELECT DISTINCT login_key FROM account_login WHERE login_key LIKE :like ORDER BY 1 LIMIT 50",
                        String.class)
                .setParameter(
                        "like",
                        People.loginKey(name)
                                        .substring(0, Math.min(2, name.length()))
                                        .replaceAll("[%_\\\\]", "") + "%")
                .getResultList();
    }
}
