package dev.entente.core.scope;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;

/**
 * Everybody, laid out as bitmaps so that scopes of a million people are a matter of milliseconds: one bitmap for each group,
 * place, attribute value and login name. People are numbered from 0 in the order in which they were added, and keep their
 * number. Read by several threads at once; written by one, and not while it is read: what changes goes into a copy.
 */
public final class Population {
    private final List<UUID> ids;
    private final Map<UUID, Integer> numbers;
    private final RoaringBitmap present;
    private final Bitmaps<String> direct;
    private final Bitmaps<String> places;
    private final Map<String, Bitmaps<String>> attributes;
    private final Map<String, Integer> logins;
    private final Map<String, String> groupKeys = new HashMap<>();
    private Map<String, List<String>> inside;

    /** Without anybody. */
    public Population() {
        ids = new ArrayList<>();
        numbers = new HashMap<>();
        present = new RoaringBitmap();
        direct = new Bitmaps<>();
        places = new Bitmaps<>();
        attributes = new HashMap<>();
        logins = new HashMap<>();
        inside = Map.of();
    }

    private Population(Population other) {
        ids = new ArrayList<>(other.ids);
        numbers = new HashMap<>(other.numbers);
        present = other.present.clone();
        direct = other.direct.copy();
        places = other.places.copy();
        attributes = new HashMap<>();
        other.attributes.forEach((name, values) -> attributes.put(name, values.copy()));
        logins = new HashMap<>(other.logins);
        inside = other.inside;
    }

    /** The same people, to be changed by themselves; the original is not to be changed any more. */
    public Population copy() {
        return new Population(this);
    }

    /** Adds somebody who is not there; gives the number, the same again for whoever was there before. */
    public int add(Subject subject) {
        var known = numbers.putIfAbsent(subject.id(), ids.size());
        var number = known == null ? ids.size() : known;
        if (known == null) {
            ids.add(subject.id());
        }
        if (!present.checkedAdd(number)) {
            throw new IllegalArgumentException("this person is there already");
        }
        subject.groups().forEach(g -> direct.add(groupKey(g), number));
        subject.places().forEach(p -> places.add(GroupGraph.above(GroupGraph.placeKey(p)), number));
        subject.logins().forEach(l -> logins.put(l, number));
        subject.attributes().forEach((name, values) -> {
            var byValue = attributes.computeIfAbsent(name, k -> new Bitmaps<>());
            values.forEach(v -> byValue.add(v, number));
        });
        return number;
    }

    /** Takes people out, by number, with everything that is known of them. */
    public void remove(RoaringBitmap people) {
        present.andNot(people);
        direct.remove(people);
        places.remove(people);
        attributes.values().forEach(values -> values.remove(people));
        logins.values().removeIf(people::contains);
    }

    // The same few names come again for each person.
    private String groupKey(String group) {
        return groupKeys.computeIfAbsent(group, GroupGraph::key);
    }

    /** Sets which groups contain which, for all of them at once. */
    public void nest(GroupGraph groups) {
        var children = new HashMap<String, List<String>>();
        groups.parents()
                .forEach((group, above) -> above.forEach(
                        a -> children.computeIfAbsent(a, k -> new ArrayList<>()).add(group)));
        inside = children;
    }

    /** Sets who a group lists as a member, in place of whom it listed before; whoever is not there is left out. */
    public void setMembers(String group, Collection<UUID> members) {
        var bitmap = new RoaringBitmap();
        for (var member : members) {
            var number = number(member);
            if (number != null) {
                bitmap.add(number);
            }
        }
        direct.put(groupKey(group), bitmap);
    }

    /** Adds one member to those whom a group lists; whoever is not there is left out. */
    public void addMember(String group, UUID member) {
        var number = number(member);
        if (number != null) {
            direct.add(groupKey(group), number);
        }
    }

    /** Forgets who is a member of any other group than these. */
    public void retainGroups(GroupGraph groups) {
        direct.retain(groups.parents().keySet());
    }

    /** How many people there are. */
    public int size() {
        return present.getCardinality();
    }

    /** Everybody. */
    public RoaringBitmap everybody() {
        return present.clone();
    }

    /** Whose number it is. */
    public UUID id(int number) {
        return ids.get(number);
    }

    /** Somebody's number; null if they are not there. */
    public Integer number(UUID id) {
        var number = numbers.get(id);
        return number != null && present.contains(number) ? number : null;
    }

    /** People in any of these groups, nested members included. */
    public RoaringBitmap members(Collection<String> groups) {
        var all = new RoaringBitmap();
        groups.forEach(group -> all.or(within(groupKey(group))));
        return all;
    }

    /** People in the group with this key, nested members included, however the groups are nested. */
    RoaringBitmap within(String key) {
        var all = new RoaringBitmap();
        var seen = new HashSet<String>();
        var queue = new ArrayDeque<String>();
        seen.add(key);
        queue.add(key);
        while (!queue.isEmpty()) {
            var here = queue.remove();
            all.or(direct.get(here));
            for (var child : inside.getOrDefault(here, List.of())) {
                if (seen.add(child)) {
                    queue.add(child);
                }
            }
        }
        return all;
    }

    /** People by the place that holds their account. */
    Map<String, RoaringBitmap> places() {
        return places.all();
    }

    /** People by the value of an attribute; not to be changed. */
    public Map<String, RoaringBitmap> values(String attribute) {
        var values = attributes.get(attribute.toLowerCase(Locale.ROOT));
        return values == null ? Map.of() : values.all();
    }

    /** The number of whoever signs in with a name; null for nobody. */
    Integer login(String login) {
        return logins.get(login.toLowerCase(Locale.ROOT));
    }
}
