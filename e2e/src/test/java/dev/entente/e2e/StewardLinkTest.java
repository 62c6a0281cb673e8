package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.audit.Checkpoint;
import dev.entente.core.seal.SealingKey;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.StewardApi;
import dev.entente.wire.StewardCall;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** The service's side of the steward link: who may call, once, and what a join code alone is worth. */
class StewardLinkTest {
    private static final Duration SOON = Duration.ofSeconds(30);
    private final World world = World.get();
    private final HttpClient http = HttpClient.newHttpClient();
    private final SigningKey identity = SigningKey.generate(new SecureRandom());

    private HttpResponse<String> call(String path, String body, String authorization) {
        try {
            var request = HttpRequest.newBuilder(URI.create(world.url + "/api/v1/steward" + path))
                    .header("Content-Type", "application/json")
                    .POST(HttpRequest.BodyPublishers.ofString(body));
            if (authorization != null) {
                request.header("Authorization", authorization);
            }
            return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    private String signed(UUID steward, String path, String body, Instant at) {
        return "Steward " + steward + " "
                + StewardCall.sign(identity, steward, "POST", "/api/v1/steward" + path, body, at);
    }

    private StewardApi.Joined join(String name) {
        var code = world.entente("steward", "admit", "--directory", "fleet", name)
                .expect(0)
                .out()
                .strip();
        var body = ApiPerson.JSON.writeValueAsString(
                new StewardApi.Join(code.split("\\.")[0], identity.publicKey(), "test"));
        var answer = call("/join", body, null);
        assertThat(answer.statusCode()).isEqualTo(200);
        assertThat(call("/join", body, null).statusCode()).as("the code again").isEqualTo(403);
        return ApiPerson.JSON.readValue(answer.body(), StewardApi.Joined.class);
    }

    @Test
    void a_join_code_alone_activates_nobody() {
        var joined = join("fleet-eager");
        var now = System.currentTimeMillis();
        var statement = new SealingKey(
                        1, joined.steward(), joined.directory(), identity.publicKey(), now, now + 3_600_000)
                .sign(identity);
        var body = ApiPerson.JSON.writeValueAsString(new StewardApi.SealingKeyStatement(statement));
        var answer = call("/sealing-keys", body, signed(joined.steward(), "/sealing-keys", body, Instant.now()));
        assertThat(answer.statusCode()).isEqualTo(422);
        assertThat(answer.body()).contains("not on the roster");

        world.kill("steward-fleet");
        try {
            var crew = world.crew();
            var person =
                    new ApiPerson(world).prove(crew.shore(), crew.address()).choose("Link-Quay-7001");
            var ask = ApiPerson.JSON.writeValueAsString(
                    new StewardApi.AskForWork("test", 3, 1, "one", null, null, 0, List.of(), null));
            assertThat(call("/work", ask, signed(joined.steward(), "/work", ask, Instant.now()))
                            .statusCode())
                    .as("no order for a steward that is on no roster")
                    .isEqualTo(204);
            world.startSteward("fleet");
            assertThat(person.waitForOutcome(Duration.ofSeconds(30)).state()).isEqualTo("completed");
        } finally {
            world.kill("steward-fleet");
            world.startSteward("fleet");
        }
    }

    @Test
    void calls_are_signed_about_themselves_and_taken_once() {
        var joined = join("fleet-caller");
        var good = signed(joined.steward(), "/state", "{}", Instant.now());
        assertThat(call("/state", "{}", good).statusCode()).isEqualTo(200);
        assertThat(call("/state", "{}", good).body()).contains("this call was made before");
        assertThat(call("/state", "{}", null).statusCode()).isEqualTo(401);
        assertThat(call("/state", "{}", "Steward x y").statusCode()).isEqualTo(401);
        assertThat(call("/state", "{ }", signed(joined.steward(), "/state", "{}", Instant.now()))
                        .body())
                .contains("about another call");
        assertThat(call("/state", "{}", signed(joined.steward(), "/work", "{}", Instant.now()))
                        .statusCode())
                .isEqualTo(401);
        assertThat(call(
                                "/state",
                                "{}",
                                signed(
                                        joined.steward(),
                                        "/state",
                                        "{}",
                                        Instant.now().minusSeconds(120)))
                        .body())
                .contains("clocks of steward and service");
        assertThat(call("/state", "{}", signed(UUID.randomUUID(), "/state", "{}", Instant.now()))
                        .statusCode())
                .isEqualTo(401);
    }

    @Test
    void nothing_can_be_begun_or_received_by_whoever_does_not_hold_the_order() {
        var joined = join("fleet-thief");
        var order = UUID.fromString(
                world.query("SELECT id FROM delivery LIMIT 1").isEmpty()
                        ? UUID.randomUUID().toString()
                        : world.query("SELECT id FROM delivery LIMIT 1"));
        var begin = ApiPerson.JSON.writeValueAsString(
                new StewardApi.Begins(List.of(new StewardApi.Begin(order, 1, "ldaps://x", "1"))));
        var path = "/orders/begin";
        assertThat(call(path, begin, signed(joined.steward(), path, begin, Instant.now()))
                        .body())
                .isEqualTo("{\"orders\":[]}");
        var receipt = ApiPerson.JSON.writeValueAsString(
                new StewardApi.Receipts(List.of(new StewardApi.ReceiptStatement(order, "a.b.c"))));
        var to = "/orders/receipts";
        assertThat(call(to, receipt, signed(joined.steward(), to, receipt, Instant.now()))
                        .body())
                .contains("not on the roster");
    }

    @Test
    void a_steward_keeps_a_checkpoint_and_says_so_when_the_record_is_not_what_it_was() throws IOException {
        var seen = world.dir.resolve("steward-fleet/state-fleet/record.seen");
        World.waitUntil(SOON, "a checkpoint is kept", () -> Files.exists(seen));
        var kept = Files.readString(seen);
        var record = World.recordKey(world.dir);
        // As after a backup was restored: the steward saw more than there is.
        var later = new Checkpoint(1, 1_000_000, "00".repeat(32), System.currentTimeMillis()).sign(record);
        try {
            world.kill("steward-fleet");
            Files.writeString(seen, record.publicKey().thumbprint() + " 1000000 " + later + "\n");
            world.startSteward("fleet");
            World.waitUntil(
                    SOON,
                    "it is told",
                    () -> world.entente("directory", "show", "fleet").out().contains("it was rolled back"));
            assertThat(world.entente("event", "list", "--kind", "record.doubted", "--directory", "fleet")
                            .out())
                    .contains("fleet-1", "it had 1000000 events");
            assertThat(Files.readString(seen)).as("what was seen stays").contains(later);
        } finally {
            world.kill("steward-fleet");
            Files.writeString(seen, kept);
            world.startSteward("fleet");
        }
        World.waitUntil(
                SOON,
                "it is told no more",
                () -> !world.entente("directory", "show", "fleet").out().contains("rolled back"));
    }
}
