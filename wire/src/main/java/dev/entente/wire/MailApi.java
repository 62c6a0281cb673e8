package dev.entente.wire;

import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;

/** How mail is sent, over the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class MailApi {
    private MailApi() {}

    /**
     * How mail is sent.
     *
     * @param administrators where administrators are told of what concerns them
     * @param works whether the last message or test was taken; null if none was sent yet
     * @param newsPerMinute how many messages without a code go in a minute at most
     * @param dkimSelector under which mail is signed (RFC 6376); null if it is not
     * @param dkimRecord what the sender's domain has to say for that: name, type and text
     */
    public record MailChannel(
            String host,
            int port,
            @OneOf(named = {"tls", "starttls", "none"}) String security,
            @OrNull String login,
            String sender,
            List<String> administrators,
            @OrNull Boolean works,
            @OrNull String why,
            @OrNull Instant since,
            int newsPerMinute,
            @OrNull String dkimSelector,
            @OrNull String dkimRecord) {}

    /**
     * How mail is to be sent.
     *
     * @param security {@code tls}, {@code starttls} or {@code none}
     * @param password null with a login keeps the one before
     * @param administrators where administrators are told of what concerns them; null for nowhere
     * @param newsPerMinute from 1 to 100,000; null as before
     * @param dkimSelector one label, for which a key is made; empty for no signature, null as before
     */
    public record MailSettings(
            String host,
            int port,
            @OneOf(named = {"tls", "starttls", "none"}) String security,
            @OrNull String login,
            @OrNull String password,
            String sender,
            @OrNull List<String> administrators,
            @OrNull Integer newsPerMinute,
            @OrNull String dkimSelector) {}

    /**
     * The mailbox from which is read what comes back.
     *
     * @param lookedAt when it was read last; null if it never could be
     * @param why it could not be read last time; null if it could
     */
    public record BounceMailbox(
            String host,
            int port,
            @OneOf(named = {"tls", "starttls", "none"}) String security,
            String login,
            @OrNull Instant lookedAt,
            @OrNull String why) {}

    /**
     * Which mailbox that is to be, reached by IMAP (RFC 9051).
     *
     * @param security {@code none} only on the service's own machine
     */
    public record BounceSettings(
            String host,
            int port,
            @OneOf(named = {"tls", "starttls", "none"}) String security,
            String login,
            String password) {}

    /** Where to send a test. */
    public record MailTest(String address) {}

    /** What came of a test: the whole conversation with the server, without secrets. */
    public record MailTried(boolean sent, @OrNull String why, List<String> conversation) {}
}
