package dev.entente.cli;

import dev.entente.wire.AccessApi;
import dev.entente.wire.ConnectionTrouble;
import dev.entente.wire.Page;
import dev.entente.wire.PeopleApi;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.ConnectException;
import java.net.HttpURLConnection;
import java.net.URI;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.List;
import java.util.UUID;
import java.util.regex.Matcher;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JavaType;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Calls to the service. The plain connection of the JDK starts three times faster than its newer client. */
final class Api {
    static final JsonMapper JSON = JsonMapper.shared();
    private static final String PREFIX = "/api/v1";
    private static final int ACCEPTED = HttpURLConnection.HTTP_ACCEPTED;

    private final String server;
    private final String token;

    Api(String server, String token) {
        this.server = server.endsWith("/") ? server.substring(0, server.length() - 1) : server;
        this.token = token;
    }

    /** The service answered with an error; the message is its detail. */
    static final class Refused extends RuntimeException {
        private final int status;
        private final JsonNode problem;

        Refused(int status, String message, JsonNode problem) {
            super(message);
            this.status = status;
            this.problem = problem;
        }

        int status() {
            return status;
        }

        /** Whether the problem is of a type, by the last part of its name. */
        boolean is(String type) {
            return problem.path("type").asString("").endsWith(":" + type);
        }

        JsonNode problem() {
            return problem;
        }
    }

    /** The service could not be reached. */
    static final class Unreachable extends RuntimeException {
        Unreachable(String message, Exception cause) {
            super(message, cause);
        }
    }

    <T> T get(String path, Class<T> type) {
        return get(path, JSON.constructType(type));
    }

    <T> T get(String path, JavaType type) {
        return JSON.readValue(call("GET", path, null).text(), type);
    }

    /** The id of the one person whom a login name, an id or a part of a name means. */
    String whose(String person) {
        return get("/person?named=" + encoded(person), PeopleApi.Person.class)
                .id()
                .toString();
    }

    /** Null if the answer has no body. */
    <T> T post(String path, Object body, Class<T> type) {
        return call("POST", path, body).as(type);
    }

    void put(String path, Object body) {
        call("PUT", path, body);
    }

    /** Null if the answer has no body. */
    <T> T put(String path, Object body, Class<T> type) {
        return call("PUT", path, body).as(type);
    }

    void post(String path, Object body) {
        call("POST", path, body);
    }

    /** @return whether it is done; false if another administrator has to approve it first */
    boolean delete(String path, Object body) {
        return call("DELETE", path, body).status() != ACCEPTED;
    }

    private record Answer(int status, String text) {
        <T> T as(Class<T> type) {
            return text.isEmpty() ? null : JSON.readValue(text, type);
        }
    }

    /**
     * Parts of a path, each encoded and in the place of a {@code {}}.
     *
     * @throws IllegalArgumentException if one can't be the name of anything: empty, or with a slash, which no server lets through
     */
    static String at(String template, Object... parts) {
        var path = template;
        for (var part : parts) {
            if (String.valueOf(part).isBlank() || String.valueOf(part).matches("(?s).*[/\\\\;].*|\\.{1,2}")) {
                throw new IllegalArgumentException("there is nothing called \"" + part + "\"; check the name");
            }
            path = path.replaceFirst("\\{}", Matcher.quoteReplacement(encoded(String.valueOf(part))));
        }
        return path;
    }

    /** A value in a path or a query, by RFC 3986. */
    static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8).replace("+", "%20");
    }

    static JavaType list(Class<?> of) {
        return JSON.getTypeFactory().constructCollectionType(List.class, of);
    }

    static JavaType page(Class<?> of) {
        return JSON.getTypeFactory().constructParametricType(Page.class, of);
    }

    private Answer call(String method, String path, Object body) {
        try {
            return send(method, path, body);
        } catch (Refused refused) {
            // Before something dangerous a code is asked for again, and then the same is done.
            if (!refused.is("confirm") || System.console() == null) {
                throw refused.is("confirm")
                        ? new Refused(
                                refused.status(),
                                refused.getMessage() + " Run entente administrator confirm first.",
                                refused.problem())
                        : refused;
            }
            send(
                    "POST",
                    "/me/confirmation",
                    new AccessApi.Confirmation(AccessCommands.password("Code of your authenticator app"), null));
            return send(method, path, body);
        }
    }

    /** A call that creates something bears a key, so that it can be sent again when its answer got lost, and is done once. */
    private Answer send(String method, String path, Object body) {
        var key = method.equals("POST") ? UUID.randomUUID().toString() : null;
        try {
            return once(method, path, body, key);
        } catch (Unreachable lost) {
            if (key == null || lost.getCause() instanceof ConnectException) {
                throw lost;
            }
            return once(method, path, body, key);
        }
    }

    /** Writes an answer that is a file; one that is there is replaced, and only once all of the new one has come. */
    void download(String path, Path file) {
        try {
            var beside = Files.createTempFile(file.toAbsolutePath().getParent(), ".entente", ".part");
            try {
                try (var out = Files.newOutputStream(beside)) {
                    download(path, out);
                }
                Files.move(beside, file, StandardCopyOption.REPLACE_EXISTING);
            } finally {
                Files.deleteIfExists(beside);
            }
        } catch (IOException e) {
            throw unwritable(e);
        }
    }

    /** Writes an answer as it comes, however long it is. */
    void download(String path, OutputStream out) {
        exchange("GET", path, null, null, (status, in) -> {
            var bytes = new byte[1 << 16];
            for (var many = in.read(bytes); many >= 0; many = in.read(bytes)) {
                try {
                    out.write(bytes, 0, many);
                } catch (IOException e) {
                    throw unwritable(e);
                }
            }
            return null;
        });
    }

    private static IllegalArgumentException unwritable(IOException e) {
        return new IllegalArgumentException("the file can't be written: " + e.getMessage());
    }

    private Answer once(String method, String path, Object body, String key) {
        return exchange(
                method,
                path,
                body,
                key,
                (status, in) -> new Answer(status, new String(in.readAllBytes(), StandardCharsets.UTF_8)));
    }

    private interface Reading<T> {
        T of(int status, InputStream answer) throws IOException;
    }

    private <T> T exchange(String method, String path, Object body, String key, Reading<T> reading) {
        try {
            var connection = (HttpURLConnection)
                    URI.create(server + PREFIX + path).toURL().openConnection();
            connection.setRequestMethod(method);
            connection.setConnectTimeout(5000);
            connection.setReadTimeout(60_000);
            connection.setRequestProperty("Accept", "application/json, application/pdf");
            if (token != null) {
                connection.setRequestProperty("Authorization", "Bearer " + token);
            }
            if (key != null) {
                connection.setRequestProperty("Idempotency-Key", key);
            }
            if (body != null) {
                connection.setDoOutput(true);
                connection.setRequestProperty("Content-Type", "application/json");
                // Not in streaming mode, in which the body of an answer 401 is thrown away.
                try (var out = connection.getOutputStream()) {
                    out.write(JSON.writeValueAsBytes(body));
                }
            }
            var status = connection.getResponseCode();
            // A publication that is planned is 202 as well, and imports say of each what became of it.
            if (status == ACCEPTED
                    && (!method.equals("POST") || path.startsWith("/outlets/") || path.equals("/directories"))) {
                System.err.println(
                        "This isn't in force yet. Another administrator has to approve it with entente approval approve.");
            }
            if (status / 100 == 2) {
                try (var in = connection.getInputStream()) {
                    return reading.of(status, in);
                }
            }
            throw refused(status, connection.getErrorStream());
        } catch (IOException e) {
            throw new Unreachable(
                    ConnectionTrouble.sentence(
                            e, server, "add it to the Java runtime's trust with ENTENTE_JAVA_OPTIONS"),
                    e);
        }
    }

    private static String unexplained(int status) {
        return "the answer didn't come from the service (HTTP status " + status
                + " without an explanation); check --server, and any proxy in between";
    }

    private static Refused refused(int status, InputStream body) throws IOException {
        var text = body == null ? "" : new String(body.readAllBytes(), StandardCharsets.UTF_8);
        try {
            var problem = JSON.readTree(text);
            var detail = problem.path("detail").asString("");
            return new Refused(status, detail.isEmpty() ? unexplained(status) : detail, problem);
        } catch (JacksonException e) {
            return new Refused(status, unexplained(status), JSON.createObjectNode());
        }
    }
}
