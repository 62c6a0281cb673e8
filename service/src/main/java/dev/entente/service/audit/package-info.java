/**
 * The record: events written in the transaction of their fact, sealed into a Merkle tree within seconds and signed. Promises that
 * no committed event is lost or changed. Its face is EventLog.
 *
 * <p>May call: {@code platform}.
 */
package dev.entente.service.audit;
