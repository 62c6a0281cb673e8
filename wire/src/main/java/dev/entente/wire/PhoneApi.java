package dev.entente.wire;

import dev.entente.core.seal.OrNull;
import dev.entente.core.verify.Channel;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;

/**
 * Text messages and calls: how they are set up, over the administrators' API under {@code /api/v1}, and what is said between the
 * service and a gateway ({@code docs/phone-gateway.md}).
 */
public final class PhoneApi {
    private PhoneApi() {}

    /**
     * Through whom telephones are reached.
     *
     * @param gateways tried in this order
     * @param perNumber messages to one number within an hour at most
     * @param perPrefix messages within an hour at most to all numbers that are alike but for their last four digits
     * @param perCountry messages within an hour at most to one country
     * @param spent what was sent in the last days, the latest first
     */
    public record PhoneChannel(
            List<Gateway> gateways, int perNumber, int perPrefix, int perCountry, List<Spent> spent) {}

    /**
     * One gateway.
     *
     * @param sends what it can do
     * @param price of one message, in whatever currency it is counted
     * @param works whether it took the last message or test; null if none was sent yet
     */
    public record Gateway(
            String name,
            String url,
            List<String> sends,
            BigDecimal price,
            @OrNull Boolean works,
            @OrNull String why,
            @OrNull Instant since) {}

    /** What one gateway took on one day. */
    public record Spent(
            LocalDate day,
            String gateway,
            @OneOf(Channel.class) String channel,
            int messages,
            BigDecimal cost) {}

    /** Through whom telephones are to be reached. Without gateways no message is sent. */
    public record PhoneSettings(
            List<NewGateway> gateways,
            @OrNull Integer perNumber,
            @OrNull Integer perPrefix,
            @OrNull Integer perCountry) {}

    /**
     * One gateway.
     *
     * @param secret that both sign with, at least 16 characters; null keeps the one before for the same name and address
     */
    public record NewGateway(
            String name, String url, @OrNull String secret, List<String> sends, BigDecimal price) {
        /** Shows nothing of the secret. */
        @Override
        public String toString() {
            return name + " at " + url;
        }
    }

    /**
     * Sends a test.
     *
     * @param gateway through which; null for the first that sends this
     * @param number E.164
     */
    public record PhoneTest(
            @OrNull String gateway,
            String number,
            @OneOf(Channel.class) String channel) {}

    /** What came of a test. */
    public record PhoneTried(
            boolean taken, @OrNull String gateway, @OrNull String why) {}

    /**
     * What a gateway is asked to send.
     *
     * @param id the same over all tries, so that a repetition can be told
     * @param kind {@code text} or {@code voice}
     * @param to E.164
     * @param extension dialled after the call was answered; null if there is none
     * @param text what is written or read out
     * @param language of the text (BCP 47)
     */
    public record Message(
            String id, String kind, String to, @OrNull String extension, String text, String language) {}

    /** What the gateway calls a message that it has taken. */
    public record Accepted(String reference) {}

    /**
     * What became of a message.
     *
     * @param state {@code sent} while it is on its way, {@code delivered} or {@code undelivered}
     * @param reason why it was not delivered; null otherwise
     * @param price what it cost; null if the gateway does not say
     */
    public record MessageState(
            String reference,
            String state,
            @OrNull String reason,
            @OrNull BigDecimal price) {}
}
