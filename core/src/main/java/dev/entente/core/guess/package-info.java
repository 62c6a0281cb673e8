/**
 * How many wrong answers a method, a person or a network may cost, worked out from how hard an answer is to guess. Owns the
 * arithmetic alone; whoever calls it keeps the counts.
 *
 * <p>May call: nothing.
 */
package dev.entente.core.guess;
