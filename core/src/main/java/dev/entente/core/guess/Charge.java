package dev.entente.core.guess;

import java.time.Duration;

/**
 * What a try takes from one limit.
 *
 * @param limit which kind of limit
 * @param subject whose it is: a person's id, a network, or both
 * @param window over which it is counted, in windows that follow each other; null for until a success
 * @param amount how much is taken
 * @param max how much there is
 */
public record Charge(String limit, String subject, Duration window, long amount, long max) {}
