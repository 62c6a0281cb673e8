package dev.entente.wire;

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
     */
    public record MailChannel(
            String host,
            int port,
            @OneOf(named = {"tls", "starttls", "none"}) String security,
            String login,
            String sender,
            List<String> administrators,
            Boolean works,
            String why,
            Instant since) {}

    /**
     * How mail is to be sent.
     *
     * @param security {@code tls}, {@code starttls} or {@code none}
     * @param password null with a login keeps the one before
     * @param administrators where administrators are told of what concerns them; null for nowhere
     */
    public record MailSettings(
            String host,
            int port,
            @OneOf(named = {"tls", "starttls", "none"}) String security,
            String login,
            String password,
            String sender,
            List<String> administrators) {}

    /** Where to send a test. */
    public record MailTest(String address) {}

    /** What came of a test: the whole conversation with the server, without secrets. */
    public record MailTried(boolean sent, String why, List<String> conversation) {}
}
