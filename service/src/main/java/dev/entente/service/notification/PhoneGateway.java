package dev.entente.service.notification;

import dev.entente.core.seal.HttpSignature;
import dev.entente.service.platform.Exchange;
import dev.entente.wire.PhoneApi;
import java.io.IOException;
import java.net.ConnectException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpConnectTimeoutException;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpTimeoutException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.InstantSource;
import java.util.Optional;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/** Speaks with gateways to the telephone network, as {@code docs/phone-gateway.md} describes it. */
@Component
class PhoneGateway {
    private static final int LONGEST_ANSWER = 16 * 1024;
    private static final Duration CONNECT = Duration.ofSeconds(3);
    private static final Duration ANSWER = Duration.ofSeconds(8);

    private final HttpClient http = HttpClient.newBuilder()
            .connectTimeout(CONNECT)
            .followRedirects(HttpClient.Redirect.NEVER)
            .build();
    private final JsonMapper json;
    private final InstantSource clock;

    PhoneGateway(JsonMapper json, InstantSource clock) {
        this.json = json;
        this.clock = clock;
    }

    /**
     * What came of handing a message in.
     *
     * @param reference under which the gateway has it; null if it did not take it
     * @param why it did not, in our words: fit for the record
     * @param said by the gateway, for the eyes of who asked alone: it may repeat number and text; empty if nothing
     * @param works whether the gateway does what it should, though it may not send this message
     */
    record Answer(String reference, String why, String said, boolean works) {
        static Answer not(String why) {
            return new Answer(null, why, "", false);
        }
    }

    /** Hands one message in. */
    Answer send(PhoneChannel.Gateway gateway, PhoneApi.Message message) {
        try {
            var answer = call(gateway, "POST", gateway.at("messages"), json.writeValueAsBytes(message));
            var body = answer.body();
            if (answer.statusCode() / 100 == 2) {
                var reference = json.readValue(body, PhoneApi.Accepted.class).reference();
                return reference == null || reference.isBlank() || reference.length() > 200
                        ? Answer.not("it took the message without a reference")
                        : new Answer(reference, null, "", true);
            }
            return new Answer(null, refused(answer.statusCode()), said(body), works(answer.statusCode()));
        } catch (ConnectException | HttpConnectTimeoutException e) {
            return Answer.not("it can't be reached");
        } catch (HttpTimeoutException e) {
            return Answer.not("it didn't answer in time");
        } catch (IOException | JacksonException e) {
            return Answer.not("it didn't answer as it should (" + e.getClass().getSimpleName() + ")");
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return Answer.not("this node was stopped");
        }
    }

    private static boolean works(int status) {
        return status / 100 == 4 && status != 401 && status != 403;
    }

    private static String refused(int status) {
        if (works(status)) {
            return "it won't send this message (status " + status + ")";
        }
        return status / 100 == 4
                ? "it doesn't accept our signature (status " + status + ")"
                : "it can't send now (status " + status + ")";
    }

    /** Asks about a message that there is not, only to see whether a gateway answers as it should. */
    Answer look(PhoneChannel.Gateway gateway) {
        try {
            var status = call(gateway, "GET", gateway.at("messages/none"), new byte[0])
                    .statusCode();
            return status / 100 == 2 || works(status)
                    ? new Answer("none", null, "", true)
                    : Answer.not(refused(status));
        } catch (IOException e) {
            return Answer.not("it can't be reached");
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return Answer.not("this node was stopped");
        }
    }

    /** What became of a message; empty if the gateway does not say. */
    Optional<PhoneApi.MessageState> state(PhoneChannel.Gateway gateway, String reference) {
        try {
            var answer = call(gateway, "GET", gateway.at("messages/" + reference), new byte[0]);
            return answer.statusCode() == 200
                    ? Optional.of(json.readValue(answer.body(), PhoneApi.MessageState.class))
                    : Optional.empty();
        } catch (IOException | JacksonException | IllegalArgumentException e) {
            return Optional.empty();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return Optional.empty();
        }
    }

    private HttpResponse<byte[]> call(PhoneChannel.Gateway gateway, String method, URI at, byte[] body)
            throws IOException, InterruptedException {
        var request = HttpRequest.newBuilder(at)
                .header("Accept", "application/json")
                .method(method, HttpRequest.BodyPublishers.ofByteArray(body));
        if (body.length > 0) {
            request.header("Content-Type", "application/json");
        }
        HttpSignature.fields(
                        method,
                        at.toString(),
                        body,
                        gateway.secret().getBytes(StandardCharsets.UTF_8),
                        PhoneChannel.KEY,
                        clock.instant())
                .forEach(request::header);
        return Exchange.of(http, request.build(), ANSWER, LONGEST_ANSWER);
    }

    /** A problem's own words (RFC 9457); empty if it has none. */
    private String said(byte[] body) {
        try {
            var detail = json.readTree(body).path("detail").asString("");
            return detail.length() > 200 ? detail.substring(0, 200) + "…" : detail;
        } catch (JacksonException e) {
            return "";
        }
    }
}
