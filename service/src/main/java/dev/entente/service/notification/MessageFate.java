package dev.entente.service.notification;

import dev.entente.service.audit.NewEvent;
import java.util.UUID;

/**
 * One message, as the record names it: two of the same kind are told apart by id, channel and who got them.
 *
 * @param attempt that it is about; null for none
 * @param kind what it says
 * @param person to whom; null for an administrator, and where there is no such person
 * @param recipient a hint of the address, such as {@code a…@s….test}; null where there is none
 */
record MessageFate(UUID id, UUID attempt, int revision, String kind, String channel, UUID person, String recipient) {
    /** What the columns of a statement that returns one are. */
    static final String COLUMNS = "id, attempt, revision, kind, channel, person, recipient";

    /** What became of it. */
    NewEvent event(String what) {
        var event = Notifications.about(attempt, what, revision)
                .with("message", kind)
                .with("notification", id.toString())
                .with("channel", channel);
        // Only where it says whose it is, so that it goes with all of theirs once they are to be forgotten.
        return person == null || recipient == null
                ? event
                : event.with("person", person.toString()).withPersonal("recipient", recipient);
    }
}
