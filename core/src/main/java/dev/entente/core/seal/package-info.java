/**
 * Signed and sealed documents: roster, sealing keys, seals, evidence, orders and receipts, as docs/protocol.md describes them.
 * Owns their formats and checks. It can look at a seal but never open one: opening lives in the steward alone.
 *
 * <p>May call: {@code attempt}, {@code password}.
 */
package dev.entente.core.seal;
