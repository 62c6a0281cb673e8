package dev.entente.core.policy;

import dev.entente.core.scope.Bitmaps;
import dev.entente.core.scope.Population;
import dev.entente.core.verify.Method;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;

/**
 * Everybody with what deciding needs to know, as bitmaps over the numbers of a {@link Population}. Read by several threads at
 * once; written by one, and not while it is read: what changes goes into a copy.
 */
public final class Crowd {
    private static final long NEVER = Long.MIN_VALUE;

    private final Population population;
    private final Bitmaps<String> accounts;
    private final Bitmaps<String> enabled;
    private final Bitmaps<String> disabled;
    private final Map<String, long[]> lastSignIn = new HashMap<>();
    private final Bitmaps<Method> enrolled;
    private final Bitmaps<Method> behindPassword;
    private final RoaringBitmap privileged;
    private final RoaringBitmap unprivileged;

    /** Without anybody. */
    public Crowd() {
        population = new Population();
        accounts = new Bitmaps<>();
        enabled = new Bitmaps<>();
        disabled = new Bitmaps<>();
        enrolled = new Bitmaps<>();
        behindPassword = new Bitmaps<>();
        privileged = new RoaringBitmap();
        unprivileged = new RoaringBitmap();
    }

    private Crowd(Crowd other) {
        population = other.population.copy();
        accounts = other.accounts.copy();
        enabled = other.enabled.copy();
        disabled = other.disabled.copy();
        other.lastSignIn.forEach((directory, times) -> lastSignIn.put(directory, times.clone()));
        enrolled = other.enrolled.copy();
        behindPassword = other.behindPassword.copy();
        privileged = other.privileged.clone();
        unprivileged = other.unprivileged.clone();
    }

    /** The same people, to be changed by themselves; the original is not to be changed any more. */
    public Crowd copy() {
        return new Crowd(this);
    }

    /** Adds somebody who is not there. */
    public void add(PersonFacts person) {
        var number = population.add(person.subject());
        for (var account : person.accounts()) {
            accounts.add(account.directory(), number);
            (account.disabled() ? disabled : enabled).add(account.directory(), number);
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
        person.enrolled().forEach(m -> enrolled.add(m, number));
        person.behindPassword().forEach(m -> behindPassword.add(m, number));
        if (person.privileged() != null) {
            (person.privileged() ? privileged : unprivileged).add(number);
        }
    }

    /** Takes people out, whoever of them is there. */
    public void remove(Collection<UUID> people) {
        var numbers = new RoaringBitmap();
        for (var id : people) {
            var number = population.number(id);
            if (number != null) {
                numbers.add(number);
            }
        }
        population.remove(numbers);
        List.of(accounts, enabled, disabled).forEach(sets -> sets.remove(numbers));
        lastSignIn
                .values()
                .forEach(times -> numbers.forEach((int number) -> {
                    if (number < times.length) {
                        times[number] = NEVER;
                    }
                }));
        enrolled.remove(numbers);
        behindPassword.remove(numbers);
        privileged.andNot(numbers);
        unprivileged.andNot(numbers);
    }

    /** Whoever is in one of these groups is privileged, and nobody else is. */
    public void protect(Collection<String> groups) {
        privileged.clear();
        privileged.or(population.members(groups));
        unprivileged.clear();
        unprivileged.or(population.everybody());
        unprivileged.andNot(privileged);
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

    /** People who have a method; not to be changed. */
    public RoaringBitmap enrolled(Method method) {
        return enrolled.get(method);
    }

    /** People who have a method that counts under this policy; not to be changed. */
    RoaringBitmap enrolled(Method method, Policy policy) {
        return policy.lockedMailbox().value()
                ? RoaringBitmap.or(enrolled.get(method), behindPassword.get(method))
                : enrolled.get(method);
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

    private static RoaringBitmap union(Bitmaps<String> sets, List<String> names) {
        var all = new RoaringBitmap();
        names.forEach(n -> all.or(sets.get(n)));
        return all;
    }
}
