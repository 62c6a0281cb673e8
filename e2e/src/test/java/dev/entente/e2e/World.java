package dev.entente.e2e;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.SearchScope;
import com.unboundid.util.ssl.PEMFileTrustManager;
import com.unboundid.util.ssl.SSLUtil;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.Socket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.regex.Pattern;

/**
 * The whole of Entente on loopback: PostgreSQL, both directories, the stand-ins, the
 * service, and one steward for each directory behind a proxy that tests can make wait. Set up through the command line, as
 * an administrator does it.
 */
final class World extends Installation {
    static final Pool<World> POOL = new Pool<>(3, World::new);
    static final String OLD_PASSWORD = "Harbour-Light-42";
    /** More than people ask for, less than a flood. */
    static final int CODES_PER_HOUR = 12;

    private final int number;
    final String adIp;
    final int ldapsPort;
    final int secondLdapsPort;

    final Map<String, HoldingProxy> proxies = new ConcurrentHashMap<>();
    final Map<String, SwallowingWire> wires = new ConcurrentHashMap<>();

    private World(int number) throws Exception {
        super(ROOT.resolve(".test/world-" + number), 15450 + 10 * number);
        this.number = number;
        adIp = "127.0." + (20 + number) + ".1";
        ldapsPort = 3720 + 10 * number;
        secondLdapsPort = ldapsPort + 1;
        begin();
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
        StewardClasses.keep(pid("steward-fleet"));
    }

    private void took(String part, long since) {
        System.out.printf(
                "world %d: %s after %.1f s%n",
                number, part, Duration.ofNanos(System.nanoTime() - since).toMillis() / 1000.0);
    }

    static World get() {
        return POOL.get();
    }

    /** Starts again what somebody left dead or asleep, and lets everything through. */
    void mend() {
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

    @Override
    List<String> serviceOptions() {
        return List.of(
                "-Dentente.lease=4s",
                "-Dentente.directory-timeout=2s",
                "-Dentente.longest-wait=3s",
                "-Dentente.steward-missed-after=8s",
                "-Dentente.answer-deadline=250ms",
                "-Dentente.starts-per-network=100000",
                "-Dentente.codes-per-hour=" + CODES_PER_HOUR,
                "-Dentente.trusted-proxies=127.0.0.1",
                "-Dentente.bounces.mailboxes=127.0.0.1",
                "-Dentente.purge-every=2s",
                "-Dentente.test-marker=" + MARKER);
    }

    private void setUp() throws IOException {
        firstAdministrator();
        var shore = CompletableFuture.runAsync(() -> connect(
                "shore",
                "--kind",
                "active-directory",
                "--trust",
                "1",
                "--title",
                "Shore",
                "--at",
                "ldaps://" + adIp + ":636",
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
                "ldaps://127.0.0.1:" + ldapsPort,
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
        var folder = Files.createDirectories(dir.resolve("steward-" + name));
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
        var wire = name.equals("shore") ? new SwallowingWire(adIp, 636) : new SwallowingWire("127.0.0.1", ldapsPort);
        wires.put(name, wire);
        // The steward reaches service and directory through ours in between, and gives up on silence quickly. With
        // authorities of its
        // own it doesn't read the system's at each start.
        var file = Files.readString(folder.resolve("steward.yaml"))
                .replace("service: " + url, "service: " + proxy.url() + "\nservice-ca: " + ca())
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
                () -> entente("directory", "sync", name).code() == 0);
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

    String stewardFile(String name) {
        return dir.resolve("steward-" + name).resolve("steward.yaml").toString();
    }

    void startSteward(String name) {
        start(
                "steward-" + name,
                Map.of(
                        "ENTENTE_JAVA_OPTIONS",
                        StewardClasses.options() + " -Xlog:gc:file=" + dir.resolve("logs/steward-" + name + ".gc")),
                ROOT.resolve("bin/entente").toString(),
                "steward",
                "run",
                "--file",
                stewardFile(name));
    }

    /** SIGKILL for a directory. */
    void killLab(String pidFile) {
        try {
            var pid = Files.readString(dir.resolve("lab").resolve(pidFile)).strip();
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
        var ldap = dir.resolve("lab/ldap");
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
                "ldaps://127.0.0.1:" + secondLdapsPort + "/",
                "-d",
                "0");
        waitUntil(Duration.ofSeconds(10), "the second slapd answers", () -> {
            try {
                new Socket("127.0.0.1", secondLdapsPort).close();
                return true;
            } catch (IOException e) {
                return false;
            }
        });
    }

    void stopSecondSlapd() {
        kill("second-slapd");
    }

    @Override
    Map<String, String> labEnvironment() {
        return Map.of(
                "LAB_AD_IP", adIp,
                "LAB_LDAPS_PORT", String.valueOf(ldapsPort),
                "LAB_PG_PORT", String.valueOf(pgPort),
                "LAB_PG_OPTIONS", UNSYNCED + " -c shared_preload_libraries=pg_stat_statements",
                "LAB_CACHE", ROOT.resolve(".test/cache").toString(),
                "LAB_MORE_CREW", MORE_CREW.get("LAB_MORE_CREW"));
    }

    /** A benchmark, brief, with some of the crew: what it printed. */
    Ran bench(String name, List<Crew> crew) throws IOException {
        Files.write(
                dir.resolve("people.tsv"),
                crew.stream().map(c -> c.shore() + "\t" + c.address()).toList());
        var environment = new HashMap<>(labEnvironment());
        environment.put("ENTENTE_HOME", dir.resolve("administrator").toString());
        environment.put("ENTENTE_SERVER", url);
        environment.put("PATH", System.getenv("PATH") + ":" + ROOT.resolve("bin"));
        var command = new ArrayList<>(List.of("java", "-Xmx256m", "-XX:TieredStopAtLevel=1", "-cp"));
        command.add(ROOT.resolve("bench/target/entente-bench-0.1.0.jar") + ":" + ROOT.resolve("bench/target/lib/*"));
        command.addAll(List.of("dev.entente.bench." + name, url, "http://127.0.0.1:" + box));
        command.addAll(List.of(dir.resolve("lab").toString(), dir.toString(), "brief"));
        for (var part : List.of("service", "steward-shore", "steward-fleet")) {
            command.add(String.valueOf(pid(part)));
        }
        return run(environment, command.toArray(String[]::new));
    }

    Path ca() {
        return dir.resolve("lab/pki/ca.crt");
    }

    // ---- directories, looked at with a plain client

    LDAPConnection ldap(String directory) throws LDAPException {
        try {
            var factory = new SSLUtil(new PEMFileTrustManager(ca().toFile())).createSSLSocketFactory();
            return directory.equals("shore")
                    ? new LDAPConnection(factory, adIp, 636)
                    : new LDAPConnection(factory, "127.0.0.1", ldapsPort);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Whether a password binds, asked of the directory itself. */
    boolean binds(String directory, String login, String password) {
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
    int passwordsSet(String directory, String login) {
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
}
