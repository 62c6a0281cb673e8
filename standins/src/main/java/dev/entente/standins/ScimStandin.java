package dev.entente.standins;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import tools.jackson.databind.json.JsonMapper;

/**
 * A small SCIM 2.0 service for tests (RFC 7643, RFC 7644): users by page and by id, PATCH of their password with If-Match,
 * bearer token, and a rule of its own: a password shorter than ten characters is an invalid value.
 */
public final class ScimStandin implements AutoCloseable {
    private static final JsonMapper JSON = JsonMapper.shared();

    private final HttpServer server;
    private final String token;
    private final Map<UUID, User> users = new LinkedHashMap<>();
    private volatile boolean broken;

    private static final class User {
        private final String name;
        private final String externalId;
        private int version = 1;
        private String password = "none";

        User(String name, String externalId) {
            this.name = name;
            this.externalId = externalId;
        }
    }

    /** Starts on a free port of the loopback address. */
    public ScimStandin(String token) throws IOException {
        this.token = token;
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 20);
        server.createContext("/", this::answer);
        server.start();
    }

    /** Its address. */
    public String url() {
        return "http://127.0.0.1:" + server.getAddress().getPort() + "/scim/v2";
    }

    /** Adds a user. */
    public synchronized UUID add(String name, String externalId) {
        var id = UUID.randomUUID();
        users.put(id, new User(name, externalId));
        return id;
    }

    /** The password of a user, as a test looks at it. */
    public synchronized String password(UUID id) {
        return users.get(id).password;
    }

    /** Somebody else changes a user. */
    public synchronized void touch(UUID id) {
        users.get(id).version++;
    }

    /** Answers everything with 503 from now on. */
    public void breakDown() {
        broken = true;
    }

    private synchronized void answer(HttpExchange exchange) throws IOException {
        try (exchange) {
            if (broken) {
                problem(exchange, 503, null);
            } else if (!("Bearer " + token).equals(exchange.getRequestHeaders().getFirst("Authorization"))) {
                problem(exchange, 401, null);
            } else {
                route(exchange, exchange.getRequestURI().getPath().substring("/scim/v2".length()));
            }
        }
    }

    private void route(HttpExchange exchange, String path) throws IOException {
        if (path.equals("/ServiceProviderConfig")) {
            send(exchange, 200, Map.of("patch", Map.of("supported", true), "etag", Map.of("supported", true)));
            return;
        }
        if (path.equals("/Users")) {
            list(exchange);
            return;
        }
        var user = path.startsWith("/Users/") ? users.get(UUID.fromString(path.substring(7))) : null;
        if (user == null) {
            problem(exchange, 404, null);
        } else if (exchange.getRequestMethod().equals("GET")) {
            send(exchange, 200, resource(UUID.fromString(path.substring(7)), user));
        } else {
            patch(exchange, user);
        }
    }

    private void list(HttpExchange exchange) throws IOException {
        var query = exchange.getRequestURI().getQuery();
        var start = Integer.parseInt(query.replaceAll(".*startIndex=(\\d+).*", "$1"));
        var count = Integer.parseInt(query.replaceAll(".*count=(\\d+).*", "$1"));
        var all = new ArrayList<>(users.entrySet());
        var page = all.subList(Math.min(all.size(), start - 1), Math.min(all.size(), start - 1 + count));
        send(
                exchange,
                200,
                Map.of(
                        "schemas", List.of("urn:ietf:params:scim:api:messages:2.0:ListResponse"),
                        "totalResults", all.size(),
                        "startIndex", start,
                        "itemsPerPage", page.size(),
                        "Resources",
                                page.stream()
                                        .map(e -> resource(e.getKey(), e.getValue()))
                                        .toList()));
    }

    private static Map<String, Object> resource(UUID id, User user) {
        return Map.of(
                "schemas",
                List.of("urn:ietf:params:scim:schemas:core:2.0:User"),
                "id",
                id.toString(),
                "externalId",
                user.externalId,
                "userName",
                user.name,
                "displayName",
                "Someone " + user.name,
                "active",
                true,
                "emails",
                List.of(Map.of("value", user.name + "@mail.skerry.test", "primary", true)),
                "meta",
                Map.of("resourceType", "User", "version", "W/\"" + user.version + "\""));
    }

    private void patch(HttpExchange exchange, User user) throws IOException {
        var match = exchange.getRequestHeaders().getFirst("If-Match");
        if (match != null && !match.equals("W/\"" + user.version + "\"")) {
            problem(exchange, 412, null);
            return;
        }
        var body = JSON.readTree(exchange.getRequestBody().readAllBytes());
        var operation = body.path("Operations").path(0);
        var password = operation.path("value").asString("");
        if (!operation.path("op").asString("").equals("replace")
                || !operation.path("path").asString("").equals("password")) {
            problem(exchange, 400, "invalidPath");
        } else if (password.length() < 10) {
            problem(exchange, 400, "invalidValue");
        } else {
            user.password = password;
            user.version++;
            exchange.sendResponseHeaders(204, -1);
        }
    }

    private static void problem(HttpExchange exchange, int status, String type) throws IOException {
        var body = new LinkedHashMap<String, Object>();
        body.put("schemas", List.of("urn:ietf:params:scim:api:messages:2.0:Error"));
        body.put("status", String.valueOf(status));
        if (type != null) {
            body.put("scimType", type);
        }
        send(exchange, status, body);
    }

    private static void send(HttpExchange exchange, int status, Object body) throws IOException {
        var bytes = JSON.writeValueAsString(body).getBytes(StandardCharsets.UTF_8);
        exchange.getResponseHeaders().set("Content-Type", "application/scim+json");
        exchange.sendResponseHeaders(status, bytes.length);
        exchange.getResponseBody().write(bytes);
    }

    @Override
    public void close() {
        server.stop(0);
    }
}
