package dev.entente.steward.link;

import java.io.IOException;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;

/** What carrying out an order asks of the service. */
public interface OrderCalls {
    /**
     * Notes what is about to be written.
     *
     * @return whether the write is permitted now
     */
    boolean begin(UUID order, int epoch, String server, String version) throws IOException, InterruptedException;

    /**
     * Hands in a signed receipt; nobody waits for the answer.
     *
     * @return false later on if the service does not take it and never will; {@link IOException} if it could not be asked
     */
    CompletableFuture<Boolean> receipt(UUID order, String receipt);

    /** The roster that a digest names, if it is the one in force; checked against the pinned operator key. */
    ServiceLink.Standing standingFor(String digest) throws IOException, InterruptedException;
}
