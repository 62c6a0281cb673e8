package dev.entente.core.scope;

import java.util.Collection;
import java.util.List;

/**
 * A named set of people: those in any of some groups, nested members included, and in none of others.
 *
 * @param name as policies refer to it
 * @param title for people; the name if none was given
 * @param any groups by distinguished name; at least one
 * @param none groups whose members are left out
 */
public record Scope(String name, String title, List<String> any, List<String> none) {
    public Scope {
        any = List.copyOf(any);
        none = List.copyOf(none);
    }

    /**
     * Whether a person is in the scope, and why.
     *
     * @param covers the answer
     * @param because a sentence without full stop
     */
    public record Membership(boolean covers, String because) {}

    /** @param direct the groups that list one of the person's accounts as a member */
    public Membership membership(Collection<String> direct, GroupGraph graph) {
        for (var group : none) {
            var way = graph.path(direct, group);
            if (!way.isEmpty()) {
                return new Membership(false, "left out of " + title + " by " + describe(way));
            }
        }
        for (var group : any) {
            var way = graph.path(direct, group);
            if (!way.isEmpty()) {
                return new Membership(true, "in " + title + " by " + describe(way));
            }
        }
        return new Membership(
                false,
                "in none of the groups of " + title + ": "
                        + String.join(
                                ", ", any.stream().map(GroupGraph::shortName).toList()));
    }

    private static String describe(List<String> way) {
        return String.join(
                ", which is in ", way.stream().map(GroupGraph::shortName).toList());
    }
}
