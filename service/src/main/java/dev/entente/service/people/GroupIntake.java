package dev.entente.service.people;

import dev.entente.core.scope.GroupGraph;
import dev.entente.wire.StewardApi;
import java.time.InstantSource;
import java.util.UUID;
import org.springframework.stereotype.Component;

/** Groups and their members, as a sync reads them. */
@Component
class GroupIntake {
    private final InstantSource clock;

    GroupIntake(InstantSource clock) {
        this.clock = clock;
    }

    void take(BatchSql sql, UUID directory, StewardApi.Group group) {
        var key = GroupGraph.key(group.dn());
        sql.update(
                """
                INSERT INTO directory_group (directory, dn, name, dn_key, seen_at) VALUES (?, ?, ?, ?, ?)
                ON CONFLICT (directory, dn) DO UPDATE SET name = excluded.name, dn_key = excluded.dn_key,
                    seen_at = excluded.seen_at""",
                directory,
                group.dn(),
                group.name() == null ? GroupGraph.shortName(group.dn()) : group.name(),
                key,
                clock.instant());
        var members = group.members().stream()
                .map(GroupGraph::key)
                .distinct()
                .sorted()
                .toList();
        var changes = 0;
        if (group.first()) {
            // Those who stay are left alone, so that a comparison that finds nothing new writes nothing.
            changes += sql.update(
                    "DELETE FROM membership WHERE directory = ? AND group_key = ? AND NOT member_key = ANY(?)",
                    directory,
                    key,
                    members.toArray(String[]::new));
        }
        if (!members.isEmpty()) {
            changes += sql.update("""
                    INSERT INTO membership (directory, group_key, member_key)
                    SELECT ?, ?, member FROM unnest(?::text[]) AS t(member) ON CONFLICT DO NOTHING""", directory, key, members.toArray(String[]::new));
        }
        if (changes > 0) {
            sql.update(
                    "UPDATE directory_group SET changed_in = this_transaction() WHERE directory = ? AND dn = ?",
                    directory,
                    group.dn());
        }
    }
}
