package dev.entente.steward.link;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.StewardApi;
import dev.entente.wire.StewardCall;
import java.io.IOException;
import java.io.InputStream;
import java.net.ProxySelector;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.cert.CertificateFactory;
import java.time.Duration;
import java.time.InstantSource;
import java.util.Optional;
import java.util.UUID;
import javax.net.ssl.SSLContext;
import javax.net.ssl.TrustManagerFactory;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Signed calls to the service. Only ever dials out; proxy settings are those of the Java runtime. */
public final class ServiceLink {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final String PREFIX = "/api/v1/steward";

    private final URI service;
    private final HttpClient http;
    private final StewardState state;
    private final InstantSource clock;

    /** The service answered with an error; the message is its detail. */
    public static final class Refused extends IOException {
        private final int status;

        Refused(int status, String message) {
            super(message);
            this.status = status;
        }

        /** HTTP status. */
        public int status() {
            return status;
        }
    }

    /** @param ca PEM file of the service's certificate authority, or null for the system's */
    public ServiceLink(String service, Path ca, StewardState state, InstantSource clock) throws IOException {
        this.service = URI.create(service);
        this.http = client(ca);
        this.state = state;
        this.clock = clock;
    }

    private static HttpClient client(Path ca) throws IOException {
        var builder = HttpClient.newBuilder()
                .version(HttpClient.Version.HTTP_1_1)
                .proxy(ProxySelector.getDefault())
                .connectTimeout(Duration.ofSeconds(5));
        if (ca != null) {
            builder.sslContext(trusting(ca));
        }
        return builder.build();
    }

    private static SSLContext trusting(Path ca) throws IOException {
        try (InputStream pem = Files.newInputStream(ca)) {
            var store = KeyStore.getInstance(KeyStore.getDefaultType());
            store.load(null);
            var number = 0;
            for (var certificate : CertificateFactory.getInstance("X.509").generateCertificates(pem)) {
                store.setCertificateEntry("ca" + number++, certificate);
            }
            var trust = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
            trust.init(store);
            var context = SSLContext.getInstance("TLS");
            context.init(null, trust.getTrustManagers(), null);
            return context;
        } catch (GeneralSecurityException e) {
            throw new IOException("the service's CA certificate cannot be used: " + e.getMessage(), e);
        }
    }

    /**
     * Joins with a code of the form {@code CODE.SERVICE.OPERATOR}, where the last two are thumbprints of the keys to pin.
     *
     * @throws InvalidDocument if the service shows other keys than the code pins
     */
    public static StewardState join(String service, Path ca, String code, SigningKey identity, String version)
            throws IOException, InterruptedException {
        var parts = code.strip().split("\\.", -1);
        if (parts.length != 3) {
            throw new InvalidDocument("join-code", "this is not a whole join code; copy it with both its dots");
        }
        var body = JSON.writeValueAsString(new StewardApi.Join(parts[0], identity.publicKey(), version));
        var request = HttpRequest.newBuilder(URI.create(service).resolve(PREFIX + "/join"))
                .timeout(Duration.ofSeconds(10))
                .header("Content-Type", "application/json")
                .POST(HttpRequest.BodyPublishers.ofString(body))
                .build();
        var joined = read(client(ca).send(request, HttpResponse.BodyHandlers.ofString()), StewardApi.Joined.class)
                .orElseThrow();
        pinned("service", parts[1], joined.serviceKey());
        pinned("operator", parts[2], joined.operatorKey());
        return new StewardState(
                joined.steward(),
                joined.directory(),
                joined.directoryName(),
                joined.serviceKey(),
                joined.operatorKey(),
                identity);
    }

    private static void pinned(String whose, String thumbprint, EcKey shown) {
        if (!shown.thumbprint().equals(thumbprint)) {
            throw new InvalidDocument(
                    "join-code", "the " + whose + " key is another than the one the join code names; do not go on");
        }
    }

    /** What was signed last. */
    public record Standing(String signedRoster, Roster roster) {
        /** Whether the operator key has signed this steward in. */
        public boolean lists(StewardState state) {
            return roster != null
                    && roster.member(state.steward())
                            .map(m -> m.key().equals(state.identity().publicKey()))
                            .orElse(false);
        }
    }

    /** The roster in force, checked against the pinned operator key. */
    public Standing standing() throws IOException, InterruptedException {
        var answer = call("/state", "{}", Duration.ofSeconds(10), StewardApi.State.class)
                .orElseThrow();
        var roster =
                answer.roster() == null ? null : Roster.verify(answer.roster(), state.operatorKey(), state.directory());
        return new Standing(answer.roster(), roster);
    }

    /** Waits for work; empty when there was none in time. */
    public Optional<StewardApi.Work> work(String version, Duration wait) throws IOException, InterruptedException {
        return call(
                "/work",
                JSON.writeValueAsString(new StewardApi.AskForWork(version, (int) wait.toSeconds())),
                wait.plusSeconds(10),
                StewardApi.Work.class);
    }

    /** Hands in a signed sealing key. */
    public void sealingKey(String statement) throws IOException, InterruptedException {
        send("/sealing-keys", new StewardApi.SealingKeyStatement(statement));
    }

    /** @return whether the write is permitted now */
    public boolean begin(UUID order, int epoch, String server, String version)
            throws IOException, InterruptedException {
        try {
            send("/orders/" + order + "/begin", new StewardApi.Begin(epoch, server, version));
            return true;
        } catch (Refused e) {
            if (e.status() == 409) {
                return false;
            }
            throw e;
        }
    }

    /** Hands in a signed receipt. */
    public void receipt(UUID order, String receipt) throws IOException, InterruptedException {
        send("/orders/" + order + "/receipt", new StewardApi.ReceiptStatement(receipt));
    }

    /** Hands in a batch of a sync. */
    public void batch(UUID job, StewardApi.Batch batch) throws IOException, InterruptedException {
        send("/jobs/" + job + "/batch", batch);
    }

    /** Ends a job. */
    public void end(UUID job, StewardApi.JobEnd end) throws IOException, InterruptedException {
        send("/jobs/" + job + "/end", end);
    }

    private void send(String path, Object body) throws IOException, InterruptedException {
        call(path, JSON.writeValueAsString(body), Duration.ofSeconds(30), JsonNode.class);
    }

    private <T> Optional<T> call(String path, String body, Duration timeout, Class<T> type)
            throws IOException, InterruptedException {
        var uri = service.resolve(PREFIX + path);
        var signature =
                StewardCall.sign(state.identity(), state.steward(), "POST", uri.getPath(), body, clock.instant());
        var request = HttpRequest.newBuilder(uri)
                .timeout(timeout)
                .header("Content-Type", "application/json")
                .header("Authorization", "Steward " + state.steward() + " " + signature)
                .POST(HttpRequest.BodyPublishers.ofString(body, StandardCharsets.UTF_8))
                .build();
        return read(http.send(request, HttpResponse.BodyHandlers.ofString()), type);
    }

    private static <T> Optional<T> read(HttpResponse<String> response, Class<T> type) throws Refused {
        if (response.statusCode() == 204) {
            return Optional.empty();
        }
        if (response.statusCode() / 100 == 2) {
            return Optional.of(JSON.readValue(response.body(), type));
        }
        String detail;
        try {
            detail = JSON.readTree(response.body()).path("detail").asString("");
        } catch (RuntimeException e) {
            detail = "";
        }
        throw new Refused(
                response.statusCode(),
                detail.isEmpty() ? "the service answered with status " + response.statusCode() : detail);
    }
}
