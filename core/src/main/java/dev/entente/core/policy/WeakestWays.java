package dev.entente.core.policy;

import dev.entente.core.policy.WaysIn.Way;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.roaringbitmap.RoaringBitmap;

/**
 * The weakest ways into everybody's accounts by one action, in every situation that makes a difference: the same answers as
 * {@link WaysIn#of} gives for one person, worked out once for all who are alike.
 */
public final class WeakestWays {
    private final Crowd crowd;
    private final WaysIn.Given given;
    /** By situation, in the order of the given ones; whoever no policy covers is in none. */
    private final List<List<Group>> groups = new ArrayList<>();

    private final RoaringBitmap uncovered;

    /** People into whose accounts the same ways lead. */
    private record Group(String policy, List<Way> ways, RoaringBitmap people) {}

    public WeakestWays(Configuration configuration, Crowd crowd, Action action, WaysIn.Given given) {
        this.crowd = crowd;
        this.given = given;
        var first = given.situations().get(0).circumstances();
        var survey = new Survey(configuration, crowd, action, first);
        this.uncovered = survey.uncovered();
        given.situations().forEach(s -> groups.add(new ArrayList<>()));
        var known = new HashMap<WaysIn.Asked, List<Way>>();
        for (var alike : survey.alike()) {
            byMeans(alike.have(), 0, alike.people(), new TreeSet<>(), (selfWritten, people) -> {
                var means = WaysIn.means(alike.have(), selfWritten::contains);
                for (var i = 0; i < groups.size(); i++) {
                    var asked = WaysIn.asked(
                            alike.policy(),
                            action,
                            alike.anybody(),
                            means,
                            given.situations().get(i).circumstances(),
                            given);
                    groups.get(i)
                            .add(new Group(alike.policy().name(), known.computeIfAbsent(asked, WaysIn::of), people));
                }
            });
        }
    }

    private interface Part {
        void take(Set<Method> selfWritten, RoaringBitmap people);
    }

    /** Splits people by which of their contact values they may write themselves. */
    private void byMeans(List<Method> have, int index, RoaringBitmap people, Set<Method> selfWritten, Part each) {
        if (people.isEmpty()) {
            return;
        }
        if (index == have.size()) {
            each.take(Set.copyOf(selfWritten), people);
            return;
        }
        var method = have.get(index);
        var may = given.selfWritten().people(crowd, method);
        selfWritten.add(method);
        byMeans(have, index + 1, RoaringBitmap.and(people, may), selfWritten, each);
        selfWritten.remove(method);
        byMeans(have, index + 1, RoaringBitmap.andNot(people, may), selfWritten, each);
    }

    /**
     * One way with all whom it concerns.
     *
     * @param situations where and when it works; empty if that makes no difference
     * @param privileged how many of the people have privileged accounts
     */
    public record Found(Way way, List<String> situations, RoaringBitmap people, int privileged) {
        /** A sentence, such as "The mailbox alone is enough (37 people).". */
        public String words() {
            var many = people.getCardinality();
            return way.words()
                    + (situations.isEmpty() ? "" : ", " + String.join("; ", situations))
                    + " (" + many + (many == 1 ? " person" : " people")
                    + (privileged == 0 ? "" : ", " + privileged + " of them with privileged accounts") + ").";
        }
    }

    /** The ways through one policy: those that need least first, and of these the ones that concern most people. */
    public List<Found> through(String policy) {
        var places = new LinkedHashMap<Way, Set<String>>();
        var people = new HashMap<Way, RoaringBitmap>();
        for (var i = 0; i < groups.size(); i++) {
            for (var group : groups.get(i)) {
                if (group.policy().equals(policy)) {
                    for (var way : group.ways()) {
                        places.computeIfAbsent(way, w -> new LinkedHashSet<>())
                                .add(given.situations().get(i).words());
                        people.computeIfAbsent(way, w -> new RoaringBitmap()).or(group.people());
                    }
                }
            }
        }
        var found = new ArrayList<Found>();
        places.forEach((way, where) -> found.add(new Found(
                way,
                where.size() == groups.size() ? List.of() : List.copyOf(where),
                people.get(way),
                RoaringBitmap.andCardinality(people.get(way), crowd.privileged(true)))));
        found.sort(Comparator.<Found>comparingInt(f -> f.way().holds().size())
                .thenComparing(f -> -f.people().getCardinality())
                .thenComparing(Found::way, Way.ORDER));
        return List.copyOf(found);
    }

    /** People with privileged accounts into which one thing is enough, by that thing. */
    public Map<Holding, RoaringBitmap> singleThingsToPrivileged() {
        var found = new TreeMap<Holding, RoaringBitmap>();
        for (var here : groups) {
            for (var group : here) {
                for (var way : group.ways()) {
                    if (way.holds().size() == 1) {
                        found.computeIfAbsent(way.holds().iterator().next(), h -> new RoaringBitmap())
                                .or(RoaringBitmap.and(group.people(), crowd.privileged(true)));
                    }
                }
            }
        }
        found.values().removeIf(RoaringBitmap::isEmpty);
        return found;
    }

    /** The ways into one person's accounts in one situation, by its place among the given ones. */
    List<Way> into(int person, int situation) {
        return groups.get(situation).stream()
                .filter(g -> g.people().contains(person))
                .findFirst()
                .map(Group::ways)
                .orElse(List.of());
    }

    /** People for whom there is a way in one situation that these others have not, nor any part of it. */
    public RoaringBitmap easierThan(WeakestWays others) {
        var easier = new RoaringBitmap();
        for (var i = 0; i < groups.size(); i++) {
            for (var group : groups.get(i)) {
                if (!group.ways().isEmpty()) {
                    easier.or(RoaringBitmap.and(group.people(), others.uncovered));
                }
                for (var other : others.groups.get(i)) {
                    if (WaysIn.weaker(other.ways(), group.ways())) {
                        easier.or(RoaringBitmap.and(group.people(), other.people()));
                    }
                }
            }
        }
        return easier;
    }
}
