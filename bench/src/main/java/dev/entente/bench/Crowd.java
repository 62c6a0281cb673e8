package dev.entente.bench;

import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.DirectoryApi;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
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
    private final List<StewardDouble> stewards = new ArrayList<>();
    private final List<String> added = new ArrayList<>();

    /** @param profile what the command line keeps of a sign-in */
    Crowd(String url, Path profile) throws IOException {
        this.url = url;
        this.token = JSON.readTree(Files.readString(profile)).path("token").asString();
    }

    /** Connects {@code directories} times {@code each} stewards, and waits until each directory was read. */
    void connect(int directories, int each) throws IOException, InterruptedException {
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
                            List.of(),
                            null,
                            operator.publicKey()));
            added.add(name);
            var joined = new ArrayList<StewardDouble>();
            for (var s = 0; s < each; s++) {
                joined.add(join(name, name + "-" + s));
            }
            var roster = new Roster(
                    1,
                    joined.get(0).directory(),
                    1,
                    System.currentTimeMillis(),
                    joined.stream().map(StewardDouble::member).toList());
            administrator(
                    "PUT", "/directories/" + name + "/roster", new DirectoryApi.SignedRoster(roster.sign(operator)));
            stewards.addAll(joined);
        }
        stewards.forEach(StewardDouble::start);
        while (stewards.stream().mapToInt(StewardDouble::synced).sum() < directories) {
            Thread.sleep(200);
        }
    }

    /** How many calls were not answered as they should be. */
    int failed() {
        return stewards.stream().mapToInt(StewardDouble::failed).sum();
    }

    private StewardDouble join(String directory, String name) throws IOException, InterruptedException {
        var code = JSON.readValue(
                administrator("POST", "/directories/" + directory + "/join-codes", Map.of("steward", name)),
                DirectoryApi.JoinCode.class);
        return StewardDouble.join(url, name, code.code(), null, Clock.systemUTC(), http, timer);
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

    /** Nothing of it stays behind in the service. */
    @Override
    public void close() throws IOException, InterruptedException {
        stewards.forEach(StewardDouble::stop);
        timer.shutdownNow();
        for (var name : added) {
            administrator("DELETE", "/directories/" + name, new DirectoryApi.RemovalConfirmed(name));
        }
    }
}
