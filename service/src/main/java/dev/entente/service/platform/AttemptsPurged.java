package dev.entente.service.platform;

import java.util.List;
import java.util.UUID;

/** Finished attempts are deleted; published in the transaction that deletes them, for whoever keeps what belongs to them. */
public record AttemptsPurged(List<UUID> attempts) {}
