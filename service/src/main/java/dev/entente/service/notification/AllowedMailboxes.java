package dev.entente.service.notification;

import dev.entente.service.platform.Problem;
import java.util.List;
import org.springframework.boot.context.properties.ConfigurationProperties;
import org.springframework.boot.context.properties.EnableConfigurationProperties;
import org.springframework.boot.context.properties.bind.DefaultValue;
import org.springframework.context.annotation.Configuration;

/**
 * The mailboxes that the operator allows the service to read. An administrator can only name one of these, so that the setting can't be used
 * to connect to other hosts in the network.
 *
 * @param mailboxes {@code host:port}, or {@code host} for any port; none by default
 */
@ConfigurationProperties("entente.bounces")
record AllowedMailboxes(@DefaultValue({}) List<String> mailboxes) {
    /** @throws Problem 422 if the operator doesn't let it */
    void check(String host, int port) {
        if (mailboxes.stream()
                .noneMatch(one -> one.equalsIgnoreCase(host) || one.equalsIgnoreCase(host + ":" + port))) {
            throw Problem.of("bounce-mailbox-not-allowed").with("to", host + ":" + port);
        }
    }

    /** Reads it. */
    @Configuration
    @EnableConfigurationProperties(AllowedMailboxes.class)
    static class Reading {}
}
