package dev.entente.bench;

import dev.entente.core.audit.AuditEvent;
import dev.entente.core.audit.EventCatalogue;
import java.io.IOException;
import java.io.StringReader;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Supplier;
import org.postgresql.PGConnection;
import tools.jackson.databind.json.JsonMapper;

/**
 * A record of years in PostgreSQL: how fast events are written beside bare rows, how soon the first page of each filter is there, and how
 * fast all of it is exported and verified beside {@code sha256sum} of the same file.
 *
 * <p>The events are those of recoveries, of 50,000 people over two years, in the order of time; they are written past the service in bulk
 * and sealed by it.
 */
final class AuditBench {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final int PEOPLE = 50_000;
    private static final int MET = 1_000;
    private static final int NETWORKS = 5_000;
    private static final int AT_ONCE = 5_000;
    private static final int CALLS = 40;
    private static final Duration YEARS = Duration.ofDays(700);
    private static final List<String> DIRECTORIES = List.of("shore", "fleet", "harbour", "office", "school");
    private static final List<String> METHODS = List.of("email-code", "app-code", "passkey", "sms-code");

    private final URI api;
    private final Path lab;
    private final Path work;
    private final Random random = new Random(17);
    private final HttpClient http = HttpClient.newHttpClient();
    private final String token;
    private final Instant begins = Instant.now().minus(YEARS).truncatedTo(ChronoUnit.MILLIS);
    private long all;
    /** People who are on record; the service refuses to search for others. */
    private final List<String> met = new ArrayList<>();

    private AuditBench(String url, Path lab, Path work) throws IOException {
        this.api = URI.create(url + "/api/v1/");
        this.lab = lab;
        this.work = work;
        this.token = JSON.readTree(Files.readString(Path.of(System.getenv("ENTENTE_HOME"), "profiles/default.json")))
                .path("token")
                .asString();
    }

    public static void main(String[] arguments) throws Exception {
        new AuditBench(arguments[0], Path.of(arguments[1]), Path.of(arguments[2])).run(Long.parseLong(arguments[3]));
        System.exit(0);
    }

    private void run(long wanted) throws Exception {
        var rates = Files.readString(work.resolve("insert-rates")).strip().split(" ");
        var ours = Double.parseDouble(rates[0]);
        var bare = Double.parseDouble(rates[1]);
        System.out.printf("written: %.0f events a second as the service does, %.0f bare rows%n", ours, bare);
        var small = wanted / 10;
        // Beside what was written to measure that.
        var there = there();
        all = there + wanted;
        fill(there + small);
        var before = pages(small);
        fill(there + wanted);
        var after = pages(wanted);
        var worst = 0.0;
        for (var filter : after.keySet()) {
            System.out.printf(
                    "first page, p95 of %d: %7.1f ms with %,d events, %7.1f ms with %,d  %s%n",
                    CALLS, before.get(filter), small, after.get(filter), wanted, filter);
            worst = Math.max(worst, after.get(filter));
        }
        var file = work.resolve("record.jsonl");
        var exporting = System.nanoTime();
        command("entente", "event", "export", file.toString());
        var exported = seconds(exporting);
        var summing = System.nanoTime();
        command("sha256sum", file.toString());
        var summed = seconds(summing);
        var verifying = System.nanoTime();
        command("entente", "event", "verify", file.toString());
        var verified = seconds(verifying);
        System.out.printf(
                "exported %,d bytes in %.1f s; sha256sum %.1f s, verified %.1f s%n",
                Files.size(file), exported, summed, verified);
        System.out.printf(
                "audit insert-over-jdbc=%.2f first-page-p95-ms=%.1f verify-over-sha256sum=%.3f export-rows-s=%.0f%n",
                ours / bare, worst, summed / verified, there() / exported);
    }

    private static double seconds(long since) {
        return (System.nanoTime() - since) / 1e9;
    }

    private void command(String... command) throws IOException, InterruptedException {
        var process = new ProcessBuilder(command)
                .redirectOutput(work.resolve("logs/" + command[0] + ".out").toFile())
                .redirectErrorStream(true)
                .start();
        var code = process.waitFor();
        // What holds by a key that was compared with none holds.
        if (code != 0 && code != 5) {
            throw new IllegalStateException(
                    String.join(" ", command) + ": " + Files.readString(work.resolve("logs/" + command[0] + ".out")));
        }
    }

    // --- the record
    // ---------------------------------------------------------------------------------------------------

    private Connection database(String role) throws Exception {
        return DriverManager.getConnection(
                "jdbc:postgresql://127.0.0.1:" + System.getenv("LAB_PG_PORT") + "/entente",
                role.equals("postgres") ? role : "entente_" + role,
                Files.readString(lab.resolve("postgres/" + role + ".password")).strip());
    }

    private long there() throws Exception {
        try (var owner = database("postgres")) {
            return number(owner, "SELECT count(*) FROM event");
        }
    }

    private static long number(Connection database, String sql) throws Exception {
        try (var statement = database.createStatement();
                var row = statement.executeQuery(sql)) {
            row.next();
            return row.getLong(1);
        }
    }

    /** Until there are so many, and all are sealed. */
    private void fill(long wanted) throws Exception {
        var begun = System.nanoTime();
        try (var database = database("running");
                var owner = database("postgres")) {
            try (var statement = owner.createStatement()) {
                statement.execute("SELECT prepare_event_months('"
                        + Instant.now().minus(YEARS).atZone(ZoneOffset.UTC).toLocalDate() + "', 25)");
            }
            database.setAutoCommit(false);
            for (var many = number(owner, "SELECT count(*) FROM event"); many < wanted; ) {
                many += lot(database, begins.plusMillis((long) (YEARS.toMillis() * ((double) many / all))));
                database.commit();
            }
            System.out.printf("%,d events after %.0f s; sealing …%n", wanted, seconds(begun));
            while (number(owner, "SELECT count(*) FROM (SELECT FROM event_pending LIMIT 1) p") > 0) {
                Thread.sleep(500);
            }
            try (var statement = owner.createStatement()) {
                statement.execute("VACUUM ANALYZE event");
                statement.execute("VACUUM ANALYZE event_term");
                statement.execute("VACUUM ANALYZE event_leaf");
            }
        }
        System.out.printf("sealed after %.0f s%n", seconds(begun));
    }

    private final class Rows {
        final StringBuilder events = new StringBuilder();
        final StringBuilder personal = new StringBuilder();
        final StringBuilder terms = new StringBuilder();
        int many;

        void add(
                Instant at,
                String kind,
                UUID attempt,
                int ordinal,
                Map<String, Object> data,
                Map<String, String> names) {
            // Version 7 of RFC 9562, as the service has them.
            var id = new UUID(
                    at.toEpochMilli() << 16 | 7 << 12 | random.nextInt(1 << 12), 1L << 63 | random.nextLong() >>> 2);
            var commitments = new TreeMap<String, String>();
            names.forEach((name, value) -> {
                var salt = new byte[AuditEvent.SALT_LENGTH];
                random.nextBytes(salt);
                commitments.put(name, AuditEvent.commit(salt, name, value));
                personal.append(id)
                        .append('\t')
                        .append(name)
                        .append('\t')
                        .append(value)
                        .append("\t\\\\x");
                personal.append(HexFormat.of().formatHex(salt)).append('\n');
            });
            var event = new AuditEvent(
                    AuditEvent.VERSION,
                    id,
                    at.toEpochMilli(),
                    kind,
                    "attempt",
                    attempt,
                    null,
                    ordinal,
                    1,
                    data,
                    commitments);
            events.append(id)
                    .append("\tattempt\t")
                    .append(at)
                    .append('\t')
                    .append(kind)
                    .append('\t')
                    .append(attempt);
            events.append('\t')
                    .append(ordinal)
                    .append("\t1\t")
                    .append(JSON.writeValueAsString(data))
                    .append('\t');
            events.append(JSON.writeValueAsString(commitments)).append("\t2\t\\\\x");
            events.append(HexFormat.of().formatHex(event.leafHash())).append('\n');
            EventCatalogue.toWrite(kind)
                    .terms(data, names)
                    .forEach(term -> terms.append(term)
                            .append('\t')
                            .append(at)
                            .append('\t')
                            .append(id)
                            .append('\n'));
            many++;
        }
    }

    private int lot(Connection database, Instant from) throws Exception {
        var rows = new Rows();
        var span = YEARS.toMillis() * AT_ONCE / all;
        while (rows.many < AT_ONCE) {
            recovery(rows, from.plusMillis((long) (random.nextDouble() * span)));
        }
        var copy = database.unwrap(PGConnection.class).getCopyAPI();
        copy.copyIn(
                "COPY event (id, retention_class, occurred_at, kind, attempt, ordinal, revision, data, commitments, leaf_version, leaf_hash)"
                        + " FROM STDIN",
                new StringReader(rows.events.toString()));
        copy.copyIn(
                "COPY event_personal (event, name, value, salt) FROM STDIN",
                new StringReader(rows.personal.toString()));
        copy.copyIn("COPY event_term (term, at, event) FROM STDIN", new StringReader(rows.terms.toString()));
        return rows.many;
    }

    private void recovery(Rows rows, Instant at) {
        var attempt = new UUID(random.nextLong(), random.nextLong());
        var login = "person." + random.nextInt(PEOPLE);
        if (met.size() < MET) {
            met.add(login);
        }
        var directory = DIRECTORIES.get(
                Math.min(DIRECTORIES.size() - 1, (int) (random.nextDouble() * random.nextDouble() * 6)));
        var ordinal = 0;
        rows.add(
                at,
                "attempt.started",
                attempt,
                ++ordinal,
                Map.of("action", "reset", "policy", "crew-" + random.nextInt(12)),
                Map.of(
                        "login",
                        login,
                        "network",
                        "198.51." + random.nextInt(NETWORKS / 250) + "." + random.nextInt(250)));
        rows.add(
                at.plusMillis(4_000),
                "challenge.answered",
                attempt,
                ++ordinal,
                Map.of("method", METHODS.get(random.nextInt(METHODS.size()))),
                Map.of());
        var done = random.nextInt(40) > 0;
        var ended = new TreeMap<String, Object>(
                Map.of("directory", directory, "action", "reset", "order", attempt.toString(), "epoch", 1));
        if (!done) {
            ended.put("cause", "server-unreachable");
        }
        rows.add(
                at.plusMillis(9_000),
                done ? "order.done" : "order.failed",
                attempt,
                ++ordinal,
                ended,
                Map.of("login", login));
        rows.add(
                at.plusMillis(9_100),
                "attempt.concluded",
                attempt,
                ++ordinal,
                Map.of("state", done ? "completed" : "failed"),
                Map.of());
    }

    // --- pages
    // --------------------------------------------------------------------------------------------------------

    private Map<String, Double> pages(long many) throws Exception {
        var filters = new LinkedHashMap<String, Supplier<String>>();
        filters.put("nothing", () -> "limit=50");
        filters.put("kind, frequent", () -> "kind=order.done");
        filters.put("kind, rare", () -> "kind=order.failed");
        filters.put("part", () -> "part=delivery");
        filters.put("severity", () -> "severity=warning");
        filters.put("person", () -> "person=" + someone());
        filters.put("directory, frequent", () -> "directory=shore");
        filters.put("directory, rare", () -> "directory=school");
        filters.put("method and a span of one day", () -> "method=passkey&" + day(1));
        filters.put("network", () -> "network=198.51." + random.nextInt(NETWORKS / 250) + "." + random.nextInt(250));
        filters.put("cause", () -> "cause=server-unreachable");
        filters.put("kind, directory and a span of a month", () -> "kind=order.failed&directory=school&" + day(30));
        filters.put("kind and directory, frequent", () -> "kind=order.done&directory=shore");
        filters.put("kind and another's method: nothing has both", () -> "kind=order.done&method=passkey");
        filters.put("person and kind", () -> "kind=order.done&person=" + someone());
        filters.put("a span of one day", () -> day(1));
        filters.put("a word of many events", () -> "text=accepted");
        filters.put("words of few events", () -> "text=person+" + random.nextInt(PEOPLE));
        filters.put("how a word begins", () -> "text=server");
        filters.put("a word and a directory", () -> "text=unreach&directory=school");
        filters.put("a word that nothing has", () -> "text=holystone");
        var p95 = new LinkedHashMap<String, Double>();
        for (var filter : filters.entrySet()) {
            var took = new ArrayList<Double>();
            for (var call = 0; call < CALLS; call++) {
                var begun = System.nanoTime();
                get("events?" + filter.getValue().get());
                took.add(seconds(begun) * 1000);
            }
            took.sort(null);
            p95.put(filter.getKey(), took.get(CALLS * 95 / 100 - 1));
        }
        System.out.printf("pages read with %,d events%n", many);
        for (var counted : List.of("kind=order.failed&directory=school", "kind=order.done", "text=person")) {
            var begun = System.nanoTime();
            System.out.printf(
                    "counted %s: %s in %.0f ms%n", counted, get("events/count?" + counted), seconds(begun) * 1000);
        }
        return p95;
    }

    private String someone() {
        return met.get(random.nextInt(met.size()));
    }

    private String day(int days) {
        var since = Instant.now().minus(Duration.ofDays(days + 5L + random.nextInt(600)));
        return "since=" + encoded(since) + "&until=" + encoded(since.plus(Duration.ofDays(days)));
    }

    private static String encoded(Instant at) {
        return URLEncoder.encode(at.truncatedTo(ChronoUnit.SECONDS).toString(), StandardCharsets.UTF_8);
    }

    private String get(String path) throws IOException, InterruptedException {
        var answer = http.send(
                HttpRequest.newBuilder(api.resolve(path))
                        .header("Authorization", "Bearer " + token)
                        .build(),
                HttpResponse.BodyHandlers.ofString());
        if (answer.statusCode() != 200) {
            throw new IllegalStateException(path + ": " + answer.body());
        }
        return answer.body();
    }
}
