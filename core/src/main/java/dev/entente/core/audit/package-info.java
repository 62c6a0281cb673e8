/**
 * The tamper-evident record. Owns the canonical form, commitments to personal values, the Merkle tree and checkpoints; promises
 * that erasing a personal value leaves every hash as it was.
 *
 * <p>May call: {@code seal}.
 */
package dev.entente.core.audit;
