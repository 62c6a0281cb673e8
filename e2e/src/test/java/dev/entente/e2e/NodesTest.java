package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Two nodes on one database: what one of them is told holds for the other with its very next answer. */
class NodesTest {
    private static final int ROUNDS = 25;
    private static World world;
    private static String other;
    private final HttpClient http = HttpClient.newHttpClient();

    @BeforeAll
    static void start() {
        world = World.get();
        var port = World.freePort();
        other = "http://localhost:" + port;
        world.start(
                "second-node",
                World.ROOT.resolve("bin/lib/run-service.sh").toString(),
                World.DIR.resolve("lab").toString(),
                World.DIR.resolve("secrets").toString(),
                String.valueOf(port),
                String.valueOf(world.smtp),
                other,
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
}
