package dev.entente.service.outlet;

import dev.entente.service.platform.Exchange;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.wire.OutletApi;
import java.io.IOException;
import java.net.ConnectException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpConnectTimeoutException;
import java.net.http.HttpRequest;
import java.net.http.HttpTimeoutException;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import javax.net.ssl.SSLHandshakeException;

/** Receivers that are web services. */
abstract class WebReceiver implements Receiver {
    private static final Duration CONNECT = Duration.ofSeconds(5);
    private static final Duration ANSWER = Duration.ofSeconds(15);
    private static final int LONGEST_ANSWER = 16 * 1024;
    private static final int CLIENTS = 40;

    /** What no later try makes better: the receiver has read it and will not have it. */
    private static final Set<Integer> FOR_GOOD = Set.of(400, 413, 415, 422);

    private final AllowedReceivers allowed;
    private final KeyRing keys;
    /** By whom they believe. A client has a thread of its own, so those that nobody needs any more go. */
    private final Map<String, HttpClient> clients = new LinkedHashMap<>(16, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, HttpClient> eldest) {
            return size() > CLIENTS;
        }
    };

    WebReceiver(AllowedReceivers allowed, KeyRing keys) {
        this.allowed = allowed;
        this.keys = keys;
    }

    @Override
    public void check(OutletApi.NewOutlet wanted) {
        allowed.web(wanted.to());
        checkAuthority(wanted.authority());
    }

    static void checkAuthority(String authority) {
        if (authority != null && !authority.isBlank()) {
            try {
                Tls.trusting(authority);
            } catch (IllegalArgumentException e) {
                throw Problem.of("outlet-authority/form");
            }
        }
    }

    private HttpClient client(String authority) {
        synchronized (clients) {
            return clients.computeIfAbsent(
                    authority == null ? "" : authority,
                    believes -> HttpClient.newBuilder()
                            .connectTimeout(CONNECT)
                            .followRedirects(HttpClient.Redirect.NEVER)
                            .sslContext(Tls.trusting(authority))
                            .build());
        }
    }

    /** What a receiver said. */
    record Answer(int status, byte[] body) {}

    Answer post(Outlet outlet, String type, byte[] body, Map<String, String> fields) throws NotTaken {
        URI to;
        try {
            to = allowed.web(outlet.goesTo());
        } catch (Problem e) {
            throw NotTaken.now("the operator doesn't let outlets lead there any more");
        }
        var request = HttpRequest.newBuilder(to)
                .header("Content-Type", type)
                .header("Accept", "application/json")
                .POST(HttpRequest.BodyPublishers.ofByteArray(body));
        fields.forEach(request::header);
        var credential = outlet.credential(keys);
        if (credential != null) {
            request.header("Authorization", "Bearer " + credential);
        }
        try {
            var answer = Exchange.of(client(outlet.authority()), request.build(), ANSWER, LONGEST_ANSWER);
            return new Answer(answer.statusCode(), answer.body());
        } catch (ConnectException | HttpConnectTimeoutException e) {
            throw NotTaken.now("it can't be reached");
        } catch (HttpTimeoutException e) {
            throw NotTaken.now("it didn't answer in time");
        } catch (SSLHandshakeException e) {
            throw NotTaken.now("its certificate isn't one that this outlet believes");
        } catch (IOException e) {
            throw NotTaken.now("it broke off the connection");
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw NotTaken.now("this node was stopped");
        }
    }

    static NotTaken refused(int status) {
        var why = status == 401 || status == 403
                ? "it doesn't let us in (status " + status + ")"
                : status / 100 == 3
                        ? "it leads elsewhere, where outlets don't follow (status " + status + ")"
                        : FOR_GOOD.contains(status)
                                ? "it won't take it (status " + status + ")"
                                : "it can't take it now (status " + status + ")";
        return FOR_GOOD.contains(status) ? NotTaken.forGood(why) : NotTaken.now(why);
    }
}
