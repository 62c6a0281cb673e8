package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.wire.AccessApi;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.util.List;

/** The administrators' API with the token of the command line. */
final class ConsoleApi {
    private final HttpClient http = HttpClient.newHttpClient();
    private final Installation world;
    private final String token;
    private String network = "";

    private ConsoleApi(Installation world, String token) {
        this.world = world;
        this.token = token;
    }

    static ConsoleApi signedIn(Installation world) {
        try {
            var profile = Files.readString(world.dir.resolve("administrator/profiles/default.json"));
            return new ConsoleApi(
                    world, ApiPerson.JSON.readTree(profile).path("token").asString());
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    /** With a token of somebody else. */
    static ConsoleApi with(Installation world, String token) {
        return new ConsoleApi(world, token);
    }

    /** From an address that a proxy tells; empty for this machine. */
    ConsoleApi from(String address) {
        network = address;
        return this;
    }

    static final String STAFF_PASSWORD = "harbour-lights-at-dusk";

    /**
     * A new member of the help desk.
     *
     * @param own by which they sign in to their own account: who confirms has to be known as a person
     */
    static ConsoleApi staff(Installation world, ConsoleApi by, String login, List<String> scopes, String own) {
        var made = by.post(
                "/administrators",
                ApiPerson.JSON.writeValueAsString(new AccessApi.NewAdministrator(
                        login, "Desk " + login, STAFF_PASSWORD, AccessApi.STAFF, scopes, own)));
        assertThat(made.statusCode()).as(made.body()).isEqualTo(201);
        var token = asNobody(world)
                .post(
                        "/tokens",
                        ApiPerson.JSON.writeValueAsString(new AccessApi.SignIn(login, STAFF_PASSWORD, null, null)));
        return with(world, ApiPerson.JSON.readTree(token.body()).path("token").asString());
    }

    static ConsoleApi asNobody(Installation world) {
        return new ConsoleApi(world, "nothing");
    }

    String token() {
        return token;
    }

    HttpResponse<String> get(String path) {
        return send("GET", path, HttpRequest.BodyPublishers.noBody(), "*");
    }

    HttpResponse<String> put(String path, Object body) {
        return put(path, body, "*");
    }

    HttpResponse<String> put(String path, Object body, String ifMatch) {
        return send("PUT", path, HttpRequest.BodyPublishers.ofString(ApiPerson.JSON.writeValueAsString(body)), ifMatch);
    }

    HttpResponse<String> post(String path, String body) {
        return send("POST", path, HttpRequest.BodyPublishers.ofString(body), "*");
    }

    /** With one more header. */
    HttpResponse<String> post(String path, String body, String header, String value) {
        return send("POST", path, HttpRequest.BodyPublishers.ofString(body), "*", header, value);
    }

    HttpResponse<String> delete(String path) {
        return send("DELETE", path, HttpRequest.BodyPublishers.noBody(), "*");
    }

    private HttpResponse<String> send(
            String method, String path, HttpRequest.BodyPublisher body, String ifMatch, String... header) {
        try {
            var request = HttpRequest.newBuilder(URI.create(world.url + "/api/v1" + path))
                    .header("Authorization", "Bearer " + token)
                    .header("Content-Type", "application/json")
                    .header("If-Match", ifMatch)
                    .method(method, body);
            if (header.length > 0) {
                request.headers(header);
            }
            if (!network.isEmpty()) {
                request.header("X-Forwarded-For", network);
            }
            return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }
}
