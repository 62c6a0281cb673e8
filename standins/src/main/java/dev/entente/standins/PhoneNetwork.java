package dev.entente.standins;

import com.sun.net.httpserver.HttpExchange;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicReference;
import java.util.regex.Pattern;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * A telephone network behind any number of gateways, {@code /gateways/NAME/messages}, as {@code docs/phone-gateway.md} describes them.
 * Checks and makes signatures by code of its own, so that both ends can be held to the document. What it does with messages is
 * told by {@code PUT /phone/behaviour}: a gateway, a kind ({@code deliver}, {@code silent}, {@code lose}, {@code delay},
 * {@code refuse}, {@code down}) and, for {@code delay}, seconds.
 */
final class PhoneNetwork {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Pattern COMPONENT = Pattern.compile("\"([^\"]+)\"");
    private static final Behaviour USUAL = new Behaviour("deliver", 0);

    private final byte[] secret;
    private final URI callbacks;
    private final String own;
    private final List<Sent> sent = new CopyOnWriteArrayList<>();
    private final Map<String, Behaviour> behaviours = new ConcurrentHashMap<>();
    private final HttpClient http = HttpClient.newHttpClient();
    private final ScheduledExecutorService later = Executors.newSingleThreadScheduledExecutor(task -> {
        var thread = new Thread(task, "phone network");
        thread.setDaemon(true);
        return thread;
    });

    private record Behaviour(String kind, int seconds) {}

    /** A message that a gateway took. */
    private record Sent(
            String gateway,
            String reference,
            String id,
            String kind,
            String to,
            String extension,
            String text,
            String language,
            long at,
            AtomicReference<String> state) {}

    /**
     * @param secret that gateways and service sign with
     * @param callbacks where the service is told what became of messages; null for nowhere
     * @param own address of this network, as the service has it
     */
    PhoneNetwork(String secret, URI callbacks, String own) {
        this.secret = secret.getBytes(StandardCharsets.UTF_8);
        this.callbacks = callbacks;
        this.own = own;
    }

    /** What came to telephones, newest last; the text is read by its owner. */
    void phones(HttpExchange exchange) throws IOException {
        var path = exchange.getRequestURI().getPath();
        if (path.equals("/phone/behaviour")) {
            var wanted = JSON.readTree(exchange.getRequestBody().readNBytes(4096));
            behaviours.put(
                    wanted.path("gateway").asString(),
                    new Behaviour(
                            wanted.path("kind").asString(),
                            wanted.path("seconds").asInt(0)));
            Standins.answer(exchange, 204, "application/json", "");
            return;
        }
        Standins.answer(exchange, 200, "application/json", JSON.writeValueAsString(arrived()));
    }

    /** What people have on their telephones. */
    List<Map<String, Object>> arrived() {
        return sent.stream()
                .filter(s ->
                        s.state().get().equals("delivered") || s.state().get().equals("silent"))
                .map(s -> Map.<String, Object>of(
                        "to", s.to(), "kind", s.kind(), "text", s.text(), "gateway", s.gateway(), "at", s.at()))
                .toList();
    }

    /** {@code POST /gateways/NAME/messages} and {@code GET /gateways/NAME/messages/REFERENCE}. */
    void gateway(HttpExchange exchange) throws IOException {
        var parts = exchange.getRequestURI().getPath().split("/");
        var name = parts.length > 2 ? parts[2] : "";
        var behaviour = behaviours.getOrDefault(name, USUAL);
        if (behaviour.kind().equals("down")) {
            exchange.close();
            return;
        }
        var body = exchange.getRequestBody().readNBytes(64 * 1024);
        if (!signed(exchange, body)) {
            problem(exchange, 401, "The signature is wrong.");
        } else if (exchange.getRequestMethod().equals("GET")) {
            var found = sent.stream()
                    .filter(s -> parts.length > 4 && s.reference().equals(parts[4]))
                    .findFirst();
            if (found.isEmpty()) {
                problem(exchange, 404, "There is no such message.");
            } else {
                var state = found.get().state().get();
                Standins.answer(
                        exchange,
                        200,
                        "application/json",
                        JSON.writeValueAsString(state(found.get(), state.equals("silent") ? "delivered" : state)));
            }
        } else if (behaviour.kind().equals("refuse")) {
            problem(exchange, 422, "This number can't be reached by us.");
        } else {
            take(exchange, name, behaviour, JSON.readTree(body));
        }
    }

    private void take(HttpExchange exchange, String name, Behaviour behaviour, JsonNode message) throws IOException {
        var known = sent.stream()
                .filter(s -> s.gateway().equals(name)
                        && s.id().equals(message.path("id").asString()))
                .findFirst();
        var one = known.orElseGet(() -> new Sent(
                name,
                UUID.randomUUID().toString(),
                message.path("id").asString(),
                message.path("kind").asString(),
                message.path("to").asString(),
                message.path("extension").asString(null),
                message.path("text").asString(),
                message.path("language").asString(""),
                System.currentTimeMillis(),
                new AtomicReference<>("sent")));
        if (known.isEmpty()) {
            sent.add(one);
            later.schedule(() -> becomes(one, behaviour), behaviour.seconds(), TimeUnit.SECONDS);
        }
        Standins.answer(
                exchange, 202, "application/json", JSON.writeValueAsString(Map.of("reference", one.reference())));
    }

    private void becomes(Sent one, Behaviour behaviour) {
        one.state()
                .set(
                        switch (behaviour.kind()) {
                            case "lose" -> "undelivered";
                            // It comes, but the service has to ask for that.
                            case "silent" -> "silent";
                            default -> "delivered";
                        });
        if (callbacks == null || behaviour.kind().equals("silent")) {
            return;
        }
        try {
            var at = callbacks.resolve("/api/v1/gateways/" + one.gateway() + "/states");
            var body = JSON.writeValueAsBytes(state(one, one.state().get()));
            var digest = "sha-256=:"
                    + Base64.getEncoder()
                            .encodeToString(MessageDigest.getInstance("SHA-256").digest(body))
                    + ":";
            var parameters = "(\"@method\" \"@target-uri\" \"content-digest\");created="
                    + System.currentTimeMillis() / 1000 + ";keyid=\"entente\";alg=\"hmac-sha256\"";
            var base = "\"@method\": POST\n\"@target-uri\": " + at + "\n\"content-digest\": " + digest
                    + "\n\"@signature-params\": " + parameters;
            http.sendAsync(
                    HttpRequest.newBuilder(at)
                            .header("Content-Type", "application/json")
                            .header("Content-Digest", digest)
                            .header("Signature-Input", "sig1=" + parameters)
                            .header("Signature", "sig1=:" + Base64.getEncoder().encodeToString(mac(base)) + ":")
                            .POST(HttpRequest.BodyPublishers.ofByteArray(body))
                            .build(),
                    HttpResponse.BodyHandlers.discarding());
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    private static Map<String, Object> state(Sent one, String state) {
        return state.equals("undelivered")
                ? Map.of("reference", one.reference(), "state", state, "reason", "The telephone was switched off.")
                : Map.of("reference", one.reference(), "state", state);
    }

    /** RFC 9421: takes what was signed from the call itself, in the order that its input names. */
    private boolean signed(HttpExchange exchange, byte[] body) {
        var input = exchange.getRequestHeaders().getFirst("Signature-Input");
        var signature = exchange.getRequestHeaders().getFirst("Signature");
        if (input == null || signature == null || !input.startsWith("sig1=") || !signature.startsWith("sig1=:")) {
            return false;
        }
        var parameters = input.substring(5);
        var base = new StringBuilder();
        var component = COMPONENT.matcher(parameters.substring(0, parameters.indexOf(')')));
        try {
            while (component.find()) {
                var name = component.group(1);
                var value = switch (name) {
                    case "@method" -> exchange.getRequestMethod();
                    case "@target-uri" -> own + exchange.getRequestURI();
                    default -> exchange.getRequestHeaders().getFirst(name);
                };
                base.append('"').append(name).append("\": ").append(value).append('\n');
            }
            base.append("\"@signature-params\": ").append(parameters);
            var digest = "sha-256=:"
                    + Base64.getEncoder()
                            .encodeToString(MessageDigest.getInstance("SHA-256").digest(body))
                    + ":";
            return digest.equals(exchange.getRequestHeaders().getFirst("Content-Digest"))
                    && MessageDigest.isEqual(
                            mac(base.toString()),
                            Base64.getDecoder().decode(signature.substring(6, signature.length() - 1)));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    private byte[] mac(String base) throws GeneralSecurityException {
        var mac = Mac.getInstance("HmacSHA256");
        mac.init(new SecretKeySpec(secret, "HmacSHA256"));
        return mac.doFinal(base.getBytes(StandardCharsets.US_ASCII));
    }

    private static void problem(HttpExchange exchange, int status, String detail) throws IOException {
        Standins.answer(
                exchange,
                status,
                "application/problem+json",
                JSON.writeValueAsString(Map.of("status", status, "detail", detail)));
    }
}
