package dev.entente.core.audit;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;

/**
 * A set of positions in the record, kept as runs: what is gone of a record is mostly whole stretches of it.
 *
 * @param runs first and last of each, in order; no two touch each other
 */
record Positions(List<Run> runs) {
    /** From {@code first} to {@code last}, both of them included. */
    record Run(long first, long last) {}

    static final Positions NONE = new Positions(List.of());

    /** Those that are in any of these runs, in whatever order they come. */
    static Positions of(List<Run> given) {
        var sorted = new ArrayList<>(given);
        sorted.sort(Comparator.comparingLong(Run::first));
        var runs = new Builder();
        sorted.forEach(run -> runs.add(run.first(), run.last()));
        return runs.positions();
    }

    /** Those that are here and not there. */
    Positions without(Positions there) {
        var left = new Builder();
        var at = 0;
        for (var run : runs) {
            var first = run.first();
            while (at < there.runs.size() && there.runs.get(at).last() < first) {
                at++;
            }
            for (var i = at; i < there.runs.size() && there.runs.get(i).first() <= run.last(); i++) {
                if (there.runs.get(i).first() > first) {
                    left.add(first, there.runs.get(i).first() - 1);
                }
                first = there.runs.get(i).last() + 1;
            }
            if (first <= run.last()) {
                left.add(first, run.last());
            }
        }
        return left.positions();
    }

    long count() {
        return runs.stream().mapToLong(run -> run.last() - run.first() + 1).sum();
    }

    /** Takes positions whose runs begin in order. */
    static final class Builder {
        private final List<Run> runs = new ArrayList<>();

        void add(long first, long last) {
            var before = runs.isEmpty() ? null : runs.get(runs.size() - 1);
            if (before != null && first <= before.last() + 1) {
                runs.set(runs.size() - 1, new Run(before.first(), Math.max(before.last(), last)));
            } else {
                runs.add(new Run(first, last));
            }
        }

        Positions positions() {
            return new Positions(List.copyOf(runs));
        }
    }
}
