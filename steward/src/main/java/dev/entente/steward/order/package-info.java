/**
 * Orders: evidence, guard rails, opening of seals, the journal, and carrying out. The only place where a password is opened.
 *
 * <p>May call: {@code link}, {@code target}, {@code settings}.
 */
package dev.entente.steward.order;
