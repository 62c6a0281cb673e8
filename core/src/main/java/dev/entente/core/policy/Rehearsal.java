package dev.entente.core.policy;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.EnumMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Collectors;
import org.roaringbitmap.RoaringBitmap;

/** One configuration against another, for everybody and one action, in every situation that makes a difference. */
public final class Rehearsal {
    private final List<Survey> before;
    private final List<Survey> after;
    private final Map<Kind, RoaringBitmap> people = new EnumMap<>(Kind.class);

    /** What happens to people, the gravest first. */
    public enum Kind {
        LACKS_METHODS("couldn't do it today because they lack methods"),
        LOSES_WAY("can do it now and couldn't any more"),
        NEVER_ENROLS("lack methods and couldn't enrol them themselves"),
        EASIER_WAY_IN("would be easier to impersonate: see the ways in of their policy"),
        GAINS_WAY("can't do it now and could"),
        LOSES_COVER("are covered now and would not be"),
        GAINS_COVER("aren't covered now and would be"),
        OTHER_POLICY("would be covered by another policy"),
        HARDER_WAY_IN("would be harder to impersonate"),
        PROVES_MORE("would have to verify with more"),
        PROVES_LESS("would have to verify with less"),
        PROVES_OTHERWISE("would have to verify differently");

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
        this(List.of(before), List.of(after));
    }

    /** Both of the same people and action; one of each for every situation, in the same order. */
    public Rehearsal(List<Survey> before, List<Survey> after) {
        this.before = before;
        this.after = after;
        List.of(Kind.values()).forEach(kind -> people.put(kind, new RoaringBitmap()));
        for (var i = 0; i < before.size(); i++) {
            var was = before.get(i);
            var is = after.get(i);
            people.get(Kind.LOSES_WAY).or(RoaringBitmap.andNot(was.able(), is.able()));
            people.get(Kind.GAINS_WAY).or(RoaringBitmap.andNot(is.able(), was.able()));
            people.get(Kind.LACKS_METHODS).or(lacking(is));
            people.get(Kind.NEVER_ENROLS).or(is.stranded());
            for (var asked : was.asked()) {
                for (var then : is.asked()) {
                    var both = RoaringBitmap.and(asked.people(), then.people());
                    if (!both.isEmpty()) {
                        compare(asked.requirement(), then.requirement(), both);
                    }
                }
            }
        }
        var was = before.get(0);
        var is = after.get(0);
        people.get(Kind.LOSES_COVER).or(RoaringBitmap.andNot(is.uncovered(), was.uncovered()));
        people.get(Kind.GAINS_COVER).or(RoaringBitmap.andNot(was.uncovered(), is.uncovered()));
        was.covered()
                .forEach((from, those) -> is.covered().forEach((to, these) -> {
                    if (!from.equals(to)) {
                        people.get(Kind.OTHER_POLICY).or(RoaringBitmap.and(those, these));
                    }
                }));
    }

    /** Counts as well whom it makes easier or harder to impersonate; both of the same people and action. */
    public Rehearsal with(WeakestWays was, WeakestWays is) {
        people.get(Kind.EASIER_WAY_IN).or(is.easierThan(was));
        people.get(Kind.HARDER_WAY_IN).or(was.easierThan(is));
        return this;
    }

    private static RoaringBitmap lacking(Survey survey) {
        return survey.hindered().getOrDefault("methods-missing", new RoaringBitmap());
    }

    /** How many could do it before in one situation and could not any more. */
    public int losesWay(int situation) {
        return RoaringBitmap.andNotCardinality(
                before.get(situation).able(), after.get(situation).able());
    }

    /** How many lack methods in one situation. */
    public int lacksMethods(int situation) {
        return lacking(after.get(situation)).getCardinality();
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
        var from = new java.util.LinkedHashMap<>(before.get(0).covered());
        from.put("", before.get(0).uncovered());
        var to = new java.util.LinkedHashMap<>(after.get(0).covered());
        to.put("", after.get(0).uncovered());
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
        return RoaringBitmap.and(under(before.get(0), from), under(after.get(0), to));
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

    /** In the first situation in which something stands in the way; else as in the first. */
    private static String standing(List<Survey> surveys, int number) {
        var first = surveys.get(0);
        var policy = first.covered().entrySet().stream()
                .filter(e -> e.getValue().contains(number))
                .map(Map.Entry::getKey)
                .findFirst();
        if (policy.isEmpty()) {
            return "not covered";
        }
        var why = surveys.stream()
                .flatMap(survey -> survey.hindered().entrySet().stream())
                .filter(e -> e.getValue().contains(number))
                .map(e -> e.getKey().replace('-', ' '))
                .distinct()
                .collect(Collectors.joining(", "));
        return policy.get() + (why.isEmpty() ? "" : ": " + why);
    }
}
