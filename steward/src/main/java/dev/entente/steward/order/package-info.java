/**
 * Orders: evidence, guard rails, opening of seals, the journal, and carrying out. The only place where a
 * password is opened. May call directory and link.
 */
package dev.entente.steward.order;
