package dev.entente.service.attempt;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Policy;
import dev.entente.core.verify.Method;
import java.util.Collection;
import java.util.Set;
import java.util.UUID;

/** What is asked of some people besides their policy, by whoever judges proofs again. */
public interface FurtherProof {
    /** Methods of which one more is wanted, once the policy's own requirement is met; empty if nothing is missing. */
    Set<Method> wanted(UUID person, Policy policy, Action action, Collection<Method> proved);
}
