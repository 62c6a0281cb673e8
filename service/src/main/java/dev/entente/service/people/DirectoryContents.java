package dev.entente.service.people;

import dev.entente.core.scope.GroupGraph;
import dev.entente.service.platform.Sql;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.UUID;
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

    /**
     * An account that {@link #under} found.
     *
     * @param person null as long as it is nobody's
     */
    public record Under(UUID id, UUID person, String login) {}

    /**
     * Accounts of a directory in these groups, nested, or below these entries, by name.
     *
     * @param groups distinguished names
     * @param bases distinguished names; {@code *} for every account
     */
    public List<Under> under(UUID directory, Collection<String> groups, Collection<String> bases) {
        return Sql.rows(database, """
                        WITH RECURSIVE inside (key) AS (SELECT unnest(cast(:groups AS text[]))
                            UNION SELECT m.member_key FROM membership m JOIN inside i
                                ON m.directory = :directory AND m.group_key = i.key)
                        SELECT id, person, login FROM account WHERE directory = :directory AND gone_at IS NULL AND NOT quarantined
                            AND (:everybody OR dn_key IN (SELECT key FROM inside)
                                OR EXISTS (SELECT FROM unnest(cast(:bases AS text[])) AS base WHERE starts_with(dn_key, base || ',')))
                        ORDER BY login""", Under.class)
                .setParameter("directory", directory)
                .setParameter(
                        "groups", groups.stream().map(GroupGraph::placeKey).toArray(String[]::new))
                .setParameter("bases", bases.stream().map(GroupGraph::placeKey).toArray(String[]::new))
                .setParameter("everybody", bases.contains("*"))
                .getResultList();
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
