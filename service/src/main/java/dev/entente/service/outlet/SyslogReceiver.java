package dev.entente.service.outlet;

import dev.entente.core.audit.OutletKind;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.wire.OutletApi;
import dev.entente.wire.RecordApi.Event;
import java.io.ByteArrayOutputStream;
import java.io.EOFException;
import java.io.IOException;
import java.net.ConnectException;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.SocketException;
import java.net.SocketTimeoutException;
import java.net.UnknownHostException;
import java.nio.charset.StandardCharsets;
import java.security.cert.CertificateException;
import java.time.InstantSource;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import javax.net.ssl.SSLException;
import javax.net.ssl.SSLHandshakeException;
import javax.net.ssl.SSLSocket;
import org.springframework.stereotype.Component;

/**
 * Syslog over TLS (RFC 5425). The protocol has no acknowledgement, and what is written to a connection that has just broken is lost. So
 * each lot has a connection of its own, which we close first: once the receiver has closed it as well, it has read everything.
 */
@Component
class SyslogReceiver implements Receiver {
    private static final int CONNECT_MS = 5_000;
    private static final int ANSWER_MS = 15_000;
    /** From the first byte to the last. */
    private static final int WHOLE_MS = 20_000;

    private final AllowedReceivers allowed;
    private final ServiceSettings settings;
    private final InstantSource clock;

    SyslogReceiver(AllowedReceivers allowed, ServiceSettings settings, InstantSource clock) {
        this.allowed = allowed;
        this.settings = settings;
        this.clock = clock;
    }

    @Override
    public OutletKind kind() {
        return OutletKind.SYSLOG;
    }

    @Override
    public void check(OutletApi.NewOutlet wanted) {
        allowed.hostAndPort(wanted.to());
        WebReceiver.checkAuthority(wanted.authority());
    }

    @Override
    public void send(Outlet outlet, List<Event> events) throws NotTaken {
        var frames = new ByteArrayOutputStream();
        events.forEach(event ->
                frame(frames, SyslogMessage.of(event, settings.publicUrl().getHost(), allowed.enterprise())));
        write(outlet, frames.toByteArray());
    }

    @Override
    public void test(Outlet outlet) throws NotTaken {
        var frame = new ByteArrayOutputStream();
        frame(
                frame,
                SyslogMessage.test(
                        outlet.name(), clock.instant(), settings.publicUrl().getHost(), allowed.enterprise()));
        write(outlet, frame.toByteArray());
    }

    /** RFC 5425 section 4.3. */
    private static void frame(ByteArrayOutputStream frames, byte[] message) {
        frames.writeBytes((message.length + " ").getBytes(StandardCharsets.US_ASCII));
        frames.writeBytes(message);
    }

    private void write(Outlet outlet, byte[] frames) throws NotTaken {
        AllowedReceivers.Address to;
        try {
            to = allowed.hostAndPort(outlet.goesTo());
        } catch (Problem e) {
            throw NotTaken.now("the operator doesn't let outlets lead there any more");
        }
        var late = new AtomicBoolean();
        try (var plain = new Socket()) {
            // A peer that sends a byte now and then never exceeds the other limits.
            var end = CompletableFuture.runAsync(
                    () -> {
                        late.set(true);
                        close(plain);
                    },
                    CompletableFuture.delayedExecutor(WHOLE_MS, TimeUnit.MILLISECONDS));
            try {
                exchange(plain, to, outlet, frames);
            } finally {
                end.cancel(false);
            }
        } catch (SSLHandshakeException e) {
            throw NotTaken.now(
                    late.get()
                            ? "it didn't answer in time"
                            : e.getCause() instanceof CertificateException
                                    ? "its certificate isn't one that this outlet believes"
                                    : "it broke off the handshake");
        } catch (SocketTimeoutException e) {
            throw NotTaken.now("it didn't answer in time");
        } catch (UnknownHostException | ConnectException e) {
            throw NotTaken.now("it can't be reached");
        } catch (IOException e) {
            throw NotTaken.now(late.get() ? "it didn't answer in time" : "it broke off the connection");
        }
    }

    private static void close(Socket socket) {
        try {
            socket.close();
        } catch (IOException e) {
            // It is closed already.
        }
    }

    private void exchange(Socket plain, AllowedReceivers.Address to, Outlet outlet, byte[] frames)
            throws IOException, NotTaken {
        plain.connect(new InetSocketAddress(to.host(), to.port()), CONNECT_MS);
        plain.setSoTimeout(ANSWER_MS);
        var socket = (SSLSocket)
                Tls.trusting(outlet.authority()).getSocketFactory().createSocket(plain, to.host(), to.port(), true);
        var parameters = socket.getSSLParameters();
        parameters.setEndpointIdentificationAlgorithm("HTTPS");
        socket.setSSLParameters(parameters);
        socket.startHandshake();
        socket.getOutputStream().write(frames);
        socket.shutdownOutput();
        closedByReceiver(socket);
    }

    private static void closedByReceiver(SSLSocket socket) throws IOException, NotTaken {
        try {
            while (socket.getInputStream().read() >= 0) {
                // Receivers say nothing; whatever it is, it is not what counts.
            }
        } catch (EOFException | SSLException e) {
            if (e.getCause() instanceof SocketException) {
                throw NotTaken.now("it broke off the connection");
            }
            // Closed without the goodbye of TLS, after ours: it has read all the same.
        }
    }
}
