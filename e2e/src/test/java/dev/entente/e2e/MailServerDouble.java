package dev.entente.e2e;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.util.Locale;
import java.util.concurrent.atomic.AtomicInteger;

/** A mail server (RFC 5321) that does what mail servers do on a bad day. */
final class MailServerDouble implements AutoCloseable {
    /** What it does with the next messages. */
    enum Behaviour {
        /** Does not know the mailbox: refused for good, and not tried again. */
        REFUSES("failed", 0, 1, "550"),
        /** Says at first that it has to wait (greylisting), and takes it when it comes again. */
        GREYLISTS("sent", 1, 2, null),
        /** Breaks off before it has the message: tried again. */
        DROPS_BEFORE("sent", 1, 2, null),
        /** Says that it is full, once. */
        FULL("sent", 1, 2, null),
        /** Has the whole message and breaks off before it says whether it takes it: nobody knows, and it is said. */
        DROPS_AFTER("uncertain", 0, 1, null),
        /** Has the whole message and never says anything: nobody knows, and it is said. */
        STALLS("uncertain", 0, 1, null),
        /** A message that it finds wrong: refused for good. */
        REFUSES_CONTENT("failed", 0, 1, "554"),
        TAKES("sent", 1, 1, null);

        /** How the message ends. */
        final String state;
        /** How many times it was taken. */
        final int taken;

        final int tries;
        final String why;

        Behaviour(String state, int taken, int tries, String why) {
            this.state = state;
            this.taken = taken;
            this.tries = tries;
            this.why = why;
        }
    }

    private final ServerSocket server = new ServerSocket(0, 20, InetAddress.getLoopbackAddress());
    private final AtomicInteger taken = new AtomicInteger();
    private final AtomicInteger tries = new AtomicInteger();
    private volatile Behaviour behaviour = Behaviour.TAKES;

    MailServerDouble() throws IOException {
        var accepting = new Thread(this::accept, "mail server double");
        accepting.setDaemon(true);
        accepting.start();
    }

    int port() {
        return server.getLocalPort();
    }

    /** How many messages it took. */
    int taken() {
        return taken.get();
    }

    void behave(Behaviour next) {
        tries.set(0);
        behaviour = next;
    }

    private void accept() {
        while (!server.isClosed()) {
            try {
                var socket = server.accept();
                var talking = new Thread(() -> talk(socket), "mail");
                talking.setDaemon(true);
                talking.start();
            } catch (IOException e) {
                // It was closed.
                return;
            }
        }
    }

    private void talk(Socket socket) {
        try (socket) {
            var in = new BufferedReader(new InputStreamReader(socket.getInputStream(), StandardCharsets.UTF_8));
            say(socket, "220 double.test");
            for (var line = in.readLine(); line != null; line = in.readLine()) {
                var word = line.toUpperCase(Locale.ROOT).replaceAll("[ :].*", "");
                switch (word) {
                    case "EHLO", "HELO" -> say(socket, "250 double.test");
                    case "MAIL", "RSET", "NOOP" -> say(socket, "250 ok");
                    case "RCPT" -> {
                        var first = tries.getAndIncrement() == 0;
                        if (behaviour == Behaviour.DROPS_BEFORE && first) {
                            return;
                        }
                        say(
                                socket,
                                behaviour == Behaviour.REFUSES
                                        ? "550 5.1.1 no such mailbox " + line.substring(8)
                                        : behaviour == Behaviour.GREYLISTS && first
                                                ? "451 4.7.1 come again later"
                                                : behaviour == Behaviour.FULL && first
                                                        ? "452 4.2.2 mailbox full"
                                                        : "250 ok");
                    }
                    case "DATA" -> {
                        say(socket, "354 go ahead");
                        while (!".".equals(in.readLine())) {
                            // The whole message is read.
                        }
                        if (behaviour == Behaviour.DROPS_AFTER) {
                            return;
                        }
                        if (behaviour == Behaviour.STALLS) {
                            // Until the other end has waited long enough.
                            in.readLine();
                            return;
                        }
                        if (behaviour == Behaviour.REFUSES_CONTENT) {
                            say(socket, "554 5.6.0 this message is not taken");
                        } else {
                            taken.incrementAndGet();
                            say(socket, "250 taken");
                        }
                    }
                    case "QUIT" -> {
                        say(socket, "221 bye");
                        return;
                    }
                    default -> say(socket, "502 what");
                }
            }
        } catch (IOException e) {
            // The other end is gone.
        }
    }

    private static void say(Socket socket, String line) throws IOException {
        socket.getOutputStream().write((line + "\r\n").getBytes(StandardCharsets.UTF_8));
        socket.getOutputStream().flush();
    }

    @Override
    public void close() throws IOException {
        server.close();
    }
}
