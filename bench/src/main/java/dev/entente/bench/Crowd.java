package dev.entente.bench;

import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.DirectoryApi;
import dev.entente.wire.StewardApi;
import dev.entente.wire.StewardCall;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import tools.jackson.databind.json.JsonMapper;

/**
 * Stewards of directories in which nobody is, connected to the service by the protocol of docs/protocol.md: they joined, stand on
 * rosters, read everything once, and from then on wait for work and look for changes as stewards do.
 */
final class Crowd implements AutoCloseable {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final SecureRandom RANDOM = new SecureRandom();

    private final String url;
    private final String token;
    private final HttpClient http =
            HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();
    private final ScheduledExecutorService timer = Executors.newScheduledThreadPool(2);
    private final AtomicInteger synced = new AtomicInteger();
    private final AtomicInteger failed = new AtomicInteger();
    private final List<String> added = new ArrayList<>();
    private volatile boolean over;

    /** @param profile what the command line keeps of a sign-in */
    Crowd(String url, Path profile) throws IOException {
        this.url = url;
        this.token = JSON.readTree(Files.readString(profile)).path("token").asString();
    }

    private record Steward(UUID id, String name, UUID directory, SigningKey key, String instance) {}

    /** Connects {@code directories} times {@code each} stewards, and waits until each directory was read. */
    void connect(int directories, int each) throws IOException, InterruptedException {
        var all = new ArrayList<Steward>();
        for (var d = 0; d < directories; d++) {
            var operator = SigningKey.generate(RANDOM);
            var name = "crowd-" + d;
            administrator(
                    "POST",
                    "/directories",
                    new DirectoryApi.NewDirectory(
                            name,
                            name,
                            "scim",
                            List.of("https://localhost:1/" + name),
                            null,
                            null,
                            null,
                            "externalId",
                            List.of(),
                            List.of(),
                            List.of(),
                            null,
                            operator.publicKey()));
            added.add(name);
            var joined = new ArrayList<Steward>();
            for (var s = 0; s < each; s++) {
                joined.add(join(name, name + "-" + s));
            }
            var roster = new Roster(
                    1,
                    joined.get(0).directory(),
                    1,
                    System.currentTimeMillis(),
                    joined.stream()
                            .map(s ->
                                    new Roster.Member(s.id(), s.name(), s.key().publicKey()))
                            .toList());
            administrator(
                    "PUT", "/directories/" + name + "/roster", new DirectoryApi.SignedRoster(roster.sign(operator)));
            all.addAll(joined);
        }
        all.forEach(this::wait);
        while (synced.get() < directories) {
            Thread.sleep(200);
        }
    }

    /** How many calls were not answered as they should be. */
    int failed() {
        return failed.get();
    }

    private Steward join(String directory, String name) throws IOException, InterruptedException {
        var code = JSON.readValue(
                administrator("POST", "/directories/" + directory + "/join-codes", Map.of("steward", name)),
                DirectoryApi.JoinCode.class);
        var key = SigningKey.generate(RANDOM);
        var request = HttpRequest.newBuilder(URI.create(url + "/api/v1/steward/join"))
                .header("Content-Type", "application/json")
                .POST(HttpRequest.BodyPublishers.ofString(
                        JSON.writeValueAsString(new StewardApi.Join(code.code(), key.publicKey(), "bench"))))
                .build();
        var joined = JSON.readValue(
                http.send(request, HttpResponse.BodyHandlers.ofString()).body(), StewardApi.Joined.class);
        return new Steward(
                joined.steward(),
                name,
                joined.directory(),
                key,
                UUID.randomUUID().toString());
    }

    private String administrator(String method, String path, Object body) throws IOException, InterruptedException {
        var request = HttpRequest.newBuilder(URI.create(url + "/api/v1" + path))
                .header("Content-Type", "application/json")
                .header("Authorization", "Bearer " + token)
                .header("If-Match", "*")
                .method(method, HttpRequest.BodyPublishers.ofString(JSON.writeValueAsString(body)))
                .build();
        var answer = http.send(request, HttpResponse.BodyHandlers.ofString());
        if (answer.statusCode() / 100 != 2) {
            throw new IllegalStateException(path + " " + answer.statusCode() + " " + answer.body());
        }
        return answer.body();
    }

    private interface Answered {
        void with(HttpResponse<String> answer);
    }

    private void call(Steward steward, String path, Object body, Answered then) {
        var text = JSON.writeValueAsString(body);
        var uri = URI.create(url + "/api/v1/steward" + path);
        var signed = StewardCall.sign(steward.key(), steward.id(), "POST", uri.getPath(), text, Instant.now());
        var request = HttpRequest.newBuilder(uri)
                .timeout(Duration.ofSeconds(StewardApi.USUAL_WAIT + 20))
                .header("Content-Type", "application/json")
                .header("Authorization", "Steward " + steward.id() + " " + signed)
                .POST(HttpRequest.BodyPublishers.ofString(text))
                .build();
        http.sendAsync(request, HttpResponse.BodyHandlers.ofString()).whenComplete((answer, e) -> {
            if (over) {
                return;
            }
            if (e != null || answer.statusCode() / 100 != 2) {
                failed.incrementAndGet();
                if (path.equals("/work")) {
                    // A steward waits once; whoever else of it failed does not begin to wait besides.
                    timer.schedule(() -> wait(steward), 1, TimeUnit.SECONDS);
                }
            } else {
                then.with(answer);
            }
        });
    }

    private void wait(Steward steward) {
        call(
                steward,
                "/work",
                new StewardApi.AskForWork(
                        "bench",
                        StewardApi.USUAL_WAIT,
                        16,
                        steward.instance(),
                        "https://localhost:1",
                        null,
                        1,
                        List.of()),
                answer -> {
                    if (answer.statusCode() == 200) {
                        perform(steward, JSON.readValue(answer.body(), StewardApi.Work.class));
                    }
                    wait(steward);
                });
    }

    private void perform(Steward steward, StewardApi.Work work) {
        var task = work.task();
        if (task == null) {
            return;
        }
        if (task.kind().equals("changes")) {
            // Nothing ever changes here: this is told when the time to look is over.
            timer.schedule(
                    () -> call(
                            steward,
                            "/changes",
                            new StewardApi.Changes(task.cursor(), task.cursor(), null, null, true),
                            a -> {}),
                    task.watchSeconds(),
                    TimeUnit.SECONDS);
        } else {
            call(
                    steward,
                    "/jobs/" + task.id() + "/end",
                    new StewardApi.JobEnd(true, null, task.kind().equals("preflight") ? List.of() : null, "1"),
                    answer -> {
                        if (task.kind().equals("sync")) {
                            synced.incrementAndGet();
                        }
                    });
        }
    }

    /** Nothing of it stays behind in the service. */
    @Override
    public void close() throws IOException, InterruptedException {
        over = true;
        timer.shutdownNow();
        for (var name : added) {
            administrator("DELETE", "/directories/" + name, new DirectoryApi.RemovalConfirmed(name));
        }
    }
}
