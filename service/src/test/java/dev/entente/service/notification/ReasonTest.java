package dev.entente.service.notification;

import static org.assertj.core.api.Assertions.assertThat;

import jakarta.mail.MessagingException;
import java.net.ConnectException;
import javax.net.ssl.SSLHandshakeException;
import org.junit.jupiter.api.Test;

/** Why mail could not be sent is told in one line, in the words of whoever knows best. */
class ReasonTest {
    @Test
    void the_innermost_cause_speaks() {
        var e = new MessagingException(
                "Could not convert socket to TLS", new SSLHandshakeException("No trusted certificate found"));
        assertThat(MailChannel.reason(new MessagingException("outer", e)))
                .isEqualTo("SSLHandshakeException: No trusted certificate found");
        assertThat(MailChannel.reason(new ConnectException("Connection refused")))
                .isEqualTo("ConnectException: Connection refused");
    }

    @Test
    void it_is_one_line_of_bounded_length() {
        assertThat(MailChannel.reason(new MessagingException("550 no\n5.7.1 secret details")))
                .isEqualTo("MessagingException: 550 no");
        assertThat(MailChannel.reason(new MessagingException("x".repeat(10_000))))
                .hasSize(201);
        assertThat(MailChannel.reason(new MessagingException())).isEqualTo("MessagingException: null");
    }
}
