package dev.entente.e2e;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;

/** Between a program and what it calls: passes bytes both ways, and can lose what is answered, or break off in it. */
final class SwallowingWire {
    private final ServerSocket server;
    private final Set<Socket> open = ConcurrentHashMap.newKeySet();
    private volatile boolean swallowing;
    private volatile boolean cut;
    private volatile long most = Long.MAX_VALUE;

    SwallowingWire(String host, int port) throws IOException {
        server = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
        daemon(() -> {
            while (true) {
                try {
                    connect(server.accept(), host, port);
                } catch (IOException e) {
                    throw new IllegalStateException(e);
                }
            }
        });
    }

    private void connect(Socket near, String host, int port) throws IOException {
        if (cut) {
            near.close();
            return;
        }
        try {
            var far = new Socket(host, port);
            open.add(near);
            open.add(far);
            daemon(() -> copy(near, far, false));
            daemon(() -> copy(far, near, true));
        } catch (IOException e) {
            // The directory is away, as tests want it to be: the steward sees its connection closed.
            near.close();
        }
    }

    int port() {
        return server.getLocalPort();
    }

    /** Breaks everything that is open, and lets nobody in until it is mended. */
    void cut(boolean now) {
        cut = now;
        if (now) {
            open.forEach(socket -> {
                try {
                    socket.close();
                } catch (IOException e) {
                    // It was closed already.
                }
            });
            open.clear();
        }
    }

    /** Each connection breaks after so many bytes of answers. */
    void breakAfter(long bytes) {
        most = bytes;
    }

    void swallowAnswers(boolean on) {
        swallowing = on;
    }

    private void copy(Socket from, Socket to, boolean answers) {
        try (from;
                to) {
            InputStream in = from.getInputStream();
            OutputStream out = to.getOutputStream();
            var buffer = new byte[16 * 1024];
            var left = answers ? most : Long.MAX_VALUE;
            for (var read = in.read(buffer); read >= 0 && left > 0; read = in.read(buffer)) {
                if (!(answers && swallowing)) {
                    out.write(buffer, 0, (int) Math.min(read, left));
                    left -= read;
                }
            }
        } catch (IOException e) {
            // One side closed.
        }
    }

    private static void daemon(Runnable work) {
        var thread = new Thread(work);
        thread.setDaemon(true);
        thread.start();
    }
}
