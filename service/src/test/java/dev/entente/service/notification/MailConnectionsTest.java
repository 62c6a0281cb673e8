package dev.entente.service.notification;

import static org.assertj.core.api.Assertions.assertThat;

import jakarta.mail.Address;
import jakarta.mail.Message;
import jakarta.mail.Session;
import jakarta.mail.Transport;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Properties;
import org.junit.jupiter.api.Test;

class MailConnectionsTest {
    private Instant now = Instant.parse("2026-11-28T08:00:00Z");
    private final MailConnections connections = new MailConnections(() -> now);

    private static MailChannel.Set set(String host) {
        return new MailChannel.Set(host, 25, "none", null, null, "recover@skerry.test", List.of(), 300, null, null);
    }

    /** A connection that is there until it is closed. */
    private static final class Line extends Transport {
        private boolean there = true;

        Line() {
            super(Session.getInstance(new Properties()), null);
        }

        @Override
        public boolean isConnected() {
            return there;
        }

        @Override
        public void close() {
            there = false;
        }

        @Override
        public void sendMessage(Message message, Address[] to) {
            throw new UnsupportedOperationException();
        }
    }

    private MailConnections.Open given(String host, int messages) {
        var open = new MailConnections.Open(set(host), new Line(), messages, now);
        connections.give(open);
        return open;
    }

    @Test
    void the_next_message_goes_by_the_connection_of_the_one_before() {
        var open = given("one", 0);
        var taken = connections.take(set("one")).orElseThrow();
        assertThat(taken.transport()).isSameAs(open.transport());
        assertThat(connections.take(set("one")))
                .as("nobody else has it meanwhile")
                .isEmpty();
    }

    @Test
    void none_is_used_that_is_of_other_settings_or_broken_or_old() {
        var other = given("one", 0);
        assertThat(connections.take(set("two"))).isEmpty();
        assertThat(other.transport().isConnected()).isFalse();
        var broken = (Line) given("two", 0).transport();
        broken.there = false;
        assertThat(connections.take(set("two"))).isEmpty();
        var old = given("two", 0);
        now = now.plus(MailConnections.LONGEST_IDLE).plusSeconds(1);
        assertThat(connections.take(set("two"))).isEmpty();
        assertThat(old.transport().isConnected()).isFalse();
    }

    @Test
    void idle_ones_are_closed_and_none_serves_for_ever() {
        assertThat(given("one", 49).transport().isConnected()).isFalse();
        var open = given("one", 0);
        connections.sweep(now.minus(Duration.ofSeconds(1)));
        assertThat(open.transport().isConnected()).isTrue();
        connections.sweep(now.plusSeconds(1));
        assertThat(open.transport().isConnected()).isFalse();
        assertThat(connections.take(set("one"))).isEmpty();
    }
}
