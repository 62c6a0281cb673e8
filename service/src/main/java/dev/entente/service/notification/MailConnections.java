package dev.entente.service.notification;

import jakarta.mail.MessagingException;
import jakarta.mail.Transport;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Optional;
import java.util.concurrent.ConcurrentLinkedDeque;

/**
 * Connections to the mail server that are open and idle: the next message goes by one of them, so that a connection, its TLS
 * handshake and its sign-in serve many messages. The one used last is used next, so that the others grow old and are closed.
 */
final class MailConnections {
    /** Shorter than any usual server waits. */
    static final Duration LONGEST_IDLE = Duration.ofSeconds(20);
    /** Servers count the messages of a connection. */
    private static final int MOST_MESSAGES = 50;

    private static final int MOST_IDLE = 6;

    private final ConcurrentLinkedDeque<Open> idle = new ConcurrentLinkedDeque<>();
    private final InstantSource clock;

    MailConnections(InstantSource clock) {
        this.clock = clock;
    }

    /**
     * A connection.
     *
     * @param set the settings it was made by
     * @param messages how many went by it
     * @param since when it was used last
     */
    record Open(MailChannel.Set set, Transport transport, int messages, Instant since) {}

    /** One that is still good for these settings; it is asked before anything is sent, so that nothing gets lost by it. */
    Optional<Open> take(MailChannel.Set set) {
        for (var open = idle.pollFirst(); open != null; open = idle.pollFirst()) {
            if (open.set().equals(set)
                    && open.since().isAfter(clock.instant().minus(LONGEST_IDLE))
                    && open.transport().isConnected()) {
                return Optional.of(open);
            }
            close(open);
        }
        return Optional.empty();
    }

    /** Keeps one for the next message, unless it has served enough. */
    void give(Open open) {
        if (open.messages() + 1 >= MOST_MESSAGES || idle.size() >= MOST_IDLE) {
            close(open);
        } else {
            idle.addFirst(new Open(open.set(), open.transport(), open.messages() + 1, clock.instant()));
        }
    }

    /** Closes those that were used last before a time. */
    void sweep(Instant before) {
        for (var open : idle) {
            if (open.since().isBefore(before) && idle.remove(open)) {
                close(open);
            }
        }
    }

    static void close(Open open) {
        try {
            open.transport().close();
        } catch (MessagingException e) {
            // It is gone already, which is what is wanted.
        }
    }
}
