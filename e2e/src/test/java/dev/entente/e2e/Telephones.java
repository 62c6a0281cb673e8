package dev.entente.e2e;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.regex.Pattern;
import tools.jackson.core.type.TypeReference;

/** The stand-in phone network, as the owners of telephones and an operator of gateways use it. */
final class Telephones {
    private static final Pattern CODE = Pattern.compile("([0-9]{4} [0-9]{4})|: ((?:[0-9A-Z], ){7}[0-9A-Z])\\.");

    private final String box;
    private final HttpClient http = HttpClient.newHttpClient();

    Telephones(Installation world) {
        this.box = world.boxUrl();
    }

    /** What came to one. */
    record Came(String to, String kind, String text, String gateway, long at) {}

    /** Where a gateway of this network takes messages. */
    String gateway(String name) {
        return box + "/gateways/" + name;
    }

    List<Came> at(String number) {
        var all = ApiPerson.JSON.readValue(
                call(HttpRequest.newBuilder(URI.create(box + "/phone")).build()), new TypeReference<List<Came>>() {});
        return all.stream().filter(c -> c.to().equals(number)).toList();
    }

    Came next(String number, int before) {
        Installation.waitUntil(
                Duration.ofSeconds(20),
                "something comes to " + number,
                () -> at(number).size() > before);
        return at(number).get(at(number).size() - 1);
    }

    static String code(Came came) {
        var match = CODE.matcher(came.text());
        if (!match.find()) {
            throw new AssertionError("no code in: " + came.text());
        }
        return match.group(1) != null ? match.group(1) : match.group(2).replace(", ", "");
    }

    /** What a gateway does from now on; that a message came is told a moment after it was taken. */
    void behave(String gateway, String kind) {
        var wanted = Map.of("gateway", gateway, "kind", kind, "seconds", kind.equals("deliver") ? 1 : 0);
        call(HttpRequest.newBuilder(URI.create(box + "/phone/behaviour"))
                .PUT(HttpRequest.BodyPublishers.ofString(ApiPerson.JSON.writeValueAsString(wanted)))
                .build());
    }

    private String call(HttpRequest request) {
        try {
            return http.send(request, HttpResponse.BodyHandlers.ofString()).body();
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }
}
