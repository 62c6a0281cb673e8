package dev.entente.core.scope;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;

/**
 * Everybody, laid out as bitmaps so that scopes of a million people are a matter of milliseconds: one bitmap for each group,
 * place, attribute value and login name. People are numbered from 0 in the order in which they were added. Read by several
 * threads at once; written by one, and not while it is read.
 */
public final class Population {
    private static final RoaringBitmap NOBODY = new RoaringBitmap();

    private final List<UUID> ids = new ArrayList<>();
    private final Map<UUID, Integer> numbers = new HashMap<>();
    private final Map<String, RoaringBitmap> direct = new HashMap<>();
    private final Map<String, RoaringBitmap> places = new TreeMap<>();
    private final Map<String, Map<String, RoaringBitmap>> attributes = new HashMap<>();
    private final Map<String, Integer> logins = new HashMap<>();
    private final Map<String, String> groupKeys = new HashMap<>();
    private Map<String, List<String>> inside = Map.of();

    /** Adds somebody who was not added before; gives the number. */
    public int add(Subject subject) {
        var number = ids.size();
        if (numbers.putIfAbsent(subject.id(), number) != null) {
            throw new IllegalArgumentException("this person is there already");
        }
        ids.add(subject.id());
        subject.groups()
                .forEach(g -> direct.computeIfAbsent(groupKey(g), k -> new RoaringBitmap())
                        .add(number));
        for (var place : subject.places()) {
            var above = GroupGraph.above(GroupGraph.placeKey(place));
            places.computeIfAbsent(above, k -> new RoaringBitmap()).add(number);
        }
        subject.logins().forEach(l -> logins.put(l, number));
        subject.attributes().forEach((name, values) -> {
            var byValue = attributes.computeIfAbsent(name, k -> new HashMap<>());
            values.forEach(
                    v -> byValue.computeIfAbsent(v, k -> new RoaringBitmap()).add(number));
        });
        return number;
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

    /** Sets who a group lists as a member, in place of whom it listed before. */
    public void setMembers(String group, Collection<UUID> members) {
        var bitmap = new RoaringBitmap();
        for (var member : members) {
            var number = numbers.get(member);
            if (number != null) {
                bitmap.add(number);
            }
        }
        direct.put(groupKey(group), bitmap);
    }

    /** How many people there are. */
    public int size() {
        return ids.size();
    }

    /** Everybody. */
    public RoaringBitmap everybody() {
        var all = new RoaringBitmap();
        all.add(0L, ids.size());
        return all;
    }

    /** Whose number it is. */
    public UUID id(int number) {
        return ids.get(number);
    }

    /** Somebody's number; null if they are not there. */
    public Integer number(UUID id) {
        return numbers.get(id);
    }

    /** People whom a group lists as members; not to be changed. */
    RoaringBitmap direct(String key) {
        return direct.getOrDefault(key, NOBODY);
    }

    /** Groups that a group lists as members. */
    List<String> inside(String key) {
        return inside.getOrDefault(key, List.of());
    }

    /** People by the place that holds their account. */
    Map<String, RoaringBitmap> places() {
        return places;
    }

    /** People by the value of an attribute; not to be changed. */
    public Map<String, RoaringBitmap> values(String attribute) {
        return attributes.getOrDefault(attribute.toLowerCase(Locale.ROOT), Map.of());
    }

    /** The number of whoever signs in with a name; null for nobody. */
    Integer login(String login) {
        return logins.get(login.toLowerCase(Locale.ROOT));
    }
}
