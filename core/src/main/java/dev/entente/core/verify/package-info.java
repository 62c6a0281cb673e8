/**
 * Ways to verify a person. Owns methods, factors and one-time codes; promises constant-time comparison and that no code is kept
 * bare.
 *
 * <p>May call: {@code guess}, {@code seal}.
 */
package dev.entente.core.verify;
