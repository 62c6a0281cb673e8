package dev.entente.service.attempt;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Policy;
import dev.entente.core.seal.Proof;
import dev.entente.core.verify.Method;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.function.Supplier;

/** What is asked of some people besides their policy, by whoever judges proofs again. */
public interface FurtherProof {
    /**
     * Methods of which one more is wanted, once the policy's own requirement is met; empty if nothing is missing.
     *
     * @param signed what the person's own credentials signed in the attempt, asked for only where it matters
     */
    Set<Method> wanted(UUID person, Policy policy, Action action, Supplier<List<Proof>> signed);
}
