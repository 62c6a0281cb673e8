package dev.entente.service.notification;

import dev.entente.service.audit.NewEvent;
import java.util.UUID;

/**
 * One message, as the record names it: two of the same kind are told apart by id, channel and who got them.
 *
 * @param attempt that it is about; null for none
 * @param kind what it says
 * @param recipient enough for whoever knows the address, such as {@code a…@s….test}; null for nobody
 */
record MessageFate(UUID id, UUID attempt, int revision, String kind, String channel, String recipient) {
    /** What the columns of a statement that returns one are. */
    static final String COLUMNS = "id, attempt, revision, kind, channel, recipient";

    /** What became of it. */
    NewEvent event(String what) {
        var event = Notifications.about(attempt, what, revision)
                .with("message", kind)
                .with("notification", id.toString())
                .with("channel", channel);
        return recipient == null ? event : event.withPersonal("recipient", recipient);
    }
}
