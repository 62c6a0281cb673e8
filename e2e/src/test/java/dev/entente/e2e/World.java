package dev.entente.e2e;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.SearchScope;
import com.unboundid.util.ssl.PEMFileTrustManager;
import com.unboundid.util.ssl.SSLUtil;
import dev.entente.bench.Mailbox;
import dev.entente.cli.WarmClient;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.HttpURLConnection;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import java.util.function.BooleanSupplier;
import java.util.regex.Pattern;

/**
 * The whole of Entente on loopback, started once for all tests of a run: PostgreSQL, both directories, the stand-ins, the
 * service, and one steward for each directory behind a proxy that tests can make wait. Set up through the command line, as
 * an administrator does it.
 */
final class World {
    static final Path ROOT = Path.of("").toAbsolutePath().getParent();
    // Test classes run in two processes, each with a world of its own.
    private static final int NUMBER = Integer.getInteger("entente.test.world", 1);
    static final Path DIR = ROOT.resolve(".test/world-" + NUMBER);
    static final String AD_IP = "127.0." + (20 + NUMBER) + ".1";
    static final int LDAPS_PORT = 3720 + 10 * NUMBER;
    static final int SECOND_LDAPS_PORT = LDAPS_PORT + 1;
    static final int PG_PORT = 54320 + 10 * NUMBER;
    static final String OLD_PASSWORD = "Harbour-Light-42";
    static final String MARKER = "marker-Lantern-Quay-7731-planted";
    /** More than people ask for, less than a flood. */
    static final int CODES_PER_HOUR = 12;

    static final String PASSWORD = "a-long-test-password";

    private static World world;
    private static RuntimeException broken;

    final int port = freePort();
    final int smtp = freePort();
    final int box = freePort();
    final String url = "http://localhost:" + port;
    final Mailbox mailbox = new Mailbox("http://127.0.0.1:" + box);
    final Map<String, HoldingProxy> proxies = new ConcurrentHashMap<>();
    final Map<String, SwallowingWire> wires = new ConcurrentHashMap<>();
    final Map<String, Process> processes = new ConcurrentHashMap<>();
    private Browser browser;

    private World() throws Exception {
        if (Files.exists(DIR.resolve("lab"))) {
            // What a run that was cut off may have left behind.
            lab("down");
        }
        deleteAll(DIR);
        Files.createDirectories(DIR.resolve("logs"));
        Runtime.getRuntime().addShutdownHook(new Thread(this::stop));
        // The service needs nothing but its database; the directories come up beside it.
        var begun = System.nanoTime();
        lab("pg-up");
        took("database", begun);
        launchService();
        startStandins();
        lab("up");
        took("directories", begun);
        waitForService();
        took("service", begun);
        setUp();
        took("set-up", begun);
    }

    private static void took(String part, long since) {
        System.out.printf(
                "world %d: %s after %.1f s%n",
                NUMBER, part, Duration.ofNanos(System.nanoTime() - since).toMillis() / 1000.0);
    }

    static synchronized World get() {
        if (world == null && broken == null) {
            try {
                world = new World();
            } catch (Exception | AssertionError e) {
                broken = new IllegalStateException("the world could not be started: " + e.getMessage(), e);
            }
        }
        if (broken != null) {
            throw broken;
        }
        return world;
    }

    /** Starts again what somebody left dead or asleep, and lets everything through. */
    static synchronized void mend() {
        if (world != null) {
            world.mendParts();
        }
    }

    private void mendParts() {
        wires.values().forEach(wire -> {
            wire.swallowAnswers(false);
            wire.cut(false);
        });
        proxies.values().forEach(HoldingProxy::mend);
        mend("standins", this::startStandins);
        mend("service", this::startService);
        for (var directory : List.of("shore", "fleet")) {
            mend("steward-" + directory, () -> startSteward(directory));
        }
    }

    private void mend(String part, Runnable start) {
        if (processes.get(part).isAlive()) {
            signal(part, "CONT");
        } else {
            System.out.println("world " + NUMBER + ": " + part + " was left dead, it is started again");
            start.run();
        }
    }

    // ---- parts

    void startStandins() {
        start(
                "standins",
                "java",
                "-Xmx128m",
                "-XX:TieredStopAtLevel=1",
                "-cp",
                ROOT.resolve("standins/target/entente-standins-0.1.0.jar") + ":"
                        + ROOT.resolve("standins/target/lib/*"),
                "dev.entente.standins.Standins",
                String.valueOf(smtp),
                String.valueOf(box));
    }

    void startService() {
        launchService();
        waitForService();
    }

    private void launchService() {
        start(
                "service",
                ROOT.resolve("bin/lib/run-service.sh").toString(),
                DIR.resolve("lab").toString(),
                DIR.resolve("secrets").toString(),
                String.valueOf(port),
                String.valueOf(smtp),
                url,
                "-Dentente.lease=4s",
                "-Dentente.directory-timeout=2s",
                "-Dentente.longest-wait=3s",
                "-Dentente.steward-missed-after=8s",
                "-Dentente.answer-deadline=250ms",
                "-Dentente.starts-per-network=100000",
                "-Dentente.codes-per-hour=" + CODES_PER_HOUR,
                "-Dentente.trusted-proxies=127.0.0.1",
                "-Dentente.purge-every=2s",
                "-Dentente.test-marker=" + MARKER);
    }

    private void waitForService() {
        waitUntil(
                Duration.ofSeconds(90),
                "the service is ready",
                () -> status(url + "/actuator/health/readiness") == 200);
    }

    private void setUp() throws IOException {
        var link = Files.readString(DIR.resolve("secrets/first-administrator.link"))
                .strip();
        ententeWith(PASSWORD, "first-administrator", link, "--login", "ingeborg")
                .expect(0);
        ententeWith(PASSWORD, "sign-in", "--login", "ingeborg").expect(0);
        var shore = CompletableFuture.runAsync(() -> connect(
                "shore",
                "--kind",
                "active-directory",
                "--trust",
                "1",
                "--title",
                "Shore",
                "--at",
                "ldaps://" + AD_IP + ":636",
                "--base",
                "DC=skerry,DC=test",
                "--account",
                "CN=svc-entente,OU=Service Accounts,DC=skerry,DC=test",
                "--correlation",
                "employeeID",
                "--writes-below",
                "OU=People,DC=skerry,DC=test",
                "--protect-group",
                "CN=Directory Administrators,OU=Groups,DC=skerry,DC=test",
                "--probe",
                "CN=entente-probe,OU=People,DC=skerry,DC=test"));
        connect(
                "fleet",
                "--kind",
                "ldap",
                "--trust",
                "2",
                "--title",
                "Fleet",
                "--at",
                "ldaps://127.0.0.1:" + LDAPS_PORT,
                "--base",
                "dc=fleet,dc=skerry,dc=test",
                "--account",
                "cn=svc-entente,ou=services,dc=fleet,dc=skerry,dc=test",
                "--correlation",
                "employeeNumber",
                "--writes-below",
                "ou=people,dc=fleet,dc=skerry,dc=test",
                "--probe",
                "uid=entente-probe,ou=people,dc=fleet,dc=skerry,dc=test");
        shore.join();
        entente("draft", "start", "--name", "first").expect(0);
        entente("draft", "load", ROOT.resolve("demo/configuration").toString()).expect(0);
        entente("draft", "publish", "--note", "first").expect(0);
    }

    private void connect(String name, String... options) {
        try {
            connected(name, options);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private void connected(String name, String... options) throws IOException {
        var folder = Files.createDirectories(DIR.resolve("steward-" + name));
        Files.writeString(folder.resolve("account.password"), "Svc-Quiet-Water-7\n");
        var add = new ArrayList<>(List.of("directory", "add", name));
        add.addAll(List.of(options));
        add.addAll(List.of(
                "--ca", ca().toString(),
                "--password-file", folder.resolve("account.password").toString(),
                "--steward-file", folder.resolve("steward.yaml").toString()));
        entente(add.toArray(String[]::new)).expect(0);
        var proxy = new HoldingProxy(url);
        proxies.put(name, proxy);
        var wire = name.equals("shore") ? new SwallowingWire(AD_IP, 636) : new SwallowingWire("127.0.0.1", LDAPS_PORT);
        wires.put(name, wire);
        // The steward reaches service and directory through ours in between, and gives up on silence quickly.
        var file = Files.readString(folder.resolve("steward.yaml"))
                .replace("service: " + url, "service: " + proxy.url())
                .replaceAll("ldaps://[0-9.:]+", "ldaps://127.0.0.1:" + wire.port())
                .replace("directory:\n", "directory:\n  timeout: 2s\n")
                .replace("writes-per-minute: 60", "writes-per-minute: 1000");
        Files.writeString(folder.resolve("steward.yaml"), file);
        var code = entente("steward", "admit", "--directory", name, name + "-1")
                .expect(0)
                .out()
                .strip();
        joinAndSign(name, stewardFile(name), code);
        startSteward(name);
        // A directory that has only just started on a busy machine may be slow to answer at first.
        waitUntil(
                Duration.ofSeconds(60),
                name + " is synchronised",
                () -> script("directory", "sync", name).code() == 0);
    }

    /** Nobody has to approve anything from now on; switching that off would itself wait for somebody. */
    void withoutApproval() {
        query("DELETE FROM approval_rule");
        query("UPDATE proposed_change SET decided_at = now(), decided_by = 'ingeborg', outcome = 'withdrawn'"
                + " WHERE decided_at IS NULL");
    }

    /** Joins, and signs the roster once the key is the one that the steward's own machine shows. */
    void joinAndSign(String directory, String file, String code, String... stewards) {
        var shown = entente("steward", "join", "--file", file, code).expect(0).out();
        var sign = new ArrayList<>(List.of("steward", "sign-roster", "--directory", directory));
        sign.addAll(List.of("--expect", thumbprint(shown)));
        sign.addAll(List.of(stewards));
        entente(sign.toArray(String[]::new)).expect(0);
    }

    /** The thumbprint that joining shows. */
    static String thumbprint(String joined) {
        var found = Pattern.compile("Identity key ([\\w-]{43})").matcher(joined);
        if (!found.find()) {
            throw new AssertionError("no thumbprint is shown: " + joined);
        }
        return found.group(1);
    }

    static String stewardFile(String name) {
        return DIR.resolve("steward-" + name).resolve("steward.yaml").toString();
    }

    void startSteward(String name) {
        // Stewards live for seconds here.
        start(
                "steward-" + name,
                Map.of(
                        "ENTENTE_JAVA_OPTIONS",
                        "-XX:TieredStopAtLevel=1 -Xlog:gc:file=" + DIR.resolve("logs/steward-" + name + ".gc")),
                ROOT.resolve("bin/entente").toString(),
                "steward",
                "run",
                "--file",
                stewardFile(name));
    }

    /** SIGKILL for a directory. */
    void killLab(String pidFile) {
        try {
            var pid = Files.readString(DIR.resolve("lab").resolve(pidFile)).strip();
            run(Map.of(), "pkill", "-KILL", "-s", pid);
            run(Map.of(), "kill", "-KILL", pid);
            waitUntil(
                    Duration.ofSeconds(10),
                    "it is gone",
                    () -> run(Map.of(), "kill", "-0", pid).code() != 0);
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Another slapd on the same data, which its database allows. */
    void startSecondSlapd() throws IOException {
        var ldap = DIR.resolve("lab/ldap");
        var conf = Files.readString(ldap.resolve("slapd.conf"))
                .replace("slapd.pid", "second.pid")
                .replace("slapd.args", "second.args");
        Files.writeString(ldap.resolve("second.conf"), conf);
        start(
                "second-slapd",
                "slapd",
                "-f",
                ldap.resolve("second.conf").toString(),
                "-h",
                "ldaps://127.0.0.1:" + SECOND_LDAPS_PORT + "/",
                "-d",
                "0");
        waitUntil(Duration.ofSeconds(10), "the second slapd answers", () -> {
            try {
                new Socket("127.0.0.1", SECOND_LDAPS_PORT).close();
                return true;
            } catch (IOException e) {
                return false;
            }
        });
    }

    void stopSecondSlapd() {
        kill("second-slapd");
    }

    /** SIGKILL, as a crash. */
    void kill(String name) {
        signal(name, "KILL");
        try {
            processes.get(name).waitFor(10, TimeUnit.SECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    void signal(String name, String signal) {
        run(Map.of(), "kill", "-" + signal, String.valueOf(pid(name))).expect(0);
    }

    long pid(String name) {
        return processes.get(name).pid();
    }

    void lab(String what) {
        run(
                        labEnvironment(),
                        "bash",
                        ROOT.resolve("bin/lib/lab.sh").toString(),
                        what,
                        DIR.resolve("lab").toString())
                .expect(0);
    }

    private static Map<String, String> labEnvironment() {
        return Map.of(
                "LAB_AD_IP", AD_IP,
                "LAB_LDAPS_PORT", String.valueOf(LDAPS_PORT),
                "LAB_PG_PORT", String.valueOf(PG_PORT),
                "LAB_PG_OPTIONS", "-c shared_preload_libraries=pg_stat_statements",
                "LAB_CACHE", ROOT.resolve(".test/cache").toString());
    }

    /** A benchmark, brief, with some of the crew: what it printed. */
    Ran bench(String name, List<Crew> crew) throws IOException {
        Files.write(
                DIR.resolve("people.tsv"),
                crew.stream().map(c -> c.shore() + "\t" + c.address()).toList());
        var environment = new HashMap<>(labEnvironment());
        environment.put("ENTENTE_HOME", DIR.resolve("administrator").toString());
        environment.put("ENTENTE_SERVER", url);
        environment.put("PATH", System.getenv("PATH") + ":" + ROOT.resolve("bin"));
        var command = new ArrayList<>(List.of("java", "-Xmx256m", "-XX:TieredStopAtLevel=1", "-cp"));
        command.add(ROOT.resolve("bench/target/entente-bench-0.1.0.jar") + ":" + ROOT.resolve("bench/target/lib/*"));
        command.addAll(List.of("dev.entente.bench." + name, url, "http://127.0.0.1:" + box));
        command.addAll(List.of(DIR.resolve("lab").toString(), DIR.toString(), "brief"));
        for (var part : List.of("service", "steward-shore", "steward-fleet")) {
            command.add(String.valueOf(pid(part)));
        }
        return run(environment, command.toArray(String[]::new));
    }

    static Path ca() {
        return DIR.resolve("lab/pki/ca.crt");
    }

    synchronized Browser browser() {
        if (browser == null) {
            browser = new Browser();
        }
        return browser;
    }

    // ---- directories, looked at with a plain client

    static LDAPConnection ldap(String directory) throws LDAPException {
        try {
            var factory = new SSLUtil(new PEMFileTrustManager(ca().toFile())).createSSLSocketFactory();
            return directory.equals("shore")
                    ? new LDAPConnection(factory, AD_IP, 636)
                    : new LDAPConnection(factory, "127.0.0.1", LDAPS_PORT);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Whether a password binds, asked of the directory itself. */
    static boolean binds(String directory, String login, String password) {
        try (var connection = ldap(directory)) {
            connection.bind(directory.equals("shore") ? login + "@skerry.test" : fleetDn(login), password);
            return true;
        } catch (LDAPException e) {
            return false;
        }
    }

    static String fleetDn(String login) {
        return "uid=" + login + ",ou=people,dc=fleet,dc=skerry,dc=test";
    }

    /** How often the password was set, counted by the directory itself. */
    static int passwordsSet(String directory, String login) {
        try (var connection = ldap(directory)) {
            if (directory.equals("shore")) {
                connection.bind("CN=svc-entente,OU=Service Accounts,DC=skerry,DC=test", "Svc-Quiet-Water-7");
                var entry = connection.searchForEntry(
                        "DC=skerry,DC=test", SearchScope.SUB, "(sAMAccountName=" + login + ")", "replPropertyMetaData");
                return unicodePwdVersion(entry.getAttributeValueBytes("replPropertyMetaData"));
            }
            connection.bind("cn=admin,dc=fleet,dc=skerry,dc=test", "Root-Of-The-Fleet-1");
            var history = connection.getEntry(fleetDn(login), "pwdHistory").getAttributeValues("pwdHistory");
            return history == null ? 0 : history.length;
        } catch (LDAPException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Read independently of the product: little-endian records of 48 bytes after a header of 16. */
    private static int unicodePwdVersion(byte[] blob) {
        for (var at = 16; at + 48 <= blob.length; at += 48) {
            if (integer(blob, at) == 0x0009005A) {
                return integer(blob, at + 4);
            }
        }
        return 0;
    }

    private static int integer(byte[] bytes, int at) {
        return (bytes[at] & 255)
                | (bytes[at + 1] & 255) << 8
                | (bytes[at + 2] & 255) << 16
                | (bytes[at + 3] & 255) << 24;
    }

    /** One value of one row, as the superuser. */
    String query(String sql) {
        return psql("postgres", sql).expect(0).out().strip();
    }

    Ran psql(String role, String sql) {
        try {
            var password = Files.readString(DIR.resolve("lab/postgres/" + role + ".password"))
                    .strip();
            return run(
                    Map.of("PGPASSWORD", password),
                    "psql",
                    "-qtAX",
                    "-h",
                    "127.0.0.1",
                    "-p",
                    String.valueOf(PG_PORT),
                    "-U",
                    role.equals("postgres") ? "postgres" : "entente_" + role,
                    "-d",
                    "entente",
                    "-c",
                    sql);
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    // ---- command line

    /** What a command printed and how it ended. */
    record Ran(List<String> command, int code, String out, String err) {
        Ran expect(int wanted) {
            if (code != wanted) {
                throw new AssertionError(
                        String.join(" ", command) + " ended with " + code + " instead of " + wanted + "\n" + out + err);
            }
            return this;
        }
    }

    Ran entente(String... arguments) {
        return ententeWith("", arguments);
    }

    /** The client in this process; what belongs to a steward's machine is another program and is started. */
    Ran ententeWith(String input, String... arguments) {
        var line = List.of(arguments);
        if (line.contains("steward") && !Collections.disjoint(line, List.of("join", "run", "check", "log"))) {
            return scriptWith(input, arguments);
        }
        var command = new ArrayList<>(List.of("--server", url));
        command.addAll(line);
        var ended = WarmClient.run(
                DIR.resolve("administrator"),
                input,
                line.contains("--server") ? arguments : command.toArray(String[]::new));
        return new Ran(command, ended.code(), ended.out(), ended.err());
    }

    /** The command as somebody types it. */
    Ran script(String... arguments) {
        return scriptWith("", arguments);
    }

    private Ran scriptWith(String input, String... arguments) {
        var command = new ArrayList<>(List.of(ROOT.resolve("bin/entente").toString()));
        command.addAll(Arrays.asList(arguments));
        return asAdministrator(input, command.toArray(String[]::new));
    }

    /** What an administrator types on their own machine. */
    Ran shell(String line) {
        return asAdministrator("", "bash", "-c", line);
    }

    private Ran asAdministrator(String input, String... command) {
        return runWith(
                Map.of("ENTENTE_HOME", DIR.resolve("administrator").toString(), "ENTENTE_SERVER", url), input, command);
    }

    /** Events take their place on record a moment after they happened. */
    void onRecord(String... sentences) {
        waitUntil(Duration.ofSeconds(15), "there is on record: " + String.join(", ", sentences), () -> {
            var events = entente("event", "list", "--limit", "200").out();
            return Arrays.stream(sentences).allMatch(events::contains);
        });
    }

    /** Whether {@code entente status} says something, now or within seconds. */
    void onStatus(String sentence, boolean said) {
        waitUntil(
                Duration.ofSeconds(15),
                (said ? "status says: " : "status no longer says: ") + sentence,
                () -> entente("status").out().contains(sentence) == said);
    }

    static Ran run(Map<String, String> environment, String... command) {
        return runWith(environment, "", command);
    }

    private static Ran runWith(Map<String, String> environment, String input, String... command) {
        try {
            var out = Files.createTempFile("entente", ".out");
            var err = Files.createTempFile("entente", ".err");
            var builder =
                    new ProcessBuilder(command).redirectOutput(out.toFile()).redirectError(err.toFile());
            builder.environment().putAll(environment);
            var process = builder.start();
            try (var in = process.getOutputStream()) {
                in.write((input + "\n").getBytes(StandardCharsets.UTF_8));
            } catch (IOException e) {
                // A command that reads nothing has ended already.
            }
            if (!process.waitFor(120, TimeUnit.SECONDS)) {
                process.destroyForcibly();
                throw new AssertionError("did not end: " + String.join(" ", command));
            }
            var ran = new Ran(List.of(command), process.exitValue(), Files.readString(out), Files.readString(err));
            Files.delete(out);
            Files.delete(err);
            return ran;
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    void start(String name, String... command) {
        start(name, Map.of("ENTENTE_JAVA_OPTIONS", "-XX:TieredStopAtLevel=1"), command);
    }

    private void start(String name, Map<String, String> environment, String... command) {
        try {
            var log = DIR.resolve("logs").resolve(name + ".log").toFile();
            var builder = new ProcessBuilder(command)
                    .redirectErrorStream(true)
                    .redirectOutput(ProcessBuilder.Redirect.appendTo(log));
            builder.environment().put("LAB_PG_PORT", String.valueOf(PG_PORT));
            builder.environment().putAll(environment);
            processes.put(name, builder.start());
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    static void waitUntil(Duration patience, String what, BooleanSupplier condition) {
        var until = System.nanoTime() + patience.toNanos();
        for (var asked = System.nanoTime(); !condition.getAsBoolean(); asked = System.nanoTime()) {
            var now = System.nanoTime();
            if (now > until) {
                throw new AssertionError("waited " + patience.toSeconds() + " s in vain until " + what);
            }
            // A question that takes long, such as a command, leaves the processors to what is waited for.
            pause(Math.max(100, Duration.ofNanos(now - asked).toMillis()));
        }
    }

    static void pause(long millis) {
        try {
            Thread.sleep(millis);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    static int status(String address) {
        try {
            var connection = (HttpURLConnection) URI.create(address).toURL().openConnection();
            connection.setConnectTimeout(1000);
            connection.setReadTimeout(6000);
            return connection.getResponseCode();
        } catch (IOException e) {
            return 0;
        }
    }

    static int freePort() {
        try (var socket = new ServerSocket(0)) {
            return socket.getLocalPort();
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    private static void deleteAll(Path folder) throws IOException {
        if (Files.exists(folder)) {
            try (var files = Files.walk(folder)) {
                for (var file : files.sorted(Comparator.reverseOrder()).toList()) {
                    Files.delete(file);
                }
            }
        }
    }

    private void stop() {
        if (browser != null) {
            try {
                browser.close();
            } catch (RuntimeException e) {
                // It may be gone with its parent.
            }
        }
        processes.values().forEach(Process::destroyForcibly);
        lab("down");
    }
}
