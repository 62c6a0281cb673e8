package dev.entente.e2e;

import dev.entente.bench.Mailbox;
import dev.entente.cli.WarmClient;
import dev.entente.core.seal.SigningKey;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.BindException;
import java.net.HttpURLConnection;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Queue;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.BooleanSupplier;
import java.util.function.IntFunction;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * One installation of Entente on loopback, driven as an administrator does it: PostgreSQL, the stand-ins and the packaged service.
 * What is beside it, real directories or a double, each world adds.
 */
abstract class Installation {
    static final Path ROOT = Path.of("").toAbsolutePath().getParent();
    private static final AtomicInteger NEXT_PORT = new AtomicInteger(21_000);
    static final String PASSWORD = "a-long-test-password";
    static final String GATEWAY_SECRET = "a-secret-of-the-phone-gateways";
    /** More of the crew than the demo has, so that every test has people of its own. */
    static final Map<String, String> MORE_CREW = Map.of("LAB_MORE_CREW", "150");

    /** A process that is killed loses nothing by it; only a machine that goes down would, and no test takes the machine down. */
    static final String UNSYNCED = "-c fsync=off";

    static final String MARKER = "marker-Lantern-Quay-7731-planted";

    final Path dir;
    final int pgPort;
    final int port = freePort();
    final int smtp = freePort();
    final int box = freePort();
    final String url = "http://localhost:" + port;
    final Mailbox mailbox = new Mailbox("http://127.0.0.1:" + box);
    final Map<String, Process> processes = new ConcurrentHashMap<>();
    private Browser browser;
    private long compared;
    private final Queue<Crew> crew = Crew.rest();
    private final Superuser superuser;

    Installation(Path dir, int pgPort) {
        this.dir = dir;
        this.pgPort = pgPort;
        this.superuser = new Superuser(dir.resolve("lab/postgres/postgres.password"), pgPort);
    }

    /** Somebody of the deck crew whom no other test uses. */
    final Crew crew() {
        return crew.remove();
    }

    /** Files of an earlier run go, and at the end so does everything that runs. */
    final void begin() throws IOException {
        if (Files.exists(dir.resolve("lab"))) {
            // What a run that was cut off may have left behind.
            lab("down");
        }
        deleteAll(dir);
        Files.createDirectories(dir.resolve("logs"));
        fromTemplate();
        Runtime.getRuntime().addShutdownHook(new Thread(this::stop));
    }

    /**
     * Begins with the migrated database that {@code bin/test} prepared, waiting for it where it is under way. Without it, or with one of
     * other migrations, the installation makes its own.
     */
    private void fromTemplate() throws IOException {
        var making = ROOT.resolve(".test/making");
        if (Files.exists(making.resolve("template.lock"))) {
            run(Map.of(), "flock", making.resolve("template.lock").toString(), "true");
        }
        var template = making.resolve("template");
        var here = run(
                Map.of(),
                "bash",
                "-c",
                "cd " + ROOT + "/service/src/main/resources/db/migration && cat V*.sql | sha256sum");
        if (Files.exists(template)
                && Files.readString(template.resolve("secrets.migrated")).equals(here.out())) {
            Files.createDirectories(dir.resolve("lab"));
            run(
                            Map.of(),
                            "cp",
                            "-a",
                            template.resolve("postgres").toString(),
                            dir.resolve("lab/postgres").toString())
                    .expect(0);
            Files.copy(template.resolve("secrets.migrated"), dir.resolve("secrets.migrated"));
        }
    }

    /** Where the stand-ins are. */
    final String boxUrl() {
        return "http://127.0.0.1:" + box;
    }

    /** What time it is here. */
    Instant now() {
        return Instant.now();
    }

    /** What the service is told besides where things are. */
    abstract List<String> serviceOptions();

    /** Where the answers of the service are kept. */
    final Path answers() {
        return dir.resolve("answers");
    }

    /** What the service answered since this was last asked that differs from the description of the API. */
    final List<String> undescribed() {
        if (!Files.exists(answers())) {
            return List.of();
        }
        try (var lines = Files.lines(answers())) {
            var since = compared;
            var kept = lines.skip(since).toList();
            compared += kept.size();
            return kept.stream()
                    .flatMap(line -> Described.api().faults(ApiPerson.JSON.readTree(line)).stream())
                    .distinct()
                    .sorted()
                    .toList();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** What the lab is told besides where PostgreSQL is. */
    abstract Map<String, String> labEnvironment();

    final void lab(String what) {
        run(
                        labEnvironment(),
                        "bash",
                        ROOT.resolve("bin/lib/lab.sh").toString(),
                        what,
                        dir.resolve("lab").toString())
                .expect(0);
    }

    final void firstAdministrator() throws IOException {
        var link = Files.readString(dir.resolve("secrets/first-administrator.link"))
                .strip();
        ententeWith(PASSWORD, "first-administrator", link, "--login", "ingeborg")
                .expect(0);
        ententeWith(PASSWORD, "sign-in", "--login", "ingeborg").expect(0);
    }

    /** Nobody has to approve anything from now on; switching that off would itself wait for somebody. */
    final void withoutApproval() {
        query("DELETE FROM approval_rule");
        query("UPDATE proposed_change SET decided_at = now(), decided_by = 'ingeborg', outcome = 'withdrawn'"
                + " WHERE decided_at IS NULL");
    }

    /** Starts a part again that somebody left dead, or wakes it. */
    final void mend(String part, Runnable start) {
        if (processes.get(part).isAlive()) {
            signal(part, "CONT");
        } else {
            System.out.println(dir.getFileName() + ": " + part + " was left dead, it is started again");
            start.run();
        }
    }

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
                String.valueOf(box),
                GATEWAY_SECRET,
                url);
    }

    void startService() {
        launchService();
        waitForService();
    }

    final void launchService() {
        var command = new ArrayList<>(List.of(
                ROOT.resolve("bin/lib/run-service.sh").toString(),
                dir.resolve("lab").toString(),
                dir.resolve("secrets").toString(),
                String.valueOf(port),
                String.valueOf(smtp),
                url));
        command.add("-Dentente.answers=" + answers());
        command.addAll(serviceOptions());
        start("service", serviceEnvironment(), command.toArray(String[]::new));
    }

    /** Folders of classes that the service has only here, as the tests of the service were compiled. */
    List<String> moreClasses() {
        return List.of();
    }

    /** With what keeps every answer of the service, to be compared with its description. */
    final Map<String, String> serviceEnvironment() {
        var from = ROOT.resolve("service/target/test-classes");
        var more = new ArrayList<>(moreClasses());
        more.add("dev/entente/service/described");
        try {
            for (var part : more) {
                var to = Files.createDirectories(dir.resolve("more").resolve(part));
                try (var files = Files.list(from.resolve(part))) {
                    for (var file : files.toList()) {
                        Files.copy(file, to.resolve(file.getFileName()), StandardCopyOption.REPLACE_EXISTING);
                    }
                }
            }
            Files.writeString(
                    Files.createDirectories(dir.resolve("more/META-INF")).resolve("spring.factories"),
                    "org.springframework.context.ApplicationContextInitializer=dev.entente.service.described.AnswersKept\n");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return Map.of("ENTENTE_MORE_CLASSES", dir.resolve("more").toString());
    }

    final void waitForService() {
        // The first start makes an archive of the classes, and others may start at the same time.
        waitUntil(
                Duration.ofSeconds(300),
                "the service is ready",
                () -> status(url + "/actuator/health/readiness") == 200);
    }

    /** Signs the record of the service in this folder now. */
    static SigningKey recordKey(Path folder) throws IOException {
        var keys = Files.readAllLines(folder.resolve("secrets/record.key"));
        return SigningKey.decode(keys.get(keys.size() - 1));
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

    /** What the service and its database are doing, for a failure that is about waiting. */
    String doing() {
        var stacks = run(Map.of(), "jcmd", String.valueOf(pid("service")), "Thread.print")
                .out();
        return Pattern.compile("\n\n")
                        .splitAsStream(stacks)
                        .filter(stack -> stack.contains("at dev.entente"))
                        .collect(Collectors.joining("\n\n", "threads of the service:\n", "\n"))
                + query(
                        "SELECT string_agg(format('%s %s/%s for %s: %s', pid, wait_event_type, wait_event, now() - query_start,"
                                + " left(query, 200)), E'\n') FROM pg_stat_activity WHERE state <> 'idle' AND pid <> pg_backend_pid()");
    }

    synchronized Browser browser() {
        if (browser == null) {
            browser = new Browser();
        }
        return browser;
    }

    final synchronized void closePages() {
        if (browser != null) {
            browser.leave();
        }
    }

    /** Statements as the superuser: see {@link Superuser#ask}. */
    String query(String sql) {
        return superuser.ask(sql);
    }

    /** Something while a session of the superuser's lasts: see {@link Superuser#during}. */
    void during(String sql, Runnable meanwhile) {
        superuser.during(sql, meanwhile);
    }

    /** By PostgreSQL's own client, with what one of our roles may do. */
    Ran psql(String role, String sql) {
        try {
            var password = Files.readString(dir.resolve("lab/postgres/" + role + ".password"))
                    .strip();
            return run(
                    Map.of("PGPASSWORD", password),
                    "psql",
                    "-qtAX",
                    "-h",
                    "127.0.0.1",
                    "-p",
                    String.valueOf(pgPort),
                    "-U",
                    "entente_" + role,
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

    /** The command in this process: the client, or what belongs to a steward's machine, which is another program. */
    Ran ententeWith(String input, String... arguments) {
        var line = List.of(arguments);
        if (line.get(0).equals("steward") && List.of("join", "check", "log").contains(line.get(1))) {
            var ended = WarmClient.steward(input, line.subList(1, line.size()).toArray(String[]::new));
            return new Ran(line, ended.code(), ended.out(), ended.err());
        }
        var command = new ArrayList<>(List.of("--server", url));
        command.addAll(line);
        return line.contains("--server")
                ? ententeOf(dir.resolve("administrator"), input, arguments)
                : ententeOf(dir.resolve("administrator"), input, command.toArray(String[]::new));
    }

    /** The client with another folder than the administrator's. */
    static Ran ententeOf(Path home, String input, String... arguments) {
        var ended = WarmClient.run(home, input, arguments);
        return new Ran(List.of(arguments), ended.code(), ended.out(), ended.err());
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
                Map.of("ENTENTE_HOME", dir.resolve("administrator").toString(), "ENTENTE_SERVER", url), input, command);
    }

    /** Events take their place on record a moment after they happened. */
    void onRecord(String... sentences) {
        waitUntil(Duration.ofSeconds(15), "there is on record: " + String.join(", ", sentences), () -> {
            var events = entente("event", "list", "--limit", "200").out();
            return Arrays.stream(sentences).allMatch(events::contains);
        });
    }

    /** Thumbprint of the key that signs the record. */
    String recordKey() {
        return entente("--output", "json", "event", "verify").out().replaceAll("(?s).*\"key\" : \"([^\"]+)\".*", "$1");
    }

    /** The record against this key. */
    Ran verify(String... more) {
        var command = new ArrayList<>(List.of("event", "verify"));
        command.addAll(List.of(more));
        command.addAll(List.of("--key", recordKey()));
        return entente(command.toArray(String[]::new));
    }

    /** Proofs in a file against this key. */
    Ran check(Path proofs) {
        return entente("event", "check", proofs.toString(), "--key", recordKey());
    }

    /** Whether {@code entente status} says something, now or within seconds. */
    void onStatus(String sentence, boolean said) {
        waitUntil(
                Duration.ofSeconds(15),
                (said ? "status says: " : "status no longer says: ") + sentence,
                () -> entente("status").out().contains(sentence) == said);
    }

    /** The service's program, on its own; what it says goes to a file. */
    static Process program(Map<String, String> environment, Path said, String... arguments) throws IOException {
        var command = new ArrayList<>(List.of(
                "java",
                "-Xmx256m",
                "-XX:TieredStopAtLevel=1",
                "-XX:+UseSerialGC",
                "-XX:SharedArchiveFile=" + ROOT.resolve("service/target/program/classes.jsa"),
                "-jar",
                ROOT.resolve("service/target/program/entente-service-program.jar")
                        .toString()));
        command.addAll(List.of(arguments));
        var builder = new ProcessBuilder(command).redirectErrorStream(true).redirectOutput(said.toFile());
        builder.environment().putAll(environment);
        return builder.start();
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
        start(name, Map.of("ENTENTE_JAVA_OPTIONS", StewardClasses.options()), command);
    }

    final void start(String name, Map<String, String> environment, String... command) {
        try {
            var logs = dir.resolve("logs");
            // What a process leaves where it runs goes with the installation.
            var builder = new ProcessBuilder(command)
                    .directory(logs.toFile())
                    .redirectErrorStream(true)
                    .redirectOutput(ProcessBuilder.Redirect.appendTo(
                            logs.resolve(name + ".log").toFile()));
            builder.environment().put("LAB_PG_PORT", String.valueOf(pgPort));
            builder.environment().putAll(environment);
            processes.put(name, builder.start());
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    /**
     * Does something so many times at once, each on a thread of its own; the answers in order. A parallel stream would borrow the
     * threads that other classes of tests run on.
     */
    static <T> List<T> atOnce(int times, IntFunction<T> what) {
        var threads = Executors.newFixedThreadPool(times);
        try {
            var under = IntStream.range(0, times)
                    .mapToObj(i -> threads.submit(() -> what.apply(i)))
                    .toList();
            var answers = new ArrayList<T>();
            for (var one : under) {
                answers.add(one.get());
            }
            return answers;
        } catch (ExecutionException e) {
            throw new AssertionError(e.getCause());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        } finally {
            threads.shutdownNow();
        }
    }

    /** Time during which processes queue for a processor counts a quarter, so that a busy machine gets longer. */
    static void waitUntil(Duration patience, String what, BooleanSupplier condition) {
        var begun = System.nanoTime();
        var busy = busyNanos();
        for (var asked = System.nanoTime(); !condition.getAsBoolean(); asked = System.nanoTime()) {
            var now = System.nanoTime();
            if (now - begun - (busyNanos() - busy) * 3 / 4 > patience.toNanos()) {
                throw new AssertionError(
                        "waited " + Duration.ofNanos(now - begun).toSeconds() + " s in vain until " + what);
            }
            // A question, such as a command, leaves the processors to what is waited for: twice as long as it took.
            pause(Math.max(100, 2 * Duration.ofNanos(now - asked).toMillis()));
        }
    }

    /** For how long processes have queued for a processor (Linux pressure stall information); 0 where that is not available. */
    private static long busyNanos() {
        try {
            var some = Files.readAllLines(Path.of("/proc/pressure/cpu")).get(0);
            return 1000 * Long.parseLong(some.substring(some.lastIndexOf('=') + 1));
        } catch (IOException e) {
            return 0;
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

    /** Whether something takes connections there. */
    static boolean listens(int port) {
        try (var socket = new Socket("127.0.0.1", port)) {
            return socket.isConnected();
        } catch (IOException e) {
            return false;
        }
    }

    /**
     * A port that nothing listens at, and that nobody else is given. It is none of those that the system takes for the near ends of
     * connections: one of them could be taken before it is used.
     */
    static int freePort() {
        while (true) {
            var port = NEXT_PORT.getAndIncrement();
            try (var socket = new ServerSocket(port)) {
                return socket.getLocalPort();
            } catch (BindException e) {
                // Something else has it; the next one may be free.
            } catch (IOException e) {
                throw new IllegalStateException(e);
            }
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

    /** Everything that runs ends. */
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
