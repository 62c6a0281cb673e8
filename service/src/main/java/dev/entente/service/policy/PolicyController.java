package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Policy;
import dev.entente.core.policy.Survey;
import dev.entente.wire.PolicyApi;
import java.util.List;
import java.util.UUID;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Policies over HTTP, as they are published and as a draft would have them. */
@RestController
@RequestMapping("/api/v1")
class PolicyController {
    private final Drafts drafts;
    private final Configurations configurations;
    private final Everybody everybody;

    PolicyController(Drafts drafts, Configurations configurations, Everybody everybody) {
        this.drafts = drafts;
        this.configurations = configurations;
        this.everybody = everybody;
    }

    /** The published policies in order, with how many people each covers. */
    @GetMapping("/policies")
    @Transactional(readOnly = true)
    public List<PolicyApi.Policy> policies() {
        return shown(configurations.current());
    }

    /** The policies as a draft would have them. */
    @GetMapping("/drafts/{id}/policies")
    @Transactional(readOnly = true)
    public List<PolicyApi.Policy> policies(@PathVariable UUID id) {
        return shown(drafts.configuration(id));
    }

    private List<PolicyApi.Policy> shown(Configuration configuration) {
        var coverage =
                new Survey(configuration, everybody.now(), Action.RESET, configurations.now(null, null)).covered();
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
                        coverage.get(policy.name()).getCardinality()))
                .toList();
    }

    static List<PolicyApi.Fact> facts(Policy policy) {
        return policy.facts().entrySet().stream()
                .map(e -> new PolicyApi.Fact(
                        e.getKey(), e.getValue().value(), e.getValue().source()))
                .toList();
    }
}
