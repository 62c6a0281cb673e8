package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Two nodes on one database: what one of them is told holds for the other with its very next answer. */
class NodesTest {
    private static final int ROUNDS = 25;
    private static World world;
    private static int port;
    private static String other;
    private static final Duration SOON = Duration.ofSeconds(30);
    private final HttpClient http = HttpClient.newHttpClient();

    @BeforeAll
    static void start() {
        world = World.get();
        port = World.freePort();
        other = "http://localhost:" + port;
        startSecond();
    }

    private static void startSecond() {
        world.start(
                "second-node",
                world.serviceEnvironment(),
                World.ROOT.resolve("bin/lib/run-service.sh").toString(),
                world.dir.resolve("lab").toString(),
                world.dir.resolve("secrets").toString(),
                String.valueOf(port),
                String.valueOf(world.smtp),
                other,
                "-Dentente.answers=" + world.answers(),
                "-Dentente.starts-per-network=100000",
                "-Dentente.lease=4s",
                "-Dentente.directory-timeout=2s");
        World.waitUntil(
                Duration.ofSeconds(90),
                "the second node is ready",
                () -> World.status(other + "/actuator/health/readiness") == 200);
    }

    @AfterAll
    static void stop() {
        world.kill("second-node");
    }

    private String paused(String node) throws IOException, InterruptedException {
        var request = HttpRequest.newBuilder(URI.create(node + "/api/v1/portal/context"))
                .build();
        return ApiPerson.JSON
                .readTree(
                        http.send(request, HttpResponse.BodyHandlers.ofString()).body())
                .path("paused")
                .toString();
    }

    @Test
    void a_stop_on_one_node_is_in_force_on_the_other_before_its_answer_has_come_and_so_is_its_end() throws Exception {
        var api = ConsoleApi.signedIn(world);
        // Both have read what is stopped before, so that both remember that nothing is.
        for (var node : List.of(world.url, other)) {
            assertThat(paused(node)).isEqualTo("[]");
        }
        for (var round = 0; round < ROUNDS; round++) {
            assertThat(api.post("/stops", "{\"what\":\"action:unlock\",\"reason\":\"round " + round + "\"}")
                            .statusCode())
                    .isLessThan(300);
            assertThat(paused(other)).as("round " + round).contains("unlock");
            assertThat(paused(world.url)).contains("unlock");
            assertThat(api.delete("/stops?what=action:unlock").statusCode()).isLessThan(300);
            assertThat(paused(other)).as("end of round " + round).isEqualTo("[]");
        }
    }

    @Test
    void a_steward_that_waits_at_one_node_is_handed_what_comes_to_the_other() throws Exception {
        var crew = world.crew();
        var person = new ApiPerson(world, other).prove(crew.shore(), crew.address());
        person.choose("Nodes-Quay-101").waitForOutcome(Duration.ofSeconds(30));
        assertThat(person.attempt.state()).isEqualTo("completed");
    }

    @Test
    void another_key_signs_the_record_from_a_restart_on_and_what_the_one_of_before_signed_holds() throws Exception {
        var before = World.recordKey(world.dir).publicKey().thumbprint();
        var kept = Files.writeString(
                Files.createTempFile("kept", ".jws"),
                world.entente("event", "checkpoint").expect(0).out());
        var made = World.run(
                Map.of("ENTENTE_SECRETS", world.dir.resolve("secrets").toString()),
                "java",
                "-jar",
                World.ROOT
                        .resolve("service/target/program/entente-service-program.jar")
                        .toString(),
                "new-record-key");
        var next = World.recordKey(world.dir).publicKey().thumbprint();
        assertThat(made.expect(0).out()).contains(next, "restart them one after the other");
        assertThat(next).isNotEqualTo(before);

        world.kill("second-node");
        startSecond();
        World.waitUntil(
                SOON,
                "the first key has handed over",
                () -> world.entente("event", "list", "--kind", "record.key-changed")
                        .out()
                        .contains(next));
        // The other node doesn't know it yet: it signs nothing more, and says why.
        world.onStatus("this node lacks the key that signs it now", true);
        world.kill("service");
        world.startService();
        world.onStatus("this node lacks the key", false);
        world.entente("stop", "method:push", "--reason", "something to sign").expect(0);
        world.entente("resume", "method:push").expect(0);
        World.waitUntil(
                SOON,
                "it is signed",
                () -> world.query("SELECT count(*) FROM event_pending").equals("0"));

        var export = Files.createTempDirectory("record").resolve("record.jsonl");
        world.entente("event", "export", export.toString()).expect(0);
        // Once more, from where it stopped.
        world.entente("event", "export", export.toString()).expect(0);
        for (var key : List.of(before, next)) {
            for (var what : List.of(List.<String>of(), List.of(export.toString()))) {
                var command = new ArrayList<>(List.of("event", "verify", "--key", key, "--kept", kept.toString()));
                command.addAll(what);
                assertThat(world.entente(command.toArray(String[]::new))
                                .expect(0)
                                .out())
                        .contains("The record is what was sealed.");
            }
            var proof = Files.writeString(
                    Files.createTempFile("proof", ".json"),
                    world.entente("event", "prove", "--kept", kept.toString())
                            .expect(0)
                            .out());
            assertThat(world.entente("event", "check", proof.toString(), "--key", key)
                            .expect(0)
                            .out())
                    .contains("continues the checkpoint");
        }
        assertThat(world.entente("event", "verify", "--key", "x".repeat(43))
                        .expect(1)
                        .err())
                .contains("the record is signed with key ");
        // Stewards follow, and doubt nothing; they look when they begin, and then every ten minutes.
        world.kill("steward-fleet");
        world.startSteward("fleet");
        World.waitUntil(
                Duration.ofSeconds(60),
                "a steward keeps what the new one signed",
                () -> World.run(
                                Map.of(),
                                "cat",
                                world.dir
                                        .resolve("steward-fleet/state-fleet/record.seen")
                                        .toString())
                        .out()
                        .startsWith(next));
        assertThat(world.entente("directory", "show", "fleet").expect(0).out()).doesNotContain("another key");
    }
}
