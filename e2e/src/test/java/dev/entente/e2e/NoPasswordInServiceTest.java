package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.security.SecureRandom;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.jar.JarFile;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * Reading everything the service has does not yield a password: its memory, its database with the write-ahead log, and every
 * log, while a delivery is under way and after it. The same search first finds what was planted in each of those places.
 */
class NoPasswordInServiceTest {
    private static final List<String> OPENERS = List.of("ECDH-ES+A256KW", "javax/crypto/KeyAgreement");

    private final World world = World.get();

    @Test
    void passwords_are_nowhere_to_be_found_during_a_delivery_and_after_it(@TempDir Path folder) throws IOException {
        var crew = world.crew();
        var password = random();
        var person = new Person(world.browser().page(390, 844), world.url);
        var before = world.mailbox.to(crew.address()).size();
        person.identify(crew.shore());
        person.typeCode(world.mailbox.nextCode(crew.address(), before));
        // The sample is taken while the sealed password waits in the database for a steward that stands still.
        world.signal("steward-fleet", "STOP");
        try {
            person.choose(password);
            person.heading("Setting your new password").waitFor();
            World.waitUntil(
                    Duration.ofSeconds(10),
                    "the sealed password is stored",
                    () -> !world.query("SELECT count(*) FROM sealed_password").equals("0"));
            assertClean(folder.resolve("during"), password);
        } finally {
            world.signal("steward-fleet", "CONT");
        }
        assertThat(person.outcome()).isEqualTo("Your new password works");
        assertThat(world.binds("fleet", crew.fleet(), password)).isTrue();
        assertClean(folder.resolve("after"), password);
        person.page().close();
    }

    private void assertClean(Path folder, String password) throws IOException {
        Files.createDirectories(folder);
        var places = sample(folder);
        plant();
        for (var place : places.entrySet()) {
            assertThat(new Search(World.MARKER).isIn(place.getValue()))
                    .as("the planted marker is found in " + place.getKey())
                    .isTrue();
            assertThat(new Search(password).in(place.getValue()))
                    .as("the password is found in " + place.getKey())
                    .isEmpty();
        }
        World.run(Map.of(), "rm", "-rf", folder.toString()).expect(0);
    }

    /** Copies of memory; database and logs are searched where they are. */
    private Map<String, List<Path>> sample(Path folder) throws IOException {
        plant();
        var pid = String.valueOf(world.pid("service"));
        var heap = folder.resolve("heap.hprof");
        World.run(Map.of(), "jcmd", pid, "GC.heap_dump", "-all", heap.toString())
                .expect(0);
        World.run(Map.of(), "gcore", "-o", folder.resolve("core").toString(), pid)
                .expect(0);
        return Map.of(
                "the heap dump", List.of(heap),
                "the core dump", List.of(folder.resolve("core." + pid)),
                "the database files", files(world.dir.resolve("lab/postgres/data/base")),
                "the write-ahead log", files(world.dir.resolve("lab/postgres/data/pg_wal")),
                "the logs", files(world.dir.resolve("logs")));
    }

    /** The marker stands in the service's memory from its start; here it goes into database, write-ahead log and logs. */
    private void plant() throws IOException {
        world.query("CREATE TABLE IF NOT EXISTS planted (text text); INSERT INTO planted VALUES ('" + World.MARKER
                + "'); CHECKPOINT; INSERT INTO planted VALUES ('" + World.MARKER + "')");
        Files.writeString(world.dir.resolve("logs/planted.log"), World.MARKER + "\n", StandardOpenOption.CREATE);
    }

    private static List<Path> files(Path folder) throws IOException {
        try (var found = Files.walk(folder)) {
            return found.filter(Files::isRegularFile).toList();
        }
    }

    private static String random() {
        var random = new SecureRandom();
        var letters = "abcdefghjkmnpqrstuvwxyzABCDEFGHJKLMNPQRSTUVWXYZ23456789";
        var password = new StringBuilder("a7Q");
        for (var i = 0; i < 21; i++) {
            password.append(letters.charAt(random.nextInt(letters.length())));
        }
        return password.toString();
    }

    @Test
    void the_search_finds_every_form(@TempDir Path folder) throws IOException {
        var search = new Search("Example-Pass wörd 42");
        for (var form : search.forms().entrySet()) {
            // Wherever it begins: not every byte of a file is looked at.
            for (var at = 99_000; at < 99_005; at++) {
                var file = folder.resolve("form");
                var bytes = new byte[100_000 + form.getValue().length];
                System.arraycopy(form.getValue(), 0, bytes, at, form.getValue().length);
                Files.write(file, bytes);
                assertThat(search.in(List.of(file)))
                        .as(form.getKey() + " at " + at)
                        .contains(file + " at " + at);
            }
        }
        Files.write(folder.resolve("form"), "nothing to see".getBytes(StandardCharsets.UTF_8));
        assertThat(search.in(List.of(folder.resolve("form")))).isEmpty();
    }

    @Test
    void no_class_that_could_open_a_seal_is_on_the_services_class_path() throws IOException {
        var service = openers(World.ROOT.resolve("service/target/entente-service-program.jar"));
        // What looks at a seal from outside names the algorithm; the libraries behind Argon2 and signatures bring
        // primitives of their own, and the web server and the database driver speak TLS. None of them reads JWE.
        assertThat(service)
                .filteredOn(name -> !name.startsWith("org/bouncycastle/") && !name.startsWith("org/conscrypt/"))
                .containsExactly("dev/entente/core/seal/Seal");
        assertThat(service)
                .noneMatch(name -> name.startsWith("com/nimbusds/") || name.startsWith("dev/entente/steward/"));

        var steward = new TreeSet<String>();
        try (var jars = Files.list(World.ROOT.resolve("steward/target/lib"))) {
            for (var jar : jars.toList()) {
                steward.addAll(openers(jar));
            }
        }
        assertThat(steward)
                .as("the search can find what it looks for")
                .anyMatch(name -> name.startsWith("com/nimbusds/"));
    }

    /** Classes that hold one of the words that whoever opens a seal needs, in a jar and the jars inside it. */
    private static TreeSet<String> openers(Path jar) throws IOException {
        var found = new TreeSet<String>();
        try (var file = new JarFile(jar.toFile())) {
            for (var entry : Collections.list(file.entries())) {
                if (entry.getName().endsWith(".jar")) {
                    var inner = Files.createTempFile("inner", ".jar");
                    try (var in = file.getInputStream(entry)) {
                        Files.write(inner, in.readAllBytes());
                    }
                    found.addAll(openers(inner));
                    Files.delete(inner);
                } else if (entry.getName().endsWith(".class")) {
                    try (var in = file.getInputStream(entry)) {
                        var text = new String(in.readAllBytes(), StandardCharsets.ISO_8859_1);
                        if (OPENERS.stream().anyMatch(text::contains)) {
                            found.add(entry.getName()
                                    .replace("BOOT-INF/classes/", "")
                                    .replaceFirst("META-INF/versions/\\d+/", "")
                                    .replace(".class", ""));
                        }
                    }
                }
            }
        } catch (UncheckedIOException e) {
            throw e.getCause();
        }
        return found;
    }

    @Test
    void secrets_of_the_running_demo_are_in_no_log() throws IOException {
        var secrets = new ArrayList<String>(List.of(World.PASSWORD, World.OLD_PASSWORD, "Svc-Quiet-Water-7"));
        secrets.add(Files.readString(world.dir.resolve("lab/postgres/running.password"))
                .strip());
        secrets.add(Files.readString(world.dir.resolve("secrets/lookup.key")).strip());
        for (var log : files(world.dir.resolve("logs"))) {
            assertThat(Files.readString(log)).as(log.toString()).doesNotContain(secrets.toArray(String[]::new));
        }
    }
}
