package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Crowd;
import dev.entente.core.policy.Policy;
import dev.entente.core.policy.Survey;
import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Method;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.wire.OneOf;
import dev.entente.wire.PolicyApi;
import java.util.List;
import java.util.Objects;
import java.util.UUID;
import java.util.stream.Stream;
import org.roaringbitmap.RoaringBitmap;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Policies over HTTP, as they are published and as a draft would have them. */
@RestController
@RequestMapping("/api/v1")
class PolicyController {
    private final Drafts drafts;
    private final Configurations configurations;
    private final Everybody everybody;
    private final Ways ways;

    PolicyController(Drafts drafts, Configurations configurations, Everybody everybody, Ways ways) {
        this.drafts = drafts;
        this.configurations = configurations;
        this.everybody = everybody;
        this.ways = ways;
    }

    /** The published policies in order, with how many people each covers. */
    @Fails({"draft-invalid", "draft-not-found"})
    @GetMapping("/policies")
    @Transactional(readOnly = true)
    public List<PolicyApi.Policy> policies() {
        return shown(configurations.current());
    }

    /** The policies as a draft would have them. */
    @Fails({"draft-invalid", "draft-not-found"})
    @GetMapping("/drafts/{id}/policies")
    @Transactional(readOnly = true)
    public List<PolicyApi.Policy> policies(@PathVariable UUID id) {
        return shown(drafts.configuration(id));
    }

    /** The weakest ways through a published policy: what somebody else would need for an action. */
    @Fails({"draft-invalid", "draft-not-found", "policy-not-found", "unknown-action"})
    @GetMapping("/policies/{name}/ways-in")
    @Transactional(readOnly = true)
    public PolicyApi.WaysIn waysIn(
            @PathVariable String name, @RequestParam(defaultValue = "reset") @OneOf(Action.class) String action) {
        return waysIn(configurations.current(), name, action);
    }

    /** The weakest ways through a policy as a draft would have it. */
    @Fails({"draft-invalid", "draft-not-found", "policy-not-found", "unknown-action"})
    @GetMapping("/drafts/{id}/policies/{name}/ways-in")
    @Transactional(readOnly = true)
    public PolicyApi.WaysIn waysIn(
            @PathVariable UUID id,
            @PathVariable String name,
            @RequestParam(defaultValue = "reset") @OneOf(Action.class) String action) {
        return waysIn(drafts.configuration(id), name, action);
    }

    private PolicyApi.WaysIn waysIn(Configuration configuration, String name, String action) {
        if (configuration.policies().stream().noneMatch(p -> p.name().equals(name))) {
            throw Problem.of("policy-not-found").with("name", name);
        }
        return ways.through(configuration, name, RehearsalController.action(action));
    }

    private List<PolicyApi.Policy> shown(Configuration configuration) {
        var crowd = everybody.now();
        var coverage = new Survey(configuration, crowd, Action.RESET, configurations.now(null, null)).covered();
        return configuration.policies().stream()
                .map(policy -> new PolicyApi.Policy(
                        policy.name(),
                        policy.title(),
                        policy.scope(),
                        policy
                                .sentences(configuration
                                        .scopes()
                                        .get(policy.scope())
                                        .title())
                                .stream()
                                .map(s -> new PolicyApi.Sentence(s.text(), s.facts()))
                                .toList(),
                        facts(policy),
                        coverage.get(policy.name()).getCardinality(),
                        methods(configuration, crowd, coverage.get(policy.name()))))
                .toList();
    }

    private static List<PolicyApi.MethodHere> methods(Configuration configuration, Crowd crowd, RoaringBitmap covered) {
        return Method.known().stream()
                .map(method -> {
                    var set = configuration.methods().get(method);
                    return new PolicyApi.MethodHere(
                            method.label(),
                            Stream.of(set.factor(), method.facts().besides())
                                    .filter(Objects::nonNull)
                                    .distinct()
                                    .map(Factor::label)
                                    .toList(),
                            set.alone(),
                            method.mayComeFirst(),
                            RoaringBitmap.andCardinality(covered, crowd.enrolled(method)));
                })
                .toList();
    }

    static List<PolicyApi.Fact> facts(Policy policy) {
        return policy.facts().entrySet().stream()
                .map(e -> new PolicyApi.Fact(
                        e.getKey(), e.getValue().value(), e.getValue().source()))
                .toList();
    }
}
