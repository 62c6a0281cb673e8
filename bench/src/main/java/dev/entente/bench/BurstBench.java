package dev.entente.bench;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.IntStream;
import tools.jackson.databind.json.JsonMapper;

/**
 * Ten thousand people are told something at once, at the pace that mail is given for news; meanwhile others ask for codes. Prints how long
 * codes took alone and during the burst, how many messages went in the minute that had most, and whether any was lost or came twice.
 */
public final class BurstBench {
    private static final int A_MINUTE = 1_500;
    private static final int ALONE = 40;

    private final Surroundings at;
    private final Mailbox mailbox;
    private final Connection database;

    private BurstBench(Surroundings at) throws IOException, SQLException {
        this.at = at;
        this.mailbox = new Mailbox(at.box());
        this.database = at.database();
    }

    /** Arguments: those of {@link Surroundings}. */
    public static void main(String[] arguments) throws Exception {
        new BurstBench(Surroundings.of(arguments)).run();
        System.exit(0);
    }

    private void run() throws Exception {
        var bulk = number(
                "SELECT count(*) FROM account WHERE mail IS NOT NULL AND gone_at IS NULL AND department = 'Bulk'");
        var groups = IntStream.range(0, (int) ((bulk + 999) / 1000))
                .mapToObj(group -> "CN=Bulk " + group + ",OU=groups,DC=fleet,DC=skerry,DC=test")
                .toList();
        BenchPolicy.publish(at.work(), "shore, fleet", "reset, expiry", "{ methods: 1, any-of: [email-code] }", groups);
        pace();
        var people = List.copyOf(at.people().entrySet());
        var alone = new ArrayList<Double>();
        for (var i = 0; i < ALONE; i++) {
            var one = people.get(i % people.size());
            alone.add(code(one.getKey(), one.getValue()));
        }
        System.out.printf("%,d people's passwords end in ten days …%n", bulk);
        change("UPDATE account SET password_ends_at = now() + interval '10 days' WHERE department = 'Bulk'");
        var begun = System.nanoTime();
        var during = new ArrayList<Double>();
        var next = ALONE;
        while (number("SELECT count(*) FROM notification WHERE kind = 'password-ends' AND state = 'sent'") < bulk) {
            var one = people.get(next++ % people.size());
            during.add(code(one.getKey(), one.getValue()));
            if (System.nanoTime() - begun > 1_200e9) {
                break;
            }
        }
        var seconds = (System.nanoTime() - begun) / 1e9;
        var most = number("SELECT max(n) FROM (SELECT count(*) AS n FROM notification WHERE kind = 'password-ends'"
                + " GROUP BY floor(extract(epoch FROM ended_at) / 60)) m");
        // Of one in twenty, what is in the mailbox itself.
        var told = IntStream.iterate(0, i -> i < bulk, i -> i + 20)
                .map(i -> mailbox.to("bulk" + i + "@mail.skerry.test").size())
                .toArray();
        System.out.printf("all sent after %.0f s; %d codes were asked for meanwhile%n", seconds, during.size());
        System.out.printf(
                "burst news=%d most-a-minute=%d of=%d code-alone-p95-ms=%.0f code-in-burst-p95-ms=%.0f lost=%d doubled=%d%n",
                bulk,
                most,
                A_MINUTE,
                p95(alone),
                p95(during),
                IntStream.of(told).filter(n -> n == 0).count(),
                IntStream.of(told).filter(n -> n > 1).count());
    }

    /** Milliseconds from asking for a code until it is in the mailbox. */
    private double code(String login, String address) throws Exception {
        var recovery = new Recovery(at.url(), login, address);
        return recovery.askFor(mailbox) / 1e6;
    }

    private static double p95(List<Double> took) {
        var sorted = took.stream().sorted().toList();
        return sorted.isEmpty() ? Double.NaN : sorted.get(sorted.size() * 95 / 100);
    }

    private void pace() throws IOException, InterruptedException {
        var json = JsonMapper.shared();
        var token = json.readTree(Files.readString(Path.of(System.getenv("ENTENTE_HOME"), "profiles/default.json")))
                .path("token")
                .asString();
        var now = json.readTree(call(token, "GET", null));
        var set = json.createObjectNode()
                .put("host", now.path("host").asString())
                .put("port", now.path("port").asInt())
                .put("security", now.path("security").asString())
                .put("sender", now.path("sender").asString())
                .put("newsPerMinute", A_MINUTE);
        call(token, "PUT", json.writeValueAsString(set));
    }

    private String call(String token, String method, String body) throws IOException, InterruptedException {
        var request = HttpRequest.newBuilder(URI.create(at.url() + "/api/v1/channels/mail"))
                .header("Authorization", "Bearer " + token)
                .header("Content-Type", "application/json")
                .method(
                        method,
                        body == null
                                ? HttpRequest.BodyPublishers.noBody()
                                : HttpRequest.BodyPublishers.ofString(body, StandardCharsets.UTF_8))
                .build();
        var answer = HttpClient.newHttpClient().send(request, HttpResponse.BodyHandlers.ofString());
        if (answer.statusCode() != 200) {
            throw new IllegalStateException(answer.body());
        }
        return answer.body();
    }

    private long number(String sql) throws SQLException {
        try (var statement = database.createStatement();
                var rows = statement.executeQuery(sql)) {
            rows.next();
            return rows.getLong(1);
        }
    }

    private void change(String sql) throws SQLException {
        try (var statement = database.createStatement()) {
            statement.executeUpdate(sql);
        }
    }
}
