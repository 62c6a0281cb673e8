package dev.entente.core.policy;

import dev.entente.core.verify.Factor;
import java.time.Duration;

/**
 * How one method works.
 *
 * @param life how long an answer can be given; null for a method whose answer has a life of its own
 * @param tries for one challenge
 * @param alone whether it may suffice by itself
 * @param factor what it counts as where factors are counted
 */
public record MethodSettings(Duration life, int tries, boolean alone, Factor factor) {}
