package dev.entente.e2e;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;

/** What a registered device says to the service, as an app would. */
final class DeviceCalls {
    private DeviceCalls() {}

    /** @param path below {@code /api/v1/devices} */
    static HttpResponse<String> post(Installation world, String path, Object body) {
        try {
            return HttpClient.newHttpClient()
                    .send(
                            HttpRequest.newBuilder(URI.create(world.url + "/api/v1/devices" + path))
                                    .header("Content-Type", "application/json")
                                    .POST(HttpRequest.BodyPublishers.ofString(ApiPerson.JSON.writeValueAsString(body)))
                                    .build(),
                            HttpResponse.BodyHandlers.ofString());
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }
}
