package dev.entente.service.platform;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.time.Duration;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Nobody writes their own address: only what trusted proxies added is believed. */
class ClientNetworkTest {
    private static final List<String> PROXIES = List.of("10.0.0.0/24", "2001:db8::1");

    private static String of(List<String> trusted, String from, String... forwarded) {
        var network = new ClientNetwork(SampleSettings.of(Path.of("unused"), Duration.ofMillis(1), trusted));
        return network.of(new Call("/", from, 0, Map.of("X-Forwarded-For", List.of(forwarded))).request());
    }

    @ParameterizedTest(name = "from {0} with \"{1}\" is {2}")
    @CsvSource(
            delimiter = '|',
            value = {
                "203.0.113.7 |                                       | 203.0.113.7",
                "203.0.113.7 | 192.0.2.1                             | 203.0.113.7",
                "10.0.0.5    | 192.0.2.1                             | 192.0.2.1",
                "10.0.0.5    | 192.0.2.1, 10.0.0.6                   | 192.0.2.1",
                "10.0.0.5    | 198.51.100.9, 192.0.2.1               | 192.0.2.1",
                "10.0.0.5    | 127.0.0.1, 192.0.2.1, 10.0.0.6        | 192.0.2.1",
                "10.0.0.5    | 10.0.0.9, 10.0.0.6                    | 10.0.0.9",
                "2001:db8::1 | 2001:db8:5::7                         | 2001:db8:5::7",
                "10.0.0.5    | nonsense                              | 10.0.0.5",
                "10.0.0.5    | 192.0.2.1, nonsense                   | 10.0.0.5",
                "10.0.0.5    | 192.0.2.1, nonsense, 10.0.0.6         | 10.0.0.6",
                "10.0.1.5    | 192.0.2.1                             | 10.0.1.5",
            })
    void the_last_address_that_is_no_proxys_is_the_callers(String from, String forwarded, String is) {
        assertThat(forwarded == null ? of(PROXIES, from) : of(PROXIES, from, forwarded))
                .isEqualTo(is);
    }

    @Test
    void several_headers_are_one_list() {
        assertThat(of(PROXIES, "10.0.0.5", "198.51.100.9", "192.0.2.1, 10.0.0.6"))
                .isEqualTo("192.0.2.1");
    }

    @Test
    void without_trusted_proxies_nothing_that_is_sent_along_is_believed() {
        assertThat(of(List.of(), "10.0.0.5", "192.0.2.1")).isEqualTo("10.0.0.5");
    }

    @Test
    void an_endless_list_is_not_followed_for_ever() {
        var hops = String.join(", ", Collections.nCopies(100_000, "10.0.0.6"));
        assertThat(of(PROXIES, "10.0.0.5", "192.0.2.1, " + hops)).isEqualTo("10.0.0.6");
    }

    @Test
    void a_range_that_is_none_stops_the_service_with_a_sentence() {
        assertThatThrownBy(() -> of(List.of("10.0.0.300"), "10.0.0.5"))
                .hasMessage("entente.trusted-proxies: 10.0.0.300 is no address range");
    }
}
