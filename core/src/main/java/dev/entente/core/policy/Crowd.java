package dev.entente.core.policy;

import dev.entente.core.scope.Population;
import dev.entente.core.verify.Method;
import java.util.Arrays;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.roaringbitmap.RoaringBitmap;

/**
 * Everybody with what deciding needs to know, as bitmaps over the numbers of a {@link Population}. Read by several threads at
 * once; written by one, and not while it is read.
 */
public final class Crowd {
    private static final RoaringBitmap NOBODY = new RoaringBitmap();
    private static final long NEVER = Long.MIN_VALUE;

    private final Population population = new Population();
    private final Map<String, RoaringBitmap> accounts = new HashMap<>();
    private final Map<String, RoaringBitmap> enabled = new HashMap<>();
    private final Map<String, RoaringBitmap> disabled = new HashMap<>();
    private final Map<String, long[]> lastSignIn = new HashMap<>();
    private final Map<Method, RoaringBitmap> enrolled = new EnumMap<>(Method.class);
    private final RoaringBitmap privileged = new RoaringBitmap();
    private final RoaringBitmap unprivileged = new RoaringBitmap();

    /** Adds somebody who was not added before. */
    public void add(PersonFacts person) {
        var number = population.add(person.subject());
        for (var account : person.accounts()) {
            set(accounts, account.directory(), number);
            set(account.disabled() ? disabled : enabled, account.directory(), number);
            if (account.lastSignIn() != null) {
                var times = lastSignIn.computeIfAbsent(account.directory(), d -> new long[0]);
                if (times.length <= number) {
                    var before = times.length;
                    times = Arrays.copyOf(times, Math.max(1024, number * 2 + 1));
                    Arrays.fill(times, before, times.length, NEVER);
                    lastSignIn.put(account.directory(), times);
                }
                times[number] = Math.max(times[number], account.lastSignIn().getEpochSecond());
            }
        }
        person.enrolled()
                .forEach(m ->
                        enrolled.computeIfAbsent(m, k -> new RoaringBitmap()).add(number));
        if (person.privileged() != null) {
            (person.privileged() ? privileged : unprivileged).add(number);
        }
    }

    private static void set(Map<String, RoaringBitmap> sets, String name, int number) {
        sets.computeIfAbsent(name, n -> new RoaringBitmap()).add(number);
    }

    /** Who they are, and their groups, places and attributes. */
    public Population population() {
        return population;
    }

    /** People with an account in one of these directories. */
    RoaringBitmap accountsIn(List<String> directories) {
        return union(accounts, directories);
    }

    /** People with an account in one of these directories that is not switched off. */
    RoaringBitmap enabledIn(List<String> directories) {
        return union(enabled, directories);
    }

    /** People with an account in one of these directories that is switched off. */
    RoaringBitmap disabledIn(List<String> directories) {
        return union(disabled, directories);
    }

    /** Those of these people who did not sign in to one of these directories since a time, in seconds since 1970. */
    RoaringBitmap notSince(RoaringBitmap people, List<String> directories, long since) {
        var late = new RoaringBitmap();
        var all =
                directories.stream().map(lastSignIn::get).filter(t -> t != null).toList();
        people.forEach((int number) -> {
            for (var times : all) {
                if (number < times.length && times[number] >= since) {
                    return;
                }
            }
            late.add(number);
        });
        return late;
    }

    /** People who have a method. */
    RoaringBitmap enrolled(Method method) {
        return enrolled.getOrDefault(method, NOBODY);
    }

    /** People whose accounts are privileged, are not, or of whom that is not known. */
    public RoaringBitmap privileged(Boolean answer) {
        if (answer == null) {
            var unknown = population.everybody();
            unknown.andNot(privileged);
            unknown.andNot(unprivileged);
            return unknown;
        }
        return answer ? privileged : unprivileged;
    }

    private static RoaringBitmap union(Map<String, RoaringBitmap> sets, List<String> names) {
        var all = new RoaringBitmap();
        names.forEach(n -> all.or(sets.getOrDefault(n, NOBODY)));
        return all;
    }
}
