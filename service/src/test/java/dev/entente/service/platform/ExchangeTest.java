package dev.entente.service.platform;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpTimeoutException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Slow and endless answers are cut off. */
class ExchangeTest {
    private static final Duration WHOLE = Duration.ofSeconds(2);
    private static final Duration LONG = Duration.ofSeconds(60);
    private ServerSocket server;

    /** What a server says to one call, as bytes. */
    private interface Saying {
        void to(OutputStream out) throws IOException, InterruptedException;
    }

    @BeforeEach
    void listen() throws IOException {
        server = new ServerSocket(0, 5, InetAddress.getLoopbackAddress());
    }

    @AfterEach
    void close() throws IOException {
        server.close();
    }

    private String answer(Saying saying, Duration whole) throws IOException, InterruptedException {
        var thread = new Thread(() -> {
            try (Socket call = server.accept()) {
                saying.to(call.getOutputStream());
                call.getOutputStream().flush();
                // Until the other side has gone.
                while (call.getInputStream().read() >= 0) {
                    Thread.onSpinWait();
                }
            } catch (IOException | InterruptedException e) {
                // The caller hung up.
            }
        });
        thread.setDaemon(true);
        thread.start();
        var request = HttpRequest.newBuilder(URI.create("http://127.0.0.1:" + server.getLocalPort() + "/"))
                .build();
        return new String(
                Exchange.of(HttpClient.newHttpClient(), request, whole, 10).body(), StandardCharsets.US_ASCII);
    }

    private static void say(OutputStream out, String text) throws IOException {
        out.write(text.getBytes(StandardCharsets.US_ASCII));
        out.flush();
    }

    @Test
    void an_answer_is_read_and_what_is_beyond_its_bound_is_not_waited_for() throws Exception {
        assertThat(answer(out -> say(out, "HTTP/1.1 200 OK\r\nContent-Length: 5\r\n\r\nhello"), LONG))
                .isEqualTo("hello");
        assertThat(answer(out -> say(out, "HTTP/1.1 200 OK\r\nContent-Length: 0\r\n\r\n"), LONG))
                .isEmpty();
        assertThat(answer(out -> say(out, "HTTP/1.1 200 OK\r\nContent-Length: 5000\r\n\r\nhello, quay"), LONG))
                .isEqualTo("hello, qua");
    }

    @Test
    void headers_without_a_body_a_byte_now_and_then_and_silence_end_in_time() {
        for (var slow : new Saying[] {
            out -> {},
            out -> say(out, "HTTP/1.1 200 OK\r\n"),
            out -> say(out, "HTTP/1.1 200 OK\r\nContent-Length: 5\r\n\r\n"),
            out -> {
                say(out, "HTTP/1.1 200 OK\r\nContent-Length: 9\r\n\r\n");
                for (var i = 0; i < 8; i++) {
                    say(out, "x");
                    Thread.sleep(WHOLE.toMillis() / 4);
                }
            }
        }) {
            assertThatThrownBy(() -> answer(slow, WHOLE)).isInstanceOf(HttpTimeoutException.class);
        }
    }
}
