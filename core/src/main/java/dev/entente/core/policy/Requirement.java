package dev.entente.core.policy;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Method;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;

/**
 * What must be proved before an action.
 *
 * @param methods how many different ones
 * @param factors how many different factors they have to show, at most {@code methods}
 * @param anyOf from which
 * @param mustInclude those of them that have to be among the proved
 * @param first one of these has to be proved first; empty if any may
 * @param notAlone those of them that never suffice alone, whatever {@code methods} says
 * @param counts what each of them counts as where factors are counted; what is not named counts as it usually does
 */
public record Requirement(
        int methods,
        int factors,
        List<Method> anyOf,
        Set<Method> mustInclude,
        Set<Method> first,
        Set<Method> notAlone,
        Map<Method, Factor> counts) {
    public Requirement {
        anyOf = List.copyOf(anyOf);
        mustInclude = ordered(mustInclude);
        first = ordered(first);
        notAlone = ordered(notAlone);
        // One that was written down before methods could count as something else names none.
        counts = counts == null || counts.isEmpty() ? Map.of() : Collections.unmodifiableMap(new TreeMap<>(counts));
    }

    private static Set<Method> ordered(Set<Method> methods) {
        return methods.isEmpty() ? Set.of() : Method.set(methods);
    }

    /** One method of these, without anything else. */
    public static Requirement one(Method... anyOf) {
        return new Requirement(1, 1, List.of(anyOf), Set.of(), Set.of(), Set.of(), Map.of());
    }

    /**
     * Whether enough is proved.
     *
     * @param proved in the order in which it was
     */
    public boolean metBy(List<Method> proved) {
        var counted = new LinkedHashSet<>(proved);
        counted.retainAll(anyOf);
        return counted.size() >= methods
                && factors(counted).size() >= factors
                && counted.containsAll(mustInclude)
                && (proved.isEmpty() || proved.get(0).mayComeFirst())
                && (first.isEmpty() || (!proved.isEmpty() && first.contains(proved.get(0))))
                && !(counted.size() == 1 && notAlone.containsAll(counted));
    }

    /** Whether somebody who could prove all of these, in the best order, would meet it. */
    public boolean withinReachOf(Collection<Method> usable) {
        var order = new ArrayList<Method>();
        // What counts, with what may be the first of it in front.
        usable.stream().filter(anyOf::contains).forEach(order::add);
        order.sort(Comparator.comparing(m -> !(m.mayComeFirst() && (first.isEmpty() || first.contains(m)))));
        return metBy(order);
    }

    /** Methods that bring somebody who has proved these nearer; empty if it is met. */
    public List<Method> next(List<Method> proved) {
        if (metBy(proved)) {
            return List.of();
        }
        var left = new ArrayList<>(anyOf);
        left.removeAll(proved);
        if (!first.isEmpty() && proved.isEmpty()) {
            left.retainAll(first);
        }
        if (proved.isEmpty()) {
            left.removeIf(m -> !m.mayComeFirst());
        }
        var counted = new LinkedHashSet<>(proved);
        counted.retainAll(anyOf);
        var must = left.stream().filter(mustInclude::contains).toList();
        if (!must.isEmpty() && counted.size() + must.size() >= methods) {
            // What has to be among them anyway is asked for when nothing else would help any more.
            return must;
        }
        if (factors - factors(counted).size() >= Math.max(1, methods - counted.size())) {
            // Each of those still asked for has to show another factor.
            left.removeIf(m -> factors(counted).containsAll(factors(List.of(m))));
        }
        return List.copyOf(left);
    }

    /** Both: never asks for less than either. */
    public Requirement and(Stricter more) {
        var from = anyOf.stream()
                .filter(m -> more.anyOf().isEmpty() || more.anyOf().contains(m))
                .toList();
        var must = new LinkedHashSet<>(mustInclude);
        must.addAll(more.mustInclude());
        return new Requirement(
                Math.max(methods, more.methods()),
                Math.max(factors, more.factors()),
                from,
                must,
                first,
                notAlone,
                counts);
    }

    /**
     * Whether everybody who meets this meets the other one too. A partial order: two requirements may each be stricter for
     * somebody.
     */
    public boolean atLeastAsStrictAs(Requirement other) {
        // Every set of the methods that either knows, with each as the first; one more stands for all the others.
        var all = new TreeSet<Method>();
        all.addAll(anyOf);
        all.addAll(other.anyOf);
        Method.known().stream().filter(m -> !all.contains(m)).findFirst().ifPresent(all::add);
        var known = List.copyOf(all);
        for (var bits = 1; bits < 1 << known.size(); bits++) {
            var set = new ArrayList<Method>();
            for (var i = 0; i < known.size(); i++) {
                if ((bits & (1 << i)) != 0) {
                    set.add(known.get(i));
                }
            }
            for (var begin = 0; begin < set.size(); begin++) {
                Collections.swap(set, 0, begin);
                if (metBy(set) && !other.metBy(set)) {
                    return false;
                }
                Collections.swap(set, 0, begin);
            }
        }
        return true;
    }

    /** The different factors that these methods show here. */
    Set<Factor> factors(Collection<Method> methods) {
        var shown = EnumSet.noneOf(Factor.class);
        for (var method : methods) {
            shown.add(counts.getOrDefault(method, method.factor()));
            if (method.facts().besides() != null) {
                shown.add(method.facts().besides());
            }
        }
        return shown;
    }

    /** In words, to follow "verify with". */
    public String words() {
        var words = new StringBuilder();
        if (anyOf.isEmpty()) {
            words.append("a method that doesn't exist");
        } else if (methods == 1) {
            words.append(anyOf.stream().map(Requirement::aOrAn).collect(Collectors.joining(" or ")));
        } else {
            var names = anyOf.stream().map(Requirement::name).toList();
            words.append(methods)
                    .append(" of ")
                    .append(String.join(", ", names.subList(0, names.size() - 1)))
                    .append(names.size() > 1 ? " and " : "")
                    .append(names.get(names.size() - 1));
        }
        if (factors > 1) {
            words.append(", with ").append(factors).append(" different factors");
        }
        if (!mustInclude.isEmpty()) {
            words.append(", including ")
                    .append(String.join(
                            " and ",
                            mustInclude.stream().map(Requirement::aOrAn).toList()));
        }
        if (!first.isEmpty()) {
            words.append(", starting with ")
                    .append(String.join(
                            " or ", first.stream().map(Requirement::aOrAn).toList()));
        }
        var alone = notAlone.stream()
                .filter(anyOf::contains)
                .map(Requirement::aOrAn)
                .toList();
        if (!alone.isEmpty() && methods == 1) {
            words.append("; ")
                    .append(String.join(" and ", alone))
                    .append(alone.size() == 1 ? " isn't enough alone" : " aren't enough alone");
        }
        return words.toString();
    }

    /** One of a method in words, such as {@code an email code}. */
    static String aOrAn(Method method) {
        var name = name(method);
        return ("aeiou".indexOf(name.charAt(0)) >= 0 ? "an " : "a ") + name;
    }

    /** A method in words. */
    public static String name(Method method) {
        return method.words();
    }
}
