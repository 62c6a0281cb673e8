package dev.entente.core.policy;

import dev.entente.core.verify.Factor;
import java.time.Duration;
import java.util.List;
import java.util.Map;

/**
 * How one method works.
 *
 * @param life how long an answer can be given; null for a method whose answer has a life of its own
 * @param tries for one challenge
 * @param alone whether it may suffice by itself
 * @param factor what it counts as where factors are counted
 * @param own what {@link dev.entente.core.verify.Method#ownSettings} say, by name
 */
public record MethodSettings(Duration life, int tries, boolean alone, Factor factor, Map<String, List<String>> own) {
    public MethodSettings {
        own = Map.copyOf(own);
    }

    /** What a setting of the method's own says; empty if nothing was said. */
    public List<String> own(String name) {
        return own.getOrDefault(name, List.of());
    }
}
