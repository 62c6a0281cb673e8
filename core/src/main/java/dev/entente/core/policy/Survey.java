package dev.entente.core.policy;

import dev.entente.core.scope.ScopeSets;
import dev.entente.core.scope.Subject;
import dev.entente.core.verify.Method;
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
    private final Map<String, RoaringBitmap> covered = new LinkedHashMap<>();
    private final Map<String, RoaringBitmap> hindered = new TreeMap<>();
    private final List<Asked> asked = new ArrayList<>();
    private final RoaringBitmap uncovered;
    private final RoaringBitmap able = new RoaringBitmap();
    private final Crowd crowd;
    private final ScopeSets scopes;
    private final Action action;
    private final Circumstances circumstances;

    /** People of whom the same is asked. */
    record Asked(String policy, Requirement requirement, RoaringBitmap people) {}

    /** @param circumstances under which everybody would come */
    public Survey(Configuration configuration, Crowd crowd, Action action, Circumstances circumstances) {
        this.crowd = crowd;
        this.action = action;
        this.circumstances = circumstances;
        this.scopes = new ScopeSets(
                crowd.population(), configuration.scopes(), LocalDate.ofInstant(circumstances.at(), ZoneOffset.UTC));
        var left = crowd.population().everybody();
        for (var policy : configuration.policies()) {
            var people = RoaringBitmap.and(left, scopes.of(policy.scope()));
            left.andNot(people);
            covered.put(policy.name(), people);
            decide(policy, people);
        }
        uncovered = left;
    }

    /** People by the policy that decides, in order. */
    public Map<String, RoaringBitmap> covered() {
        return covered;
    }

    /** People whom no policy covers. */
    public RoaringBitmap uncovered() {
        return uncovered;
    }

    /** People who could do it. */
    public RoaringBitmap able() {
        return able;
    }

    /** People who are covered and could not, by the code of what stands in the way; one person may be in several. */
    public Map<String, RoaringBitmap> hindered() {
        return hindered;
    }

    /** Who is in which scope. */
    public ScopeSets scopes() {
        return scopes;
    }

    /** What is asked of whom; everybody who is covered is in exactly one. */
    List<Asked> asked() {
        return asked;
    }

    private void decide(Policy policy, RoaringBitmap people) {
        var before = new RoaringBitmap();
        var targets = policy.deliverTo().value();
        if (!policy.allow().value().contains(action)) {
            hinder("action-off", people, before);
        }
        var withAccount = crowd.accountsIn(targets);
        hinder("no-account", RoaringBitmap.andNot(people, withAccount), before);
        var there = RoaringBitmap.and(people, withAccount);
        hinder(
                "account-disabled",
                policy.leaveOutDisabled().value()
                        ? RoaringBitmap.andNot(there, crowd.enabledIn(targets))
                        : RoaringBitmap.and(there, crowd.disabledIn(targets)),
                before);
        policy.inactiveAfter()
                .value()
                .ifPresent(longest -> hinder(
                        "account-inactive",
                        crowd.notSince(
                                there,
                                targets,
                                circumstances.at().minus(longest).getEpochSecond()),
                        before));
        for (var privileged : Arrays.asList(Boolean.FALSE, Boolean.TRUE, null)) {
            var some = RoaringBitmap.and(people, crowd.privileged(privileged));
            if (!some.isEmpty()) {
                // Conditions ask of a person only this: so one stands for all of them.
                ask(policy, some, new PersonFacts(NOBODY, List.of(), Set.of(), privileged), before);
            }
        }
        able.or(RoaringBitmap.andNot(people, before));
    }

    private static final Subject NOBODY = Subject.inGroups(new UUID(0, 0), Set.of());

    private void ask(Policy policy, RoaringBitmap people, PersonFacts anybody, RoaringBitmap before) {
        for (var refusal : policy.refuse().value()) {
            if (refusal.actions().contains(action) && refusal.when().holds(anybody, circumstances)) {
                hinder("refused", people, before);
            }
        }
        var requirement = policy.required(action, anybody, circumstances).requirement();
        asked.add(new Asked(policy.name(), requirement, people));
        lacking(requirement, requirement.anyOf(), 0, people, new ArrayList<>(), before);
    }

    /** Splits people by which of the methods they have; each part meets the requirement as a whole or not at all. */
    private void lacking(
            Requirement requirement,
            List<Method> methods,
            int index,
            RoaringBitmap people,
            List<Method> have,
            RoaringBitmap before) {
        if (people.isEmpty() || requirement.withinReachOf(have)) {
            return;
        }
        if (index == methods.size()) {
            hinder("methods-missing", people, before);
            return;
        }
        var method = methods.get(index);
        var with = crowd.enrolled(method);
        have.add(method);
        lacking(requirement, methods, index + 1, RoaringBitmap.and(people, with), have, before);
        have.remove(have.size() - 1);
        lacking(requirement, methods, index + 1, RoaringBitmap.andNot(people, with), have, before);
    }

    private void hinder(String code, RoaringBitmap people, RoaringBitmap all) {
        if (!people.isEmpty()) {
            hindered.computeIfAbsent(code, c -> new RoaringBitmap()).or(people);
            all.or(people);
        }
    }
}
