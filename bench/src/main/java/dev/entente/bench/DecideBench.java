package dev.entente.bench;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Circumstances;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.ConfigurationReader;
import dev.entente.core.policy.Crowd;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.PersonFacts;
import dev.entente.core.policy.Rehearsal;
import dev.entente.core.policy.SelfWritten;
import dev.entente.core.policy.Situations;
import dev.entente.core.policy.Survey;
import dev.entente.core.policy.WaysIn;
import dev.entente.core.policy.WeakestWays;
import dev.entente.core.scope.GroupGraph;
import dev.entente.core.scope.ScopeSets;
import dev.entente.core.scope.Subject;
import dev.entente.core.verify.Method;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.function.Supplier;
import org.roaringbitmap.RoaringBitmap;

/**
 * What deciding costs as an organisation grows: one decision, one explanation as text, a rehearsal of everybody, and the
 * scopes again after one group changed; beside the bare bitmap operations that the same answers come down to.
 */
public final class DecideBench {
    private static final Instant NOW = Instant.parse("2026-11-23T12:00:00Z");
    private static final Circumstances HERE = new Circumstances(NOW, "203.0.113.7", false, Set.of());
    private static final int DEEP = 10;
    private static final int ROUNDS = 4;

    private DecideBench() {}

    private record World(Crowd crowd, GroupGraph graph, List<PersonFacts> some, Map<String, List<UUID>> members) {}

    /** Runs the curves; {@code quick} runs small ones. */
    public static void main(String[] arguments) {
        var quick = List.of(arguments).contains("quick");
        System.out.printf(
                "%-9s %-7s %-8s %10s %12s %12s %10s %12s %10s %10s%n",
                "people",
                "groups",
                "policies",
                "decide-us",
                "explain-us",
                "rehearse-s",
                "bare-s",
                "one-group-s",
                "bare-s",
                "ways-s");
        double[] last = new double[5];
        var groups = quick ? 2_000 : 50_000;
        for (var people : quick ? List.of(10_000) : List.of(10_000, 100_000, 1_000_000)) {
            var world = world(people, groups);
            for (var policies : people == 100_000 ? List.of(10, 50, 200) : List.of(quick ? 20 : 200)) {
                last = measure(world, people, groups, policies, quick ? 1 : ROUNDS);
            }
        }
        if (!quick) {
            measure(world(100_000, 500), 100_000, 500, 200, ROUNDS);
        }
        System.out.printf(
                "decide one-us=%.1f explain-us=%.1f rehearse-%s-s=%.2f rehearse-over-bare=%.1f ways-in-s=%.2f%n",
                last[0], last[1], quick ? "10k" : "1m", last[2], last[3], last[4]);
    }

    private static double[] measure(World world, int people, int groups, int policies, int rounds) {
        var before = configuration(policies, groups, 1);
        var after = configuration(policies, groups, 2);
        var some = world.some();
        var decide = each(
                        rounds,
                        () -> some.forEach(
                                p -> keep(Decision.of(before, world.graph(), p, Action.RESET, HERE, List.of()))))
                / some.size()
                / 1e3;
        var explain = each(
                        rounds,
                        () -> some.forEach(
                                p -> keep(Decision.of(before, world.graph(), p, Action.RESET, HERE, List.of())
                                        .text("somebody", HERE))))
                / some.size()
                / 1e3;
        var rehearse = each(rounds, () -> {
                    var rehearsal = new Rehearsal(
                            new Survey(before, world.crowd(), Action.RESET, HERE),
                            new Survey(after, world.crowd(), Action.RESET, HERE));
                    for (var kind : Rehearsal.Kind.values()) {
                        keep(rehearsal.people(kind).getCardinality());
                    }
                    keep(rehearsal.moves());
                })
                / 1e9;
        // What cannot be spared: the scopes as sets once for each state, taken out of what is left in order, compared.
        var bare = each(rounds, () -> {
                    for (var configuration : List.of(before, after)) {
                        var sets = sets(world, configuration);
                        var left = world.crowd().population().everybody();
                        for (var policy : configuration.policies()) {
                            var covered = RoaringBitmap.and(left, sets.of(policy.scope()));
                            left.andNot(covered);
                            keep(covered);
                        }
                    }
                })
                / 1e9;
        var changed = world.members().entrySet().iterator().next();
        var oneGroup = each(rounds, () -> {
                    world.crowd().population().setMembers(changed.getKey(), changed.getValue());
                    var sets = sets(world, before);
                    before.scopes().keySet().forEach(s -> keep(sets.of(s)));
                })
                / 1e9;
        var oneGroupBare = each(rounds, () -> {
                    var sets = sets(world, before);
                    before.scopes().keySet().forEach(s -> keep(sets.of(s)));
                })
                / 1e9;
        // What somebody else would need, for everybody and both states, and whom the change makes easier to
        // impersonate.
        var given = new WaysIn.Given(
                SelfWritten.NOTHING,
                Set.of(),
                Situations.of(List.of(before, after), Set.of(Action.RESET, Action.DETAILS), NOW, true, null, Set.of()));
        var ways = each(
                        rounds,
                        () -> keep(new WeakestWays(after, world.crowd(), Action.RESET, given)
                                .easierThan(new WeakestWays(before, world.crowd(), Action.RESET, given))
                                .getCardinality()))
                / 1e9;
        System.out.printf(
                "%-9d %-7d %-8d %10.1f %12.1f %12.3f %10.3f %12.3f %10.3f %10.3f%n",
                people, groups, policies, decide, explain, rehearse, bare, oneGroup, oneGroupBare, ways);
        return new double[] {decide, explain, rehearse, rehearse / bare, ways};
    }

    private static ScopeSets sets(World world, Configuration configuration) {
        return new ScopeSets(
                world.crowd().population(), configuration.scopes(), LocalDate.ofInstant(NOW, ZoneOffset.UTC));
    }

    /** The shortest of so many rounds, in nanoseconds, or of ten times as many where they are short. */
    private static double each(int rounds, Runnable work) {
        var best = Double.MAX_VALUE;
        var until = System.nanoTime() + Duration.ofSeconds(3).toNanos();
        for (var round = 0; round < rounds || (round < 10 * rounds && System.nanoTime() < until); round++) {
            var begun = System.nanoTime();
            work.run();
            best = Math.min(best, System.nanoTime() - begun);
        }
        return best;
    }

    /** What is kept in sight is not left out by the compiler. */
    @SuppressWarnings("UnusedVariable")
    private static volatile Object kept;

    private static void keep(Object value) {
        kept = value;
    }

    private static String group(int number) {
        return "CN=group-" + number + ",OU=Groups,DC=x";
    }

    /** Groups in chains ten deep; everybody is in three of them, in an OU, in a department and a town. */
    private static World world(int people, int groups) {
        var random = new Random(1);
        var parents = new HashMap<String, List<String>>();
        for (var i = 0; i < groups; i++) {
            parents.put(group(i), i % DEEP == DEEP - 1 ? List.of() : List.of(group(i + 1)));
        }
        var graph = new GroupGraph(parents);
        var crowd = new Crowd();
        var some = new ArrayList<PersonFacts>();
        var members = new TreeMap<String, List<UUID>>();
        for (var i = 0; i < people; i++) {
            var id = new UUID(random.nextLong(), random.nextLong());
            var in = new HashSet<String>();
            in.add(group(random.nextInt(groups)));
            in.add(group(random.nextInt(groups) / 2));
            in.add(group(DEEP * random.nextInt(Math.max(1, groups / DEEP / 5)) + 1));
            var enrolled = new TreeSet<Method>();
            for (var method : Method.known()) {
                if (random.nextInt(3) > 0) {
                    enrolled.add(method);
                }
            }
            var person = new PersonFacts(
                    new Subject(
                            id,
                            in,
                            List.of("CN=p" + i + ",OU=o" + i % 300 + ",OU=People,DC=x"),
                            Set.of("p" + i),
                            Map.of(
                                    "department", Set.of("department " + random.nextInt(120)),
                                    "l", Set.of("town " + random.nextInt(60)))),
                    List.of(new PersonFacts.Account(
                            "shore",
                            "p" + i,
                            random.nextInt(50) == 0,
                            NOW.minus(Duration.ofDays(random.nextInt(200))))),
                    enrolled,
                    random.nextInt(100) == 0);
            crowd.add(person);
            if (i % Math.max(1, people / 500) == 0) {
                some.add(person);
                in.forEach(
                        g -> members.computeIfAbsent(g, k -> new ArrayList<>()).add(id));
            }
        }
        crowd.population().nest(graph);
        return new World(crowd, graph, some, members);
    }

    /** Scopes of every kind, and a policy for each. */
    private static Configuration configuration(int policies, int groups, int asked) {
        Supplier<Map<String, String>> made = () -> {
            var files = new HashMap<String, String>();
            files.put("defaults.yaml", "password: rules\ndeliver: { to: [shore] }\nallow: [reset, unlock]\n");
            files.put("passwords/rules.yaml", "password: rules\n");
            files.put("networks/inside.yaml", "network: inside\nranges: [10.0.0.0/8]\n");
            var order = new ArrayList<String>();
            for (var i = 0; i < policies; i++) {
                var name = "p" + i;
                order.add(name);
                files.put(
                        "scopes/" + name + ".yaml",
                        "scope: " + name + "\n"
                                + switch (i % 5) {
                                    case 0 ->
                                        "any:\n  - group: " + group(groups / policies / DEEP * DEEP * i + DEEP - 1)
                                                + "\n";
                                    case 1 ->
                                        "any:\n  - where: { department: [department " + i % 120 + ", department "
                                                + (i + 7) % 120 + "] }\nnone:\n  - group: " + group(DEEP * i % groups)
                                                + "\n";
                                    case 2 ->
                                        "all:\n  - ou: OU=o" + i
                                                + ",OU=People,DC=x\n  - where: { l: { starts-with: town } }\n";
                                    case 3 -> "any:\n  - where: { l: { matches: '*" + i % 60 + "' } }\nportion: 40%\n";
                                    default ->
                                        i + 1 >= policies
                                                ? "none: []\n"
                                                : "any:\n  - scope: p" + (i - 1) + "\n  - ou: OU=o" + (i + 3)
                                                        + ",OU=People,DC=x\n";
                                });
                files.put(
                        "policies/" + name + ".yaml",
                        "policy: " + name + "\nwho: scope " + name + "\nprove:\n  reset: { methods: "
                                + (i % 3 == 0 ? asked : 1) + ", any-of: [email-code, app-code, recovery-code] }\n"
                                + "  stricter:\n    - { when: outside inside, methods: 2 }\n"
                                + "    - { when: privileged, must-include: [app-code] }\n"
                                + "limit: { inactive-account: 180d }\n");
            }
            files.put("order.yaml", "order: [" + String.join(", ", order) + "]\n");
            return files;
        };
        var read = ConfigurationReader.read(made.get(), List.of("shore"));
        return read.configuration()
                .orElseThrow(() -> new IllegalStateException(read.problems().toString()));
    }
}
