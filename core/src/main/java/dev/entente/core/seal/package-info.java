/**
 * Signed and sealed documents: roster, sealing keys, seals, evidence, orders and receipts, as docs/protocol.md
 * describes them. Owns their formats and checks. It can look at a seal but never open one: opening lives in the
 * steward alone. May call password and policy for the values that an order carries.
 */
package dev.entente.core.seal;
