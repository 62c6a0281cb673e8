package dev.entente.steward.link;

import com.fasterxml.jackson.annotation.JsonInclude;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.StewardApi;
import dev.entente.wire.StewardCall;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Signed calls to the service. Only ever dials out; proxy settings are those of the Java runtime. */
public final class ServiceLink implements OrderCalls {
    // What a directory does not say is left out: most of what a sync sends would be nulls.
    private static final JsonMapper JSON = JsonMapper.builder()
            .changeDefaultPropertyInclusion(values -> values.withValueInclusion(JsonInclude.Include.NON_NULL))
            .build();
    private static final String PREFIX = "/api/v1/steward";
    private static final Duration SHORT = Duration.ofSeconds(30);
    private static final Duration OLDEST_STANDING = Duration.ofMinutes(1);
    private static final Duration LOOK_EVERY = Duration.ofMinutes(10);

    private final URI service;
    private final HttpClient http;
    private final StewardState state;
    private final RosterSeen seen;
    private final RecordSeen record;
    private final InstantSource clock;
    private final Together<StewardApi.Begin> begins = new Together<>(this::begin);
    private final Together<StewardApi.ReceiptStatement> receipts = new Together<>(this::receipt);
    private volatile Known known;
    private volatile int latencyMillis;

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
    public ServiceLink(String service, Path ca, StewardState state, Path stateFolder, InstantSource clock)
            throws IOException {
        this.seen = new RosterSeen(stateFolder);
        this.record = new RecordSeen(stateFolder);
        this.service = URI.create(service);
        this.http = TrustedHttp.client(ca);
        this.state = state;
        this.clock = clock;
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
        var joined = read(
                        TrustedHttp.client(ca).send(request, HttpResponse.BodyHandlers.ofString()),
                        StewardApi.Joined.class)
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

    private record Known(Standing standing, String digest, long at) {}

    /** The roster in force, checked against the pinned operator key. */
    public Standing standing() throws IOException, InterruptedException {
        var before = record.doubt();
        var answer = state();
        record.look(answer.recordKey(), answer.keyChanges(), answer.record());
        if (!Objects.equals(before, record.doubt())) {
            // Said at once, not with the next look.
            state();
        }
        var roster =
                answer.roster() == null ? null : Roster.verify(answer.roster(), state.operatorKey(), state.directory());
        if (roster != null) {
            seen.accept(roster, answer.roster());
        }
        var standing = new Standing(answer.roster(), roster);
        known = new Known(
                standing,
                standing.signedRoster() == null ? "" : Roster.digest(standing.signedRoster()),
                System.nanoTime());
        return standing;
    }

    private StewardApi.State state() throws IOException, InterruptedException {
        var asking = JSON.writeValueAsString(new StewardApi.AskForState(record.size(), record.doubt()));
        return call("/state", asking, Duration.ofSeconds(10), StewardApi.State.class)
                .orElseThrow();
    }

    /** Whether it is time to look whether the record is still what it was, and the roster. */
    public boolean lookIsDue() {
        var last = known;
        return last == null || System.nanoTime() - last.at() > LOOK_EVERY.toNanos();
    }

    /** What is known is looked at first and is never older than a minute. */
    @Override
    public Standing standingFor(String digest) throws IOException, InterruptedException {
        var last = known;
        var fresh = last != null && System.nanoTime() - last.at() < OLDEST_STANDING.toNanos();
        if (fresh && last.standing().signedRoster() != null && last.digest().equals(digest)) {
            return last.standing();
        }
        return standing();
    }

    /** Waits for work; empty when there was none in time. */
    public Optional<StewardApi.Work> work(StewardApi.AskForWork asking) throws IOException, InterruptedException {
        return call(
                "/work",
                JSON.writeValueAsString(asking),
                Duration.ofSeconds(asking.waitSeconds() + 10L),
                StewardApi.Work.class);
    }

    /** How long the service took to answer the last call that it does not hold back. */
    public int latencyMillis() {
        return latencyMillis;
    }

    /** Hands in a signed sealing key. */
    public void sealingKey(String statement) throws IOException, InterruptedException {
        send("/sealing-keys", new StewardApi.SealingKeyStatement(statement));
    }

    /** Orders that ask at the same time ask together. */
    @Override
    public boolean begin(UUID order, int epoch, String server, String version)
            throws IOException, InterruptedException {
        return begins.ask(new StewardApi.Begin(order, epoch, server, version));
    }

    private List<Boolean> begin(List<StewardApi.Begin> asked) throws IOException, InterruptedException {
        var begun = call(
                        "/orders/begin",
                        JSON.writeValueAsString(new StewardApi.Begins(asked)),
                        SHORT,
                        StewardApi.Begun.class)
                .orElseThrow();
        return asked.stream().map(b -> begun.orders().contains(b.order())).toList();
    }

    /** Those of the same moment travel together. */
    @Override
    public CompletableFuture<Boolean> receipt(UUID order, String receipt) {
        return receipts.hand(new StewardApi.ReceiptStatement(order, receipt));
    }

    private List<Boolean> receipt(List<StewardApi.ReceiptStatement> handedIn) throws IOException, InterruptedException {
        var taken = call(
                        "/orders/receipts",
                        JSON.writeValueAsString(new StewardApi.Receipts(handedIn)),
                        SHORT,
                        StewardApi.ReceiptsTaken.class)
                .orElseThrow();
        return handedIn.stream().map(r -> taken.orders().contains(r.order())).toList();
    }

    /** Hands in what changed. */
    public void changes(StewardApi.Changes changes) throws IOException, InterruptedException {
        send("/changes", changes);
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
        call(path, JSON.writeValueAsString(body), SHORT, JsonNode.class);
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
        var asked = System.nanoTime();
        var answer = http.send(request, HttpResponse.BodyHandlers.ofString());
        if (!path.equals("/work")) {
            latencyMillis = (int) ((System.nanoTime() - asked) / 1_000_000);
        }
        return read(answer, type);
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
                detail.isEmpty()
                        ? "The answer didn't come from the service (HTTP status " + response.statusCode()
                                + " without an explanation). Check service: in the steward's file, and any proxy in between."
                        : detail);
    }
}
