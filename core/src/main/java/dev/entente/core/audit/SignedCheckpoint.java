package dev.entente.core.audit;

/**
 * A signed checkpoint.
 *
 * @param size how many events it covers
 * @param statement as it was signed; docs/protocol.md describes it
 */
public record SignedCheckpoint(long size, String statement) {}
