/**
 * Attempts and their challenges up to the proof, and how they conclude. Promises that names that exist and names that do not take
 * the same path. Its face is Attempts.
 *
 * <p>May call: {@code verify}, {@code policy}, {@code people}, {@code notification}, {@code audit}, {@code platform}.
 */
package dev.entente.service.attempt;
