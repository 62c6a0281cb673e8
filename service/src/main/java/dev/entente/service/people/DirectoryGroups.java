package dev.entente.service.people;

import dev.entente.core.scope.GroupGraph;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.Standing;
import java.util.HashMap;
import java.util.List;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Groups of all directories, and which of them make their members privileged. */
@Component
@Transactional(readOnly = true)
public class DirectoryGroups {
    private final Session database;
    private final Standing standing;

    DirectoryGroups(Session database, Standing standing) {
        this.database = database;
        this.standing = standing;
    }

    private record Graph(GroupGraph groups, List<String> protectedGroups) {}

    /** All groups of all directories, read anew after each sync. */
    public GroupGraph groups() {
        return graph().groups();
    }

    /** Groups whose members are privileged. */
    public List<String> protectedGroups() {
        return graph().protectedGroups();
    }

    private record Group(String dn, List<String> parents) {}

    private Graph graph() {
        return standing.kept(Standing.Topic.PEOPLE, "groups", Graph.class, this::readGraph);
    }

    private Graph readGraph() {
        var parents = new HashMap<String, List<String>>();
        for (var group : Sql.rows(database, """
                        SELECT c.dn, ARRAY(SELECT g.dn FROM membership m JOIN directory_group g
                            ON g.directory = m.directory AND g.dn_key = m.group_key
                            WHERE m.directory = c.directory AND m.member_key = c.dn_key) AS parents FROM directory_group c""", Group.class).getResultList()) {
            parents.put(group.dn(), group.parents());
        }
        var guarded = Sql.values(
                        database,
                        "SELECT DISTINCT unnest(protected_groups) FROM known_directory WHERE removed_at IS NULL",
                        String.class)
                .getResultList();
        return new Graph(new GroupGraph(parents), guarded);
    }
}
