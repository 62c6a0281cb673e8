package dev.entente.e2e;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.function.Predicate;

/** Between a steward and the service: passes everything on, and can hold one call before it goes on or its answer back. */
final class HoldingProxy {
    /** Where to hold. */
    enum At {
        BEFORE_BEGIN("/begin", true),
        AFTER_BEGIN("/begin", false),
        BEFORE_RECEIPT("/receipts", true);

        private final String path;
        private final boolean request;

        At(String path, boolean request) {
            this.path = path;
            this.request = request;
        }
    }

    private final String target;
    private final HttpServer server;
    private final HttpClient http =
            HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();
    private final Set<Hold> holding = ConcurrentHashMap.newKeySet();
    private volatile Hold hold;

    /** A hold that is asked for. */
    static final class Hold {
        private final At at;
        private final Predicate<String> which;
        private final CountDownLatch reached = new CountDownLatch(1);
        private final CountDownLatch released = new CountDownLatch(1);
        private volatile boolean passes;

        private Hold(At at, Predicate<String> which) {
            this.at = at;
            this.which = which;
        }

        /** Waits until a call is held. */
        void waitUntilReached() {
            try {
                if (!reached.await(30, TimeUnit.SECONDS)) {
                    throw new AssertionError("no call came to hold at " + at);
                }
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }

        /** Lets it go on to the service. */
        void pass() {
            passes = true;
            released.countDown();
        }

        /** Lets it go; what was held before it went on is dropped, as its caller is gone. */
        void release() {
            released.countDown();
        }
    }

    HoldingProxy(String target) throws IOException {
        this.target = target;
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 50);
        server.setExecutor(Executors.newCachedThreadPool(task -> {
            var thread = new Thread(task);
            thread.setDaemon(true);
            return thread;
        }));
        server.createContext("/", this::pass);
        server.start();
    }

    String url() {
        return "http://127.0.0.1:" + server.getAddress().getPort();
    }

    /**
     * Holds the next such call that is about one attempt; those about others pass, such as a later look at what an earlier
     * test left as unknown.
     */
    Hold hold(At at, ApiPerson person) {
        hold = new Hold(at, body -> person.orders().stream().anyMatch(body::contains));
        return hold;
    }

    /** What a test that failed left held goes on, and nothing more is held. */
    void mend() {
        var left = hold;
        hold = null;
        holding.forEach(Hold::release);
        if (left != null) {
            left.release();
        }
    }

    private void pass(HttpExchange exchange) throws IOException {
        try {
            var mine = hold;
            var body = exchange.getRequestBody().readAllBytes();
            var held = mine != null
                    && exchange.getRequestURI().getPath().endsWith(mine.at.path)
                    && mine.which.test(new String(body, StandardCharsets.UTF_8));
            if (held) {
                hold = null;
                holding.add(mine);
            }
            if (held && mine.at.request) {
                mine.reached.countDown();
                mine.released.await(60, TimeUnit.SECONDS);
                if (!mine.passes) {
                    exchange.close();
                    return;
                }
            }
            var request = HttpRequest.newBuilder(URI.create(target + exchange.getRequestURI()))
                    .method(exchange.getRequestMethod(), HttpRequest.BodyPublishers.ofByteArray(body));
            for (var name : new String[] {"Content-Type", "Authorization"}) {
                var value = exchange.getRequestHeaders().getFirst(name);
                if (value != null) {
                    request.header(name, value);
                }
            }
            var response = http.send(request.build(), HttpResponse.BodyHandlers.ofByteArray());
            if (held && !mine.at.request) {
                mine.reached.countDown();
                mine.released.await(60, TimeUnit.SECONDS);
            }
            response.headers()
                    .firstValue("Content-Type")
                    .ifPresent(type -> exchange.getResponseHeaders().set("Content-Type", type));
            exchange.sendResponseHeaders(
                    response.statusCode(), response.body().length == 0 ? -1 : response.body().length);
            exchange.getResponseBody().write(response.body());
        } catch (IOException e) {
            // The steward or the service went away in the middle, as tests want it to.
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } finally {
            exchange.close();
        }
    }
}
