package dev.entente.bench;

import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
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
import java.util.regex.Pattern;
import tools.jackson.databind.json.JsonMapper;

/**
 * How long the first read of each directory took, beside {@code ldapsearch} for the same entries and attributes on the same servers;
 * and how long a question about everybody takes the first time and after one change.
 */
public final class SyncBench {
    private static final Pattern HEAP = Pattern.compile("(\\d+)M->");
    private static final Pattern HEAP_NOW = Pattern.compile("(?:generation|heap)\\s+total \\d+K, used (\\d+)K");
    private static final String DECK = "cn=Deck,ou=groups,dc=fleet,dc=skerry,dc=test";

    private final Surroundings at;
    private final Connection database;

    private SyncBench(Surroundings at) throws IOException, SQLException {
        this.at = at;
        this.database = at.database();
    }

    /** What ldapsearch is asked. */
    private record Search(String base, String filter, String attributes) {}

    private static final List<Search> FLEET = List.of(new Search(
            "dc=fleet,dc=skerry,dc=test",
            "(|(objectClass=person)(objectClass=groupOfNames)(objectClass=organizationalUnit))",
            "objectClass entryUUID uid cn displayName mail manager departmentNumber member uniqueMember"
                    + " pwdAccountLockedTime pwdChangedTime pwdReset pwdPolicySubentry authTimestamp employeeNumber"));
    private static final List<Search> SHORE = List.of(
            new Search(
                    "OU=People,DC=skerry,DC=test",
                    "(&(objectCategory=person)(objectClass=user))",
                    "objectGUID sAMAccountName userPrincipalName displayName cn mail department manager"
                            + " userAccountControl lockoutTime accountExpires pwdLastSet lastLogonTimestamp"
                            + " msDS-UserPasswordExpiryTimeComputed msDS-ResultantPSO employeeID"),
            new Search("DC=skerry,DC=test", "(objectClass=group)", "sAMAccountName member"),
            new Search("DC=skerry,DC=test", "(objectClass=organizationalUnit)", "1.1"));

    /** Arguments: those of {@link Surroundings}. Both directories have been read once. */
    public static void main(String[] arguments) throws Exception {
        new SyncBench(Surroundings.of(arguments)).run();
        System.exit(0);
    }

    private void run() throws Exception {
        var slapd = measure("fleet", "cn=svc-entente,ou=services,dc=fleet,dc=skerry,dc=test", FLEET);
        var ad = measure("shore", "CN=svc-entente,OU=Service Accounts,DC=skerry,DC=test", SHORE);
        // A question about everybody: the first lays all of them out, later ones only what changed.
        var first = asked();
        var before = number("SELECT extract(epoch FROM changed_at) FROM directory WHERE name = 'fleet'");
        try (var root = at.connect("fleet")) {
            root.bind("cn=admin,dc=fleet,dc=skerry,dc=test", "Root-Of-The-Fleet-1");
            var member = root.getEntry(DECK, "member").getAttributeValues("member")[0];
            root.modify(DECK, new Modification(ModificationType.DELETE, "member", member));
            while (number("SELECT extract(epoch FROM changed_at) FROM directory WHERE name = 'fleet'") == before) {
                Thread.sleep(50);
            }
            System.out.printf(
                    "everybody laid out: the first time in %.2f s, after one member less in %.2f s%n", first, asked());
            root.modify(DECK, new Modification(ModificationType.ADD, "member", member));
        }
        System.out.printf("sync slapd=%.2f active-directory=%.2f peak-heap-mb=%d%n", slapd, ad, heap());
    }

    /** How many times as long as ldapsearch the first read took. */
    private double measure(String directory, String bind, List<Search> searches) throws Exception {
        var ours = number("SELECT extract(epoch FROM ended_at - started_at) FROM job j JOIN directory d"
                + " ON d.id = j.directory WHERE d.name = '" + directory
                + "' AND j.kind = 'sync' AND j.state = 'done' ORDER BY j.created_at LIMIT 1");
        var begun = System.nanoTime();
        for (var search : searches) {
            ldapsearch(directory, bind, search);
        }
        var bare = (System.nanoTime() - begun) / 1e9;
        System.out.printf(
                "%s: %.0f accounts in %.2f s, ldapsearch %.2f s%n",
                directory,
                number("SELECT count(*) FROM account a JOIN directory d ON d.id = a.directory WHERE d.name = '"
                        + directory + "' AND a.gone_at IS NULL"),
                ours,
                bare);
        return ours / bare;
    }

    private void ldapsearch(String directory, String bind, Search search) throws IOException, InterruptedException {
        var command = new ArrayList<>(List.of("ldapsearch", "-H", "ldaps://" + at.server(directory), "-D", bind));
        command.addAll(List.of("-w", "Svc-Quiet-Water-7", "-x", "-LLL", "-E", "pr=500/noprompt"));
        command.addAll(List.of("-b", search.base(), search.filter()));
        command.addAll(List.of(search.attributes().split(" ")));
        var builder = new ProcessBuilder(command)
                .redirectOutput(at.work().resolve("bare.ldif").toFile())
                .redirectError(at.work().resolve("bare.log").toFile());
        builder.environment()
                .put("LDAPTLS_CACERT", at.lab().resolve("pki/ca.crt").toString());
        if (builder.start().waitFor() != 0) {
            throw new IllegalStateException(
                    "ldapsearch: " + Files.readString(at.work().resolve("bare.log")));
        }
    }

    /** How long the list of scopes takes, which counts everybody in each, in seconds. */
    private double asked() throws IOException, InterruptedException {
        var token = JsonMapper.shared()
                .readTree(Files.readString(Path.of(System.getenv("ENTENTE_HOME"), "profiles/default.json")))
                .path("token")
                .asString();
        var begun = System.nanoTime();
        var answer = HttpClient.newHttpClient()
                .send(
                        HttpRequest.newBuilder(URI.create(at.url() + "/api/v1/scopes"))
                                .header("Authorization", "Bearer " + token)
                                .build(),
                        HttpResponse.BodyHandlers.ofString());
        if (answer.statusCode() != 200) {
            throw new IllegalStateException("scopes " + answer.statusCode() + " " + answer.body());
        }
        return (System.nanoTime() - begun) / 1e9;
    }

    private double number(String sql) throws SQLException {
        try (var statement = database.createStatement();
                var rows = statement.executeQuery(sql)) {
            rows.next();
            return rows.getDouble(1);
        }
    }

    /** The most that a steward's heap held before it was collected, or holds now, MB. */
    private int heap() throws IOException, InterruptedException {
        var most = 0;
        try (var logs = Files.newDirectoryStream(at.work().resolve("logs"), "steward-*.gc")) {
            for (var log : logs) {
                var found = HEAP.matcher(Files.readString(log));
                while (found.find()) {
                    most = Math.max(most, Integer.parseInt(found.group(1)));
                }
            }
        }
        // A steward that has only just started may not have collected anything yet.
        for (var steward : at.processes().subList(1, at.processes().size())) {
            most = Math.max(most, heapNow(steward));
        }
        return most;
    }

    private static int heapNow(long process) throws IOException, InterruptedException {
        var told = new ProcessBuilder("jcmd", String.valueOf(process), "GC.heap_info")
                .redirectErrorStream(true)
                .start();
        var text = new String(told.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        if (told.waitFor() != 0) {
            throw new IllegalStateException("jcmd: " + text);
        }
        return (int) (HEAP_NOW.matcher(text)
                        .results()
                        .mapToLong(found -> Long.parseLong(found.group(1)))
                        .sum()
                / 1024);
    }
}
