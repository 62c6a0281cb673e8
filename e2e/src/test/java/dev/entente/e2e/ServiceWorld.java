package dev.entente.e2e;

import dev.entente.bench.StewardDouble;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.DirectoryApi;
import dev.entente.wire.StewardApi;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.http.HttpClient;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Executors;
import java.util.stream.Stream;
import tools.jackson.databind.JsonNode;

/**
 * The packaged service with PostgreSQL and the stand-ins, and doubles for the stewards of both directories: for everything that is
 * not about directories. Its time is the tests' own: they move the clock of the service, of its database and of the doubles.
 */
final class ServiceWorld extends Installation {
    private static final SecureRandom RANDOM = new SecureRandom();

    static final Pool<ServiceWorld> POOL = new Pool<>(2, ServiceWorld::new);

    final Map<String, StewardDouble> stewards = new ConcurrentHashMap<>();
    private final Map<String, SigningKey> operators = new ConcurrentHashMap<>();
    private final Map<String, Integer> rosters = new ConcurrentHashMap<>();
    /** Where outlets may lead. */
    final int collector = freePort();

    final int receiver = freePort();
    private final Path clock;
    private volatile Duration ahead = Duration.ZERO;

    private ServiceWorld(int number) throws Exception {
        super(ROOT.resolve(".test/service-" + number), 15500 + 10 * number);
        begin();
        clock = Files.writeString(dir.resolve("clock"), "0");
        var begun = System.nanoTime();
        lab("pg-up");
        launchService();
        startStandins();
        waitForService();
        firstAdministrator();
        connect("shore", 1);
        connect("fleet", 2);
        entente("draft", "start", "--name", "first").expect(0);
        entente("draft", "load", ROOT.resolve("demo/configuration").toString()).expect(0);
        entente("draft", "publish", "--note", "first").expect(0);
        System.out.printf(
                "service world %d: ready after %.1f s%n",
                number, Duration.ofNanos(System.nanoTime() - begun).toMillis() / 1000.0);
    }

    static ServiceWorld get() {
        return POOL.get();
    }

    /** Starts again what somebody left dead, and lets time be what it is. */
    void mend() {
        mend("standins", this::startStandins);
        mend("service", this::startService);
        stewards.values().forEach(StewardDouble::goOn);
        later(Duration.ZERO);
    }

    /** It is this much later than it really is, for the service, its database and the doubles. */
    void later(Duration by) {
        if (by.equals(ahead)) {
            return;
        }
        // What a read of a directory saw is told by when: none may begin at one time and end at another.
        waitUntil(
                Duration.ofSeconds(30),
                "no directory is being read",
                () -> query("SELECT count(*) FROM job WHERE kind = 'sync' AND state = 'running'"
                                + " AND leased_until > entente_time()")
                        .equals("0"));
        try {
            // At once and whole: the service reads it all the time.
            Files.move(
                    Files.writeString(dir.resolve("clock.next"), String.valueOf(by.toSeconds())),
                    clock,
                    StandardCopyOption.ATOMIC_MOVE);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        var was = ahead;
        ahead = by;
        for (var function : List.of(
                "entente_now() RETURNS timestamptz LANGUAGE sql STABLE|now()",
                "entente_time() RETURNS timestamptz LANGUAGE sql VOLATILE|clock_timestamp()")) {
            var parts = function.split("\\|");
            query("CREATE OR REPLACE FUNCTION " + parts[0] + " PARALLEL SAFE AS 'SELECT " + parts[1] + " + interval ''"
                    + by.toSeconds() + " s'''");
        }
        if (was.compareTo(Duration.ofHours(12)) >= 0 || by.compareTo(Duration.ofHours(12)) >= 0) {
            // No sign-in lasts as long, whichever way the clock was moved.
            ententeWith(PASSWORD, "sign-in", "--login", "ingeborg").expect(0);
        }
        // Sealing keys live shorter than what tests leap over, and one from the future is in force for nobody.
        query("DELETE FROM sealing_key");
        stewards.values().forEach(StewardDouble::offerSealingKey);
        waitUntil(
                Duration.ofSeconds(15),
                "passwords can be sealed",
                () -> query("SELECT count(*) FROM sealing_key").equals(String.valueOf(stewards.size())));
    }

    @Override
    Instant now() {
        return Instant.now().plus(ahead);
    }

    @Override
    List<String> serviceOptions() {
        return List.of(
                "-Dspring.aot.enabled=false",
                "-Dentente.clock-ahead=" + clock,
                "-Dentente.answer-deadline=50ms",
                "-Dentente.steward-missed-after=20s",
                "-Dentente.starts-per-network=100000",
                "-Dentente.codes-per-hour=100",
                "-Dentente.trusted-proxies=127.0.0.1",
                "-Dentente.bounces.mailboxes=127.0.0.1",
                "-Dentente.purge-every=1s",
                "-Dentente.outlets.receivers=127.0.0.1:" + collector + ",http://127.0.0.1:" + receiver,
                "-Dentente.outlets.folder=" + dir.resolve("logs"),
                "-Dentente.test-marker=" + MARKER);
    }

    /** With a method that lives only in the tests: a folder in core and one in the service, and nothing else. */
    @Override
    List<String> moreClasses() {
        return List.of("dev/entente/core/verify/trial", "dev/entente/service/verify/trial", "META-INF/services");
    }

    @Override
    Map<String, String> labEnvironment() {
        return Map.of("LAB_PG_PORT", String.valueOf(pgPort), "LAB_PG_OPTIONS", UNSYNCED);
    }

    private void connect(String name, int trust) throws IOException, InterruptedException {
        var api = ConsoleApi.signedIn(this);
        var operator = SigningKey.generate(RANDOM);
        var added = api.post(
                "/directories",
                ApiPerson.JSON.writeValueAsString(new DirectoryApi.NewDirectory(
                        name,
                        name.substring(0, 1).toUpperCase(Locale.ROOT) + name.substring(1),
                        "ldap",
                        List.of("ldaps://localhost:1"),
                        "dc=skerry,dc=test",
                        null,
                        "cn=svc-entente,dc=skerry,dc=test",
                        "employeeNumber",
                        List.of(),
                        List.of(),
                        List.of("CN=Directory Administrators,OU=Groups,DC=skerry,DC=test"),
                        List.of(),
                        trust,
                        operator.publicKey())));
        if (added.statusCode() != 201) {
            throw new IllegalStateException(added.body());
        }
        operators.put(name, operator);
        var steward = join(name, name + "-1");
        roster(name, steward);
        steward.offerSealingKey();
        steward.start();
        stewards.put(name, steward);
        waitUntil(Duration.ofSeconds(30), name + " is read", () -> steward.synced() > 0);
    }

    /** Another steward of a directory, on no roster yet; reads the same people. */
    StewardDouble join(String directory, String name) throws IOException, InterruptedException {
        var code = ApiPerson.JSON
                .readValue(
                        ConsoleApi.signedIn(this)
                                .post("/directories/" + directory + "/join-codes", "{\"steward\":\"" + name + "\"}")
                                .body(),
                        DirectoryApi.JoinCode.class)
                .code();
        var contents = contents(directory.equals("shore"));
        return StewardDouble.join(
                url,
                name,
                code,
                () -> contents,
                this::now,
                HttpClient.newHttpClient(),
                Executors.newSingleThreadScheduledExecutor(task -> {
                    var thread = new Thread(task, "double");
                    thread.setDaemon(true);
                    return thread;
                }));
    }

    /** Signs the next roster of a directory; those that are not on it any more are retired. */
    void roster(String directory, StewardDouble... members) {
        var version = rosters.merge(directory, 1, Integer::sum);
        var roster = new Roster(
                1,
                members[0].directory(),
                version,
                now().toEpochMilli(),
                Stream.of(members).map(StewardDouble::member).toList());
        var signed = ConsoleApi.signedIn(this)
                .put(
                        "/directories/" + directory + "/roster",
                        new DirectoryApi.SignedRoster(roster.sign(operators.get(directory))));
        if (signed.statusCode() != 204) {
            throw new IllegalStateException(signed.body());
        }
    }

    private static String dn(JsonNode person, boolean shore) {
        return shore
                ? "CN=" + person.path("login").asString() + ",OU="
                        + person.path("ou").asString() + ",OU=People,DC=skerry,DC=test"
                : World.fleetDn(person.path("fleet").asString(""));
    }

    /** The people of the demo, and more of the crew, as one directory has them. */
    private static StewardApi.Batch contents(boolean shore) {
        var made = ApiPerson.JSON.readTree(run(
                        MORE_CREW,
                        "/usr/bin/python3",
                        ROOT.resolve("bin/lib/people.py").toString())
                .expect(0)
                .out());
        var people = new ArrayList<StewardApi.Person>();
        var members = new TreeMap<String, List<String>>();
        if (shore) {
            made.path("nesting").properties().forEach(one -> {
                members.computeIfAbsent(one.getKey(), g -> new ArrayList<>());
                one.getValue()
                        .forEach(parent -> members.computeIfAbsent(parent.asString(), g -> new ArrayList<>())
                                .add(group(one.getKey(), true)));
            });
        }
        var names = new HashMap<String, String>();
        for (JsonNode person : made.path("people")) {
            names.put(person.path("login").asString(), dn(person, shore));
        }
        for (JsonNode person : made.path("people")) {
            var login = person.path(shore ? "login" : "fleet").asString("");
            if (login.isEmpty()) {
                continue;
            }
            var dn = dn(person, shore);
            people.add(new StewardApi.Person(
                    UUID.nameUUIDFromBytes(dn.getBytes(StandardCharsets.UTF_8)),
                    dn,
                    login,
                    List.of(),
                    person.path("name").asString(),
                    person.path("number").asString(),
                    person.path("department").asString(),
                    shore ? person.path("mail").asString() : null,
                    List.of(),
                    shore ? person.path("mobile").asString(null) : null,
                    shore ? names.get(person.path("manager").asString("")) : null,
                    person.path("disabled").asBoolean(),
                    person.path("locked").asBoolean(),
                    null,
                    false,
                    null,
                    null,
                    null,
                    null,
                    Map.of("department", List.of(person.path("department").asString()))));
            for (var group : shore ? person.path("groups") : List.of(person.path("department"))) {
                members.computeIfAbsent(group.asString(), n -> new ArrayList<>())
                        .add(dn);
            }
        }
        var groups = members.entrySet().stream()
                .map(g -> new StewardApi.Group(group(g.getKey(), shore), g.getKey(), g.getValue(), true))
                .toList();
        return new StewardApi.Batch(people, groups, List.of(), List.of());
    }

    private static String group(String name, boolean shore) {
        return shore
                ? "CN=" + name + ",OU=Groups,DC=skerry,DC=test"
                : "cn=" + name + ",ou=groups,dc=fleet,dc=skerry,dc=test";
    }
}
