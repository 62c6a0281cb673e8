package dev.entente.core.policy;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.EnumMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Collectors;
import org.roaringbitmap.RoaringBitmap;

/** One configuration against another, for everybody and one action. */
public final class Rehearsal {
    private final Survey before;
    private final Survey after;
    private final Map<Kind, RoaringBitmap> people = new EnumMap<>(Kind.class);

    /** What happens to people, the gravest first. */
    public enum Kind {
        LACKS_METHODS("could not do it today because they lack methods"),
        LOSES_WAY("can do it now and could not any more"),
        GAINS_WAY("cannot do it now and could"),
        LOSES_COVER("are covered now and would not be"),
        GAINS_COVER("are not covered now and would be"),
        OTHER_POLICY("would be covered by another policy"),
        PROVES_MORE("would have to prove more"),
        PROVES_LESS("would have to prove less"),
        PROVES_OTHERWISE("would have to prove something else");

        private final String words;

        Kind(String words) {
            this.words = words;
        }

        /** The name in interfaces. */
        public String label() {
            return name().toLowerCase(Locale.ROOT).replace('_', '-');
        }

        /** In words, to follow a number of people. */
        public String words() {
            return words;
        }

        /** The kind with this name. */
        public static java.util.Optional<Kind> labelled(String label) {
            return Arrays.stream(values()).filter(k -> k.label().equals(label)).findFirst();
        }
    }

    /** People who change from one policy to another; empty for no policy. */
    public record Move(String from, String to, int people) {}

    /**
     * How many of a group of people it concerns.
     *
     * @param size how many there are
     * @param losesWay and could not any more
     * @param lacksMethods and lack methods
     */
    public record Part(String name, int size, int losesWay, int lacksMethods) {}

    /** Both of the same people, action and circumstances. */
    public Rehearsal(Survey before, Survey after) {
        this.before = before;
        this.after = after;
        people.put(Kind.LOSES_WAY, RoaringBitmap.andNot(before.able(), after.able()));
        people.put(Kind.GAINS_WAY, RoaringBitmap.andNot(after.able(), before.able()));
        people.put(Kind.LACKS_METHODS, after.hindered().getOrDefault("methods-missing", new RoaringBitmap()));
        people.put(Kind.LOSES_COVER, RoaringBitmap.andNot(after.uncovered(), before.uncovered()));
        people.put(Kind.GAINS_COVER, RoaringBitmap.andNot(before.uncovered(), after.uncovered()));
        var other = new RoaringBitmap();
        before.covered()
                .forEach((from, those) -> after.covered().forEach((to, these) -> {
                    if (!from.equals(to)) {
                        other.or(RoaringBitmap.and(those, these));
                    }
                }));
        people.put(Kind.OTHER_POLICY, other);
        List.of(Kind.PROVES_MORE, Kind.PROVES_LESS, Kind.PROVES_OTHERWISE)
                .forEach(k -> people.put(k, new RoaringBitmap()));
        for (var was : before.asked()) {
            for (var is : after.asked()) {
                var both = RoaringBitmap.and(was.people(), is.people());
                if (!both.isEmpty()) {
                    compare(was.requirement(), is.requirement(), both);
                }
            }
        }
    }

    private void compare(Requirement was, Requirement is, RoaringBitmap both) {
        if (was.equals(is)) {
            return;
        }
        var stricter = is.atLeastAsStrictAs(was);
        var weaker = was.atLeastAsStrictAs(is);
        if (stricter != weaker) {
            people.get(stricter ? Kind.PROVES_MORE : Kind.PROVES_LESS).or(both);
        } else if (!stricter) {
            people.get(Kind.PROVES_OTHERWISE).or(both);
        }
    }

    /** Numbers of the people to whom this happens. */
    public RoaringBitmap people(Kind kind) {
        return people.get(kind);
    }

    /** Who goes from which policy to which. */
    public List<Move> moves() {
        var moves = new ArrayList<Move>();
        var from = new java.util.LinkedHashMap<>(before.covered());
        from.put("", before.uncovered());
        var to = new java.util.LinkedHashMap<>(after.covered());
        to.put("", after.uncovered());
        from.forEach((one, those) -> to.forEach((other, these) -> {
            var count = RoaringBitmap.andCardinality(those, these);
            if (count > 0 && !one.equals(other)) {
                moves.add(new Move(one, other, count));
            }
        }));
        return moves;
    }

    /** Who goes from one policy to another; empty for no policy. */
    public RoaringBitmap moved(String from, String to) {
        return RoaringBitmap.and(under(before, from), under(after, to));
    }

    private static RoaringBitmap under(Survey survey, String policy) {
        return policy.isEmpty() ? survey.uncovered() : survey.covered().getOrDefault(policy, new RoaringBitmap());
    }

    /** What it means for some people. */
    public Part part(String name, RoaringBitmap some) {
        return new Part(
                name,
                some.getCardinality(),
                RoaringBitmap.andCardinality(some, people.get(Kind.LOSES_WAY)),
                RoaringBitmap.andCardinality(some, people.get(Kind.LACKS_METHODS)));
    }

    /** How one person stood before. */
    public String before(int number) {
        return standing(before, number);
    }

    /** How one person would stand. */
    public String after(int number) {
        return standing(after, number);
    }

    private static String standing(Survey survey, int number) {
        var policy = survey.covered().entrySet().stream()
                .filter(e -> e.getValue().contains(number))
                .map(Map.Entry::getKey)
                .findFirst();
        if (policy.isEmpty()) {
            return "not covered";
        }
        var why = survey.hindered().entrySet().stream()
                .filter(e -> e.getValue().contains(number))
                .map(e -> e.getKey().replace('-', ' '))
                .collect(Collectors.joining(", "));
        return policy.get() + (why.isEmpty() ? "" : ": " + why);
    }
}
