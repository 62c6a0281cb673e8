package dev.entente.core.policy;

import dev.entente.core.verify.Method;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Set;

/**
 * Under what circumstances something is asked for. What is not known counts as the stricter answer.
 *
 * @param at when
 * @param network the address that it comes from; null if not known
 * @param knownDevice whether this person got a new password on this browser before; null if not known
 * @param broken methods whose channel does not work now
 */
public record Circumstances(Instant at, String network, Boolean knownDevice, Set<Method> broken) {
    public Circumstances {
        broken = Set.copyOf(broken);
    }

    /** Whether somebody who has a method can use it there: a device that was used before is none elsewhere. */
    public boolean allow(Method method) {
        return method.facts().source() != Method.Source.USE || Boolean.TRUE.equals(knownDevice);
    }

    /** Those of these that can be used there. */
    List<Method> allowed(Collection<Method> methods) {
        return methods.stream().filter(this::allow).toList();
    }
}
