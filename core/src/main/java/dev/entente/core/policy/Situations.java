package dev.entente.core.policy;

import dev.entente.core.verify.Method;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Every situation that the conditions of configurations can tell apart for some actions: from each network and from elsewhere, at
 * each time of the week, on known and unknown devices. What holds by day from the office says nothing of a night at sea.
 */
public final class Situations {
    /** More are not told apart; whoever asks is told so. */
    public static final int MOST = 96;

    private static final Duration STEP = Duration.ofMinutes(15);
    private static final Duration WEEK = Duration.ofDays(7);
    private static final List<String> ELSEWHERE =
            List.of("203.0.113.77", "198.51.100.77", "192.0.2.77", "2001:db8:ffff::77", "233.252.0.77");

    private Situations() {}

    /**
     * One situation.
     *
     * @param words such as "from inside Fleet networks, on a known device"; empty where nothing makes a difference
     */
    public record Situation(String words, Circumstances circumstances) {}

    /**
     * Those that make a difference.
     *
     * @param at the day that dates in scopes are relative to, and the first time that is looked at
     * @param network from where alone; null for everywhere
     * @param onlyThen whether only that very time counts
     */
    public static List<Situation> of(
            Collection<Configuration> configurations,
            Set<Action> actions,
            Instant at,
            boolean onlyThen,
            String network,
            Set<Method> broken) {
        var conditions = new LinkedHashSet<When>();
        for (var configuration : configurations) {
            for (var policy : configuration.policies()) {
                policy.refuse().value().stream()
                        .filter(r -> !Collections.disjoint(r.actions(), actions))
                        .forEach(r -> conditions.add(r.when()));
                policy.stricter().value().stream()
                        .filter(s -> actions.stream().anyMatch(s::concerns))
                        .forEach(s -> conditions.add(s.when()));
            }
        }
        var networks = new LinkedHashMap<String, Network>();
        conditions.forEach(when -> {
            if (when instanceof When.Outside outside) {
                networks.put(outside.network().title() + outside.network().ranges(), outside.network());
            } else if (when instanceof When.Inside inside) {
                networks.put(inside.network().title() + inside.network().ranges(), inside.network());
            }
        });
        var weeks = conditions.stream()
                .filter(When.Week.class::isInstance)
                .map(When.Week.class::cast)
                .toList();
        var byDevice = configurations.stream()
                .flatMap(c -> c.policies().stream())
                .flatMap(p -> actions.stream().map(a -> p.proof(a).value()))
                .anyMatch(r -> r.anyOf().stream().anyMatch(m -> m.facts().source() == Method.Source.USE));
        var devices = byDevice || conditions.stream().anyMatch(When.UnknownDevice.class::isInstance)
                ? Arrays.asList(true, false)
                : Arrays.asList((Boolean) null);
        var situations = new ArrayList<Situation>();
        for (var place : places(List.copyOf(networks.values()), network).entrySet()) {
            for (var time : times(weeks, at, onlyThen).entrySet()) {
                for (var device : devices) {
                    var words = new ArrayList<>(List.of(place.getKey(), time.getKey()));
                    words.add(device == null ? "" : device ? "on a known device" : "on an unknown device");
                    words.removeIf(String::isEmpty);
                    if (situations.size() < MOST) {
                        situations.add(new Situation(
                                String.join(", ", words),
                                new Circumstances(time.getValue(), place.getValue(), device, broken)));
                    }
                }
            }
        }
        return List.copyOf(situations);
    }

    /** Whether somebody who is here could as well be there: outside every network, on an unknown device, at another time. */
    static boolean couldBe(Circumstances here, Circumstances there) {
        return (Objects.equals(here.network(), there.network()) || ELSEWHERE.contains(there.network()))
                && (Objects.equals(here.knownDevice(), there.knownDevice())
                        || Boolean.FALSE.equals(there.knownDevice()));
    }

    /** An address for each set of networks that one can be in; by words. */
    private static Map<String, String> places(List<Network> networks, String only) {
        var places = new LinkedHashMap<String, String>();
        if (only != null) {
            places.put("from " + only, only);
            return places;
        }
        if (networks.isEmpty()) {
            places.put("", ELSEWHERE.get(0));
            return places;
        }
        var addresses = new ArrayList<String>();
        networks.forEach(network -> network.ranges()
                .forEach(range -> Network.range(range).ifPresent(block -> {
                    addresses.add(block.getLower().withoutPrefixLength().toCanonicalString());
                    addresses.add(block.getUpper().withoutPrefixLength().toCanonicalString());
                })));
        addresses.addAll(ELSEWHERE);
        for (var address : addresses) {
            var inside = networks.stream()
                    .filter(n -> n.holds(address))
                    .map(Network::title)
                    .toList();
            places.putIfAbsent(
                    inside.isEmpty() ? "from elsewhere" : "from inside " + String.join(" and ", inside), address);
        }
        return places;
    }

    /** A time for each set of times of the week that can be at once; by words. */
    private static Map<String, Instant> times(List<When.Week> weeks, Instant at, boolean onlyThen) {
        var times = new LinkedHashMap<String, Instant>();
        if (weeks.isEmpty() || onlyThen) {
            times.put("", at);
            return times;
        }
        for (var time = at; time.isBefore(at.plus(WEEK)); time = time.plus(STEP)) {
            var then = new Circumstances(time, null, null, Set.of());
            var holding = weeks.stream()
                    .filter(week -> week.holds(null, then))
                    .map(When::words)
                    .distinct()
                    .collect(Collectors.joining(" and "));
            times.putIfAbsent(holding.isEmpty() ? "at other times" : holding, time);
        }
        return times;
    }
}
