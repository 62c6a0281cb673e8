package dev.entente.steward.scim;

import dev.entente.core.attempt.Cause;
import dev.entente.steward.link.TrustedHttp;
import dev.entente.steward.settings.StewardFile.Guard;
import dev.entente.steward.settings.TargetPart;
import dev.entente.steward.target.Target;
import dev.entente.wire.DirectoryApi.Finding;
import dev.entente.wire.StewardApi;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Stream;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * A SCIM 2.0 service: people are read by {@code GET /Users} (RFC 7644 section 3.4.2.4), a password is set by {@code PATCH} of
 * the attribute {@code password} (section 3.5.2) that holds only while the resource has its version (section 3.14). It cannot
 * judge a password, so what happened is told by the version alone. Ids have to be UUIDs, which most services use.
 */
public final class ScimTarget implements Target {
    private static final int TOO_MANY_REQUESTS = 429;
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final String TYPE = "application/scim+json";
    private static final int PAGE = 200;

    private final TargetPart.Scim part;
    private final HttpClient http;

    /** @throws IOException if the CA certificates cannot be read */
    public ScimTarget(TargetPart.Scim part) throws IOException {
        this.part = part;
        this.http = TrustedHttp.client(part.ca());
    }

    private HttpResponse<String> call(
            String server, String method, String path, Map<String, String> headers, String body) throws Lost {
        try {
            var request = HttpRequest.newBuilder(URI.create(server.replaceAll("/$", "") + path))
                    .timeout(part.timeout())
                    .header(
                            "Authorization",
                            "Bearer " + Files.readString(part.tokenFile()).strip())
                    .header("Accept", TYPE)
                    .method(
                            method,
                            body == null
                                    ? HttpRequest.BodyPublishers.noBody()
                                    : HttpRequest.BodyPublishers.ofString(body));
            headers.forEach(request::header);
            if (body != null) {
                request.header("Content-Type", TYPE);
            }
            return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
        } catch (IOException e) {
            throw new Lost(e.getClass().getSimpleName());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Lost("interrupted");
        }
    }

    private static JsonNode json(HttpResponse<String> answer) throws Refused {
        try {
            return JSON.readTree(answer.body());
        } catch (JacksonException e) {
            throw new Refused(Cause.DIRECTORY_ERROR, answer.statusCode() + " without JSON");
        }
    }

    /** RFC 7644 section 3.12. Whoever cannot answer now has not said no. */
    private static Refused refused(HttpResponse<String> answer) throws Lost {
        if (answer.statusCode() >= 500 || answer.statusCode() == TOO_MANY_REQUESTS) {
            throw new Lost("status " + answer.statusCode());
        }
        var type = "";
        try {
            type = JSON.readTree(answer.body()).path("scimType").asString("");
        } catch (JacksonException e) {
            // The status alone has to do.
        }
        var cause = switch (answer.statusCode()) {
            case 401, 403 -> Cause.NO_RIGHT;
            case 404 -> Cause.NO_ENTRY;
            case 400 -> type.equals("invalidValue") ? Cause.DIRECTORY_RULES : Cause.DIRECTORY_ERROR;
            default -> Cause.DIRECTORY_ERROR;
        };
        return new Refused(cause, answer.statusCode() + (type.isEmpty() ? "" : " " + type));
    }

    @Override
    public Visit visit() throws Lost {
        Lost last = new Lost("no server is configured");
        for (var server : part.servers()) {
            try {
                call(server, "GET", "/ServiceProviderConfig", Map.of(), null);
                return new ScimVisit(server);
            } catch (Lost e) {
                last = e;
            }
        }
        throw last;
    }

    @Override
    public Visit visit(String server) throws Lost {
        if (!part.servers().contains(server)) {
            throw new Lost("this server is not in the steward's file");
        }
        return new ScimVisit(server);
    }

    /** Everybody, page by page; SCIM tells no changes, so the full comparison has to do. */
    @Override
    public String read(Reading reading, Sink sink) throws Refused, Lost {
        var server = part.servers().get(0);
        for (var start = 1; ; start += PAGE) {
            var answer = call(server, "GET", "/Users?startIndex=" + start + "&count=" + PAGE, Map.of(), null);
            if (answer.statusCode() != 200) {
                throw refused(answer);
            }
            var page = json(answer);
            var people = new ArrayList<StewardApi.Person>();
            for (var user : page.path("Resources")) {
                uuid(user.path("id").asString("")).ifPresent(id -> people.add(person(id, user, reading)));
            }
            if (!people.isEmpty()) {
                sink.take(StewardApi.Batch.people(people));
            }
            if (start + PAGE > page.path("totalResults").asInt(0)) {
                return null;
            }
        }
    }

    private static Optional<UUID> uuid(String id) {
        try {
            return Optional.of(UUID.fromString(id));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    private static StewardApi.Person person(UUID id, JsonNode user, Reading reading) {
        String mail = null;
        var mails = new ArrayList<String>();
        for (var one : user.path("emails")) {
            var address = one.path("value").asString(null);
            if (address == null) {
                continue;
            }
            mails.add(address);
            if (mail == null || one.path("primary").asBoolean(false)) {
                mail = address;
            }
        }
        mails.remove(mail);
        // Of several numbers the one of a mobile telephone (RFC 7643 section 4.1.2).
        String phone = null;
        for (var one : user.path("phoneNumbers")) {
            if (one.path("type").asString("").equals("mobile")) {
                phone = one.path("value").asString(null);
            }
        }
        var login = user.path("userName").asString("");
        var attributes = new LinkedHashMap<String, List<String>>();
        for (var name : reading.attributes()) {
            var value = attribute(user, name);
            if (value != null) {
                attributes.put(name, List.of(value));
            }
        }
        return new StewardApi.Person(
                id,
                login,
                login,
                List.of(),
                user.path("displayName").asString(login),
                attribute(user, reading.correlation()),
                attribute(user, "department"),
                mail,
                mails,
                phone,
                null,
                !user.path("active").asBoolean(true),
                false,
                null,
                false,
                null,
                null,
                null,
                null,
                attributes);
    }

    /** An attribute of the core schema or of the enterprise extension (RFC 7643 section 4.3). */
    private static String attribute(JsonNode user, String name) {
        var own = user.path(name);
        var found = own.isMissingNode()
                ? user.path("urn:ietf:params:scim:schemas:extension:enterprise:2.0:User")
                        .path(name)
                : own;
        return found.isMissingNode() || found.isNull() ? null : found.asString(null);
    }

    @Override
    public List<String> unresolved(Guard guard) {
        // Groups and accounts are plain names here, and whoever is not told of counts as protected.
        return guard.bases().stream()
                .filter(base -> !base.equals("*"))
                .map(base -> "guard.bases: only \"*\" is possible where there are no distinguished names, not \"" + base
                        + "\".")
                .toList();
    }

    @Override
    public List<Finding> examine(boolean mailNeeded) {
        var findings = new ArrayList<Finding>();
        for (var server : part.servers()) {
            try {
                var answer = call(server, "GET", "/ServiceProviderConfig", Map.of(), null);
                if (answer.statusCode() != 200) {
                    findings.add(new Finding(
                            "error",
                            "bind",
                            "The service doesn't accept the token, or it isn't a SCIM service.",
                            server + ": status " + answer.statusCode(),
                            "Check directory.servers and directory.token-file in the steward's file."));
                    continue;
                }
                var config = json(answer);
                findings.add(new Finding("ok", "bind", "The service answers and takes the token.", server, ""));
                offered(findings, config, "patch", "error", "The service does not offer PATCH, so nothing can be set.");
                offered(
                        findings,
                        config,
                        "etag",
                        "warning",
                        "The service has no versions, so after an interruption the outcome can't be determined and is reported as unknown.");
            } catch (Lost | Refused e) {
                findings.add(new Finding(
                        "error",
                        "reachable",
                        "The service can't be reached, or its certificate isn't trusted.",
                        server + ": " + e.getMessage(),
                        "Check the address, the firewall, and directory.ca in the steward's file."));
            }
        }
        findings.add(new Finding(
                "info",
                "no-judging",
                "SCIM can't check a password, unlock an account, or change a password with the old one.",
                "RFC 7644",
                "Have policies deliver only resets to it."));
        return findings;
    }

    private static void offered(
            List<Finding> findings, JsonNode config, String name, String severity, String otherwise) {
        if (!config.path(name).path("supported").asBoolean(false)) {
            findings.add(new Finding(
                    severity, "no-" + name, otherwise, name + ".supported is not true", "Ask its maker to add it."));
        }
    }

    @Override
    public String current() {
        return part.servers().get(0);
    }

    @Override
    public Optional<Instant> certificateEnds() {
        return Optional.empty();
    }

    @Override
    public void close() {
        // Connections are the client's and end with it.
    }

    private final class ScimVisit implements Visit {
        private final String server;

        ScimVisit(String server) {
            this.server = server;
        }

        @Override
        public String server() {
            return server;
        }

        @Override
        public Optional<Entry> find(UUID id) throws Refused, Lost {
            var answer = call(server, "GET", "/Users/" + id, Map.of(), null);
            if (answer.statusCode() == 404) {
                return Optional.empty();
            }
            if (answer.statusCode() != 200) {
                throw refused(answer);
            }
            var user = json(answer);
            var login = user.path("userName").asString("");
            var version = user.path("meta").path("version").asString("");
            return Optional.of(new Entry(
                    id,
                    login,
                    login,
                    Stream.of(login, user.path("displayName").asString(null))
                            .filter(Objects::nonNull)
                            .toList(),
                    version.isEmpty() ? user.path("meta").path("lastModified").asString("none") : version,
                    false,
                    0,
                    time(user.path("meta").path("lastModified").asString(null)),
                    false));
        }

        private static Instant time(String text) {
            try {
                return text == null ? null : Instant.parse(text);
            } catch (DateTimeParseException e) {
                return null;
            }
        }

        /** Groups a user is in, at any depth: servers list them on the user (RFC 7643 section 4.1.2). */
        @Override
        public boolean memberOf(Entry entry, List<String> groups) throws Refused, Lost {
            if (groups.isEmpty()) {
                return false;
            }
            var answer = call(server, "GET", "/Users/" + entry.id() + "?attributes=groups", Map.of(), null);
            if (answer.statusCode() != 200) {
                throw refused(answer);
            }
            if (!json(answer).path("groups").isArray()) {
                throw new Refused(Cause.DIRECTORY_ERROR, "the server does not say which groups the account is in");
            }
            var wanted = groups.stream().map(g -> g.toLowerCase(Locale.ROOT)).toList();
            for (var group : json(answer).path("groups")) {
                if (wanted.contains(group.path("value").asString("").toLowerCase(Locale.ROOT))
                        || wanted.contains(group.path("display").asString("").toLowerCase(Locale.ROOT))) {
                    return true;
                }
            }
            return false;
        }

        @Override
        public void reset(Entry entry, String password, boolean clearLockout, boolean mustChange) throws Refused, Lost {
            var body = JSON.writeValueAsString(Map.of(
                    "schemas",
                    List.of("urn:ietf:params:scim:api:messages:2.0:PatchOp"),
                    "Operations",
                    List.of(Map.of("op", "replace", "path", "password", "value", password))));
            var headers = entry.version().startsWith("W/") || entry.version().startsWith("\"")
                    ? Map.of("If-Match", entry.version())
                    : Map.<String, String>of();
            var answer = call(server, "PATCH", "/Users/" + entry.id(), headers, body);
            if (answer.statusCode() == 412) {
                throw new Refused(Cause.DIRECTORY_ERROR, "the entry changed while it was looked at; try again");
            }
            if (answer.statusCode() / 100 != 2) {
                throw refused(answer);
            }
        }

        @Override
        public void change(Entry entry, String old, String password) throws Refused {
            throw new Refused(Cause.NOT_SWITCHED_ON, "SCIM has no change with the old password");
        }

        @Override
        public void unlock(Entry entry) throws Refused {
            throw new Refused(Cause.NOT_SWITCHED_ON, "SCIM has no unlock");
        }

        @Override
        public int triesLeft(Entry entry) {
            return 0;
        }

        @Override
        public Optional<Instant> earliestChange(Entry entry) {
            return Optional.empty();
        }

        @Override
        public Judged judge(Entry entry, String password) {
            return new Judged(Proof.SAYS_NOTHING, "none");
        }

        @Override
        public boolean judges() {
            return false;
        }

        @Override
        public void close() {
            // Nothing is held.
        }
    }
}
