package dev.entente.wire;

import dev.entente.core.notice.Concern;
import dev.entente.core.notice.Pace;
import dev.entente.core.policy.Message;
import dev.entente.core.seal.OrNull;
import dev.entente.core.verify.Channel;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** Messages that were sent or wait, and what administrators are told of, over the administrators' API under {@code /api/v1}. */
public final class NotificationApi {
    private NotificationApi() {}

    /**
     * One message.
     *
     * @param state {@code queued}, {@code sending}, {@code sent}, {@code failed} (nobody took it), {@code uncertain} (the server may have
     *     taken it), {@code expired}, or {@code bounced} (it was taken and came back)
     * @param person to whom; null where it is for an administrator, or for nobody who exists
     * @param administrator sign-in name; null where it is for somebody else
     * @param recipient a hint that somebody who knows the address or number recognises it by; null for nobody
     * @param reference of the attempt it is about; null if it is about none
     * @param repeatable whether it can be sent again
     * @param why it was not sent, or not at once; null if it was
     * @param arrival what a gateway told later: {@code delivered}, {@code undelivered}, {@code unknown}
     * @param gateway that took it; null for mail
     * @param againOf the message that it repeats; null for none
     * @param nextTry null if it does not wait
     * @param text what it says; null in lists, for codes, and after a week
     */
    public record Notification(
            UUID id,
            @OneOf(Message.class) String kind,
            @OneOf(Channel.class) String channel,

            @OneOf(named = {"queued", "sending", "sent", "failed", "uncertain", "expired", "bounced"})
            String state,

            @OrNull UUID person,
            @OrNull String administrator,
            @OrNull String recipient,
            @OrNull String reference,
            boolean repeatable,
            int tries,
            @OrNull String why,
            @OrNull String arrival,
            @OrNull String gateway,
            @OrNull UUID againOf,
            Instant createdAt,
            @OrNull Instant nextTry,
            @OrNull Instant endedAt,
            @OrNull Text text) {}

    /**
     * What a message says.
     *
     * @param subject null for telephones
     */
    public record Text(@OrNull String subject, String text, String language) {}

    /**
     * What an administrator is told of.
     *
     * @param address where; null for nowhere
     * @param paces when, by what
     * @param hour of the day, UTC, at which all that is told daily is sent
     * @param concerns what there is to choose from
     */
    public record Notices(@OrNull String address, Map<String, String> paces, int hour, List<ConcernShown> concerns) {}

    /**
     * Something that one can be told of.
     *
     * @param usual when somebody is told who did not choose
     */
    public record ConcernShown(
            @OneOf(Concern.class) String name,
            String words,
            @OneOf(Pace.class) String usual) {}

    /**
     * What an administrator wants to be told of.
     *
     * @param address null for nowhere
     * @param paces {@code off}, {@code at-once} or {@code daily} by concern; what is left out is as usual
     * @param hour from 0 to 23, UTC
     */
    public record NoticesWanted(@OrNull String address, Map<String, String> paces, int hour) {
        public NoticesWanted {
            paces = paces == null ? Map.of() : paces;
        }

        /** Shows no address. */
        @Override
        public String toString() {
            return "notices " + paces;
        }
    }
}
