package dev.entente.core.policy;

import dev.entente.core.scope.ScopeSets;
import dev.entente.core.scope.Subject;
import dev.entente.core.verify.Method;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;

/**
 * What one configuration means for everybody and one action: the same answers as {@link Decision} gives for one person when
 * nothing is stopped and no channel is broken.
 */
public final class Survey {
    private static final List<Boolean> PRIVILEGED = Arrays.asList(Boolean.FALSE, Boolean.TRUE, null);
    private static final Subject NOBODY = Subject.inGroups(new UUID(0, 0), Set.of());

    private final Base base;
    private final Map<String, RoaringBitmap> hindered = new TreeMap<>();
    private final List<Asked> asked = new ArrayList<>();
    private final RoaringBitmap able = new RoaringBitmap();
    private final RoaringBitmap stranded = new RoaringBitmap();
    private final Circumstances circumstances;

    /** People of whom the same is asked. */
    record Asked(String policy, Requirement requirement, RoaringBitmap people) {}

    /** What does not depend on where, when and with what somebody comes. */
    private static final class Base {
        private final Crowd crowd;
        private final ScopeSets scopes;
        private final Action action;
        private final List<Policy> policies;
        private final Map<String, RoaringBitmap> covered = new LinkedHashMap<>();
        private final Map<String, Map<String, RoaringBitmap>> hindered = new LinkedHashMap<>();
        private final RoaringBitmap uncovered;

        Base(Configuration configuration, Crowd crowd, Action action, Instant at) {
            this.crowd = crowd;
            this.action = action;
            this.policies = configuration.policies();
            this.scopes =
                    new ScopeSets(crowd.population(), configuration.scopes(), LocalDate.ofInstant(at, ZoneOffset.UTC));
            var left = crowd.population().everybody();
            for (var policy : policies) {
                var people = RoaringBitmap.and(left, scopes.of(policy.scope()));
                left.andNot(people);
                covered.put(policy.name(), people);
                hindered.put(policy.name(), hindered(policy, people, at));
            }
            uncovered = left;
        }

        private Map<String, RoaringBitmap> hindered(Policy policy, RoaringBitmap people, Instant at) {
            var found = new TreeMap<String, RoaringBitmap>();
            var targets = policy.deliverTo().value();
            if (!policy.allow().value().contains(action)) {
                found.put("action-off", people);
            }
            var withAccount = crowd.accountsIn(targets);
            found.put("no-account", RoaringBitmap.andNot(people, withAccount));
            var there = RoaringBitmap.and(people, withAccount);
            found.put(
                    "account-disabled",
                    policy.leaveOutDisabled().value()
                            ? RoaringBitmap.andNot(there, crowd.enabledIn(targets))
                            : RoaringBitmap.and(there, crowd.disabledIn(targets)));
            policy.inactiveAfter()
                    .value()
                    .ifPresent(longest -> found.put(
                            "account-inactive",
                            crowd.notSince(there, targets, at.minus(longest).getEpochSecond())));
            return found;
        }
    }

    /** @param circumstances under which everybody would come */
    public Survey(Configuration configuration, Crowd crowd, Action action, Circumstances circumstances) {
        this(new Base(configuration, crowd, action, circumstances.at()), circumstances);
    }

    /** One for each of several circumstances; who is covered by what is worked out once, for the first of them. */
    public static List<Survey> in(
            Configuration configuration, Crowd crowd, Action action, List<Circumstances> circumstances) {
        var base = new Base(configuration, crowd, action, circumstances.get(0).at());
        return circumstances.stream().map(one -> new Survey(base, one)).toList();
    }

    private Survey(Base base, Circumstances circumstances) {
        this.base = base;
        this.circumstances = circumstances;
        base.policies.forEach(policy -> decide(policy, base.covered.get(policy.name())));
    }

    /** People by the policy that decides, in order. */
    public Map<String, RoaringBitmap> covered() {
        return base.covered;
    }

    /** People whom no policy covers. */
    public RoaringBitmap uncovered() {
        return base.uncovered;
    }

    /** People who could do it. */
    public RoaringBitmap able() {
        return able;
    }

    /** People who lack methods, and cannot set them up by themselves either. */
    public RoaringBitmap stranded() {
        return stranded;
    }

    /** People who are covered and could not, by the code of what stands in the way; one person may be in several. */
    public Map<String, RoaringBitmap> hindered() {
        return hindered;
    }

    /** Who is in which scope. */
    public ScopeSets scopes() {
        return base.scopes;
    }

    /** What is asked of whom; everybody who is covered is in exactly one. */
    List<Asked> asked() {
        return asked;
    }

    private void decide(Policy policy, RoaringBitmap people) {
        var before = new RoaringBitmap();
        base.hindered.get(policy.name()).forEach((code, some) -> hinder(code, some, before));
        for (var privileged : PRIVILEGED) {
            var some = RoaringBitmap.and(people, base.crowd.privileged(privileged));
            if (!some.isEmpty()) {
                ask(policy, some, anybody(privileged), before);
            }
        }
        able.or(RoaringBitmap.andNot(people, before));
    }

    private void ask(Policy policy, RoaringBitmap people, PersonFacts anybody, RoaringBitmap before) {
        for (var refusal : policy.refuse().value()) {
            if (refusal.actions().contains(base.action) && refusal.when().holds(anybody, circumstances)) {
                hinder("refused", people, before);
            }
        }
        var requirement = policy.required(base.action, anybody, circumstances).requirement();
        asked.add(new Asked(policy.name(), requirement, people));
        var missing = new RoaringBitmap();
        var elsewhere = new RoaringBitmap();
        split(policy, requirement.anyOf(), 0, people, new ArrayList<>(), (have, some) -> {
            if (!requirement.withinReachOf(have)) {
                missing.or(some);
            } else if (!requirement.withinReachOf(circumstances.allowed(have))) {
                elsewhere.or(some);
            }
        });
        hinder("device-unknown", elsewhere, before);
        if (missing.isEmpty()) {
            return;
        }
        hinder("methods-missing", missing, before);
        strand(policy, requirement, anybody, missing);
    }

    private void strand(Policy policy, Requirement requirement, PersonFacts anybody, RoaringBitmap missing) {
        var details = policy.required(Action.DETAILS, anybody, circumstances).requirement();
        var methods = new ArrayList<>(requirement.anyOf());
        details.anyOf().stream().filter(m -> !methods.contains(m)).forEach(methods::add);
        split(policy, methods, 0, missing, new ArrayList<>(), (have, some) -> {
            if (!policy.couldEnrol(requirement, details, have)) {
                stranded.or(some);
            }
        });
    }

    /**
     * People who are alike in all that ways in depend on.
     *
     * @param anybody who stands for all of them where conditions ask
     * @param have which of the policy's methods they have
     */
    record Alike(Policy policy, PersonFacts anybody, List<Method> have, RoaringBitmap people) {}

    /** Everybody who is covered, each in exactly one. */
    List<Alike> alike() {
        var all = new ArrayList<Alike>();
        for (var policy : base.policies) {
            for (var privileged : PRIVILEGED) {
                split(
                        policy,
                        policy.methods(),
                        0,
                        RoaringBitmap.and(base.covered.get(policy.name()), base.crowd.privileged(privileged)),
                        new ArrayList<>(),
                        (have, some) -> all.add(new Alike(policy, anybody(privileged), List.copyOf(have), some)));
            }
        }
        return all;
    }

    /** Conditions ask of a person only this: so one stands for all of them. */
    private static PersonFacts anybody(Boolean privileged) {
        return new PersonFacts(NOBODY, List.of(), Set.of(), privileged);
    }

    private interface Part {
        void take(List<Method> have, RoaringBitmap people);
    }

    /** Splits people by which of the methods they have under a policy; each part meets a requirement as a whole or not at all. */
    private void split(
            Policy policy, List<Method> methods, int index, RoaringBitmap people, List<Method> have, Part each) {
        if (people.isEmpty()) {
            return;
        }
        if (index == methods.size()) {
            each.take(have, people);
            return;
        }
        var method = methods.get(index);
        var with = base.crowd.enrolled(method, policy);
        have.add(method);
        split(policy, methods, index + 1, RoaringBitmap.and(people, with), have, each);
        have.remove(have.size() - 1);
        split(policy, methods, index + 1, RoaringBitmap.andNot(people, with), have, each);
    }

    private void hinder(String code, RoaringBitmap people, RoaringBitmap all) {
        if (!people.isEmpty()) {
            hindered.computeIfAbsent(code, c -> new RoaringBitmap()).or(people);
            all.or(people);
        }
    }
}
