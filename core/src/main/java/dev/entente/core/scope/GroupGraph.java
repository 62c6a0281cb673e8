package dev.entente.core.scope;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import javax.naming.InvalidNameException;
import javax.naming.ldap.LdapName;

/**
 * Which groups contain which, nested at any depth, cycles allowed. Names are distinguished names (RFC 4514) and compare
 * without regard to case. Immutable.
 */
public final class GroupGraph {
    private final Map<String, Set<String>> parents;
    private final Map<String, String> written;

    /** @param parents for each group, the groups that list it as a member */
    public GroupGraph(Map<String, ? extends Collection<String>> parents) {
        var all = new HashMap<String, Set<String>>();
        var names = new HashMap<String, String>();
        parents.forEach((group, above) -> {
            var keys = new HashSet<String>();
            above.forEach(dn -> {
                keys.add(key(dn));
                names.put(key(dn), dn);
            });
            all.put(key(group), Set.copyOf(keys));
            names.put(key(group), group);
        });
        this.parents = Map.copyOf(all);
        this.written = Map.copyOf(names);
    }

    /** Every group that lists a person directly or through other groups. */
    public Reach reach(Collection<String> direct) {
        var cameFrom = new HashMap<String, String>();
        var queue = new ArrayDeque<String>();
        for (var dn : direct) {
            var start = key(dn);
            if (!cameFrom.containsKey(start)) {
                cameFrom.put(start, null);
                queue.add(start);
            }
        }
        while (!queue.isEmpty()) {
            var here = queue.remove();
            for (var above : parents.getOrDefault(here, Set.of())) {
                if (!cameFrom.containsKey(above)) {
                    cameFrom.put(above, here);
                    queue.add(above);
                }
            }
        }
        return new Reach(cameFrom);
    }

    /** The groups that one person is in. */
    public final class Reach {
        private final Map<String, String> cameFrom;

        private Reach(Map<String, String> cameFrom) {
            this.cameFrom = cameFrom;
        }

        /** Whether a group is among them. */
        public boolean holds(String group) {
            return cameFrom.containsKey(key(group));
        }

        /**
         * The shortest way from one of the groups that list the person to a group, both ends included.
         *
         * @return names of the groups on the way, as the directory writes them; empty if there is none
         */
        public List<String> way(String group) {
            return wayTo(key(group));
        }

        /** The same for a name as it is compared. */
        List<String> wayTo(String target) {
            if (!cameFrom.containsKey(target)) {
                return List.of();
            }
            var way = new ArrayList<String>();
            for (var step = target; step != null; step = cameFrom.get(step)) {
                way.add(written.getOrDefault(step, step));
            }
            Collections.reverse(way);
            return way;
        }
    }

    /** For each group, the groups that list it as a member; names as they are compared. */
    Map<String, Set<String>> parents() {
        return parents;
    }

    /**
     * Whether something stands in an OU.
     *
     * @param place {@link #placeKey} of it
     * @param ou {@link #key} of the OU
     * @param below whether OUs below it count too
     */
    static boolean isBelow(String place, String ou, boolean below) {
        if (place.length() <= ou.length() + 1 || !place.startsWith(ou) || place.charAt(ou.length()) != ',') {
            return false;
        }
        return below || above(place).length() == ou.length();
    }

    /** Whether something is a distinguished name at all: where groups have none, they are called otherwise. */
    public static boolean isName(String text) {
        try {
            return !text.isBlank() && !key(text).isEmpty();
        } catch (IllegalArgumentException e) {
            return false;
        }
    }

    /** Whether an entry stands below another one, at any depth, by their names as directories write them. */
    public static boolean stands(String dn, String below) {
        return isBelow(placeKey(dn), placeKey(below), true);
    }

    /** The place that holds a place, by {@link #placeKey}; empty at the top. */
    static String above(String place) {
        for (var i = place.length() - 1; i > 0; i--) {
            if (place.charAt(i) == ',' && place.charAt(i - 1) != '\\') {
                return place.substring(0, i);
            }
        }
        return "";
    }

    /** A name as it is compared: parsed, without needless spaces and escapes, in lower case. */
    public static String key(String dn) {
        if (isPlain(dn)) {
            // The common form needs no parser: hundreds of thousands of names are compared in one sync.
            var parts = dn.toLowerCase(Locale.ROOT).split(",", -1);
            Collections.reverse(Arrays.asList(parts));
            return String.join(",", parts);
        }
        try {
            // Part by part: a whole name keeps the spaces that it was written with.
            return new LdapName(dn)
                    .getRdns().stream()
                            .map(rdn -> rdn.toString().toLowerCase(Locale.ROOT))
                            .collect(Collectors.joining(","));
        } catch (InvalidNameException e) {
            throw new IllegalArgumentException("not a distinguished name: " + dn, e);
        }
    }

    /** Whether a name is written without escapes, quotes or needless spaces: then it compares as it is, but for its case. */
    private static boolean isPlain(String dn) {
        var start = 0;
        while (start < dn.length()) {
            var equals = dn.indexOf('=', start);
            var end = dn.indexOf(',', start);
            if (end < 0) {
                end = dn.length();
            }
            if (equals <= start || equals + 1 >= end || end + 1 == dn.length() || !isLetter(dn.charAt(start))) {
                return false;
            }
            for (var i = start; i < equals; i++) {
                if (!isLetter(dn.charAt(i)) && !isDigit(dn.charAt(i)) && dn.charAt(i) != '-') {
                    return false;
                }
            }
            for (var i = equals + 1; i < end; i++) {
                var c = dn.charAt(i);
                var inside = c == ' ' && i > equals + 1 && i < end - 1;
                var notFirst = (c == '\'' || c == '(' || c == ')') && i > equals + 1;
                if (!isLetter(c)
                        && !isDigit(c)
                        && c != '.'
                        && c != '_'
                        && c != '@'
                        && c != '-'
                        && !inside
                        && !notFirst) {
                    return false;
                }
            }
            start = end + 1;
        }
        return !dn.isEmpty();
    }

    private static boolean isLetter(char c) {
        return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z';
    }

    private static boolean isDigit(char c) {
        return c >= '0' && c <= '9';
    }

    /** Where an account stands, as it is compared; systems without distinguished names have plain ones. */
    public static String placeKey(String place) {
        try {
            return key(place);
        } catch (IllegalArgumentException e) {
            return place.toLowerCase(Locale.ROOT);
        }
    }

    /** The value of a name's first part, as people know the group. */
    public static String shortName(String dn) {
        try {
            var name = new LdapName(dn);
            return name.isEmpty() ? dn : name.getRdn(name.size() - 1).getValue().toString();
        } catch (InvalidNameException e) {
            return dn;
        }
    }
}
