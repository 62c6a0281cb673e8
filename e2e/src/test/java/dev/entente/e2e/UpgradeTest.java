package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * The record of a service of before, whose leaves seal no reference and whose cuts and erasures name nothing: a database and keys that
 * such a service left, in {@code record-of-before}.
 */
class UpgradeTest {
    private static final String KEY = "29CjC-8Ax7nlzl6dRTAFWRdAa3Az3L6RGu4gi2DW8A4";
    private static final String PASSWORD = "Harbour-Lights-At-Dusk-7";
    private static final Path LEFT = Installation.ROOT.resolve("e2e/src/test/resources/record-of-before");
    private static final Duration SOON = Duration.ofSeconds(60);
    private final ServiceWorld world = ServiceWorld.get();
    private final int port = Installation.freePort();

    @TempDir
    Path folder;

    @BeforeEach
    void restore() throws IOException {
        world.query("CREATE DATABASE before OWNER entente_owner");
        piped("gunzip -c " + LEFT.resolve("database.sql.gz"));
        Files.createDirectories(folder.resolve("secrets"));
        try (var secrets = Files.list(LEFT.resolve("secrets"))) {
            for (var secret : secrets.toList()) {
                Files.copy(secret, folder.resolve("secrets").resolve(secret.getFileName()));
            }
        }
        Installation.run(Map.of(), "sh", "-c", "chmod 600 " + folder.resolve("secrets") + "/*")
                .expect(0);
    }

    @AfterEach
    void gone() {
        world.query("DROP DATABASE before WITH (FORCE)");
    }

    private String password(String role) throws IOException {
        return Files.readString(world.dir.resolve("lab/postgres/" + role + ".password"))
                .strip();
    }

    /** What a shell command prints, run by the superuser. */
    private String piped(String printing) throws IOException {
        return Installation.run(
                        Map.of("PGPASSWORD", password("postgres")),
                        "sh",
                        "-c",
                        printing + " | psql -qtAX -v ON_ERROR_STOP=1 -h 127.0.0.1 -U postgres -p " + world.pgPort
                                + " before")
                .expect(0)
                .out();
    }

    private String sql(String statements) throws IOException {
        return piped("cat " + Files.writeString(folder.resolve("statements"), statements));
    }

    private Process program(String user, String role, Path said, String... arguments) throws IOException {
        var environment = new HashMap<String, String>();
        environment.put("ENTENTE_DATABASE_URL", "jdbc:postgresql://127.0.0.1:" + world.pgPort + "/before");
        environment.put("ENTENTE_" + user + "_PASSWORD", password(role));
        environment.put("ENTENTE_RETENTION_USER", "entente_retention");
        environment.put("ENTENTE_SECRETS", folder.resolve("secrets").toString());
        environment.put("ENTENTE_PORT", String.valueOf(port));
        environment.put("ENTENTE_PUBLICURL", "http://localhost:" + port);
        environment.put("ENTENTE_ORGANISATION", "Skerry Line");
        environment.put("ENTENTE_HELPDESK", "ask");
        environment.put("ENTENTE_MAILFROM", "no-reply@skerry.test");
        return Installation.program(environment, said, arguments);
    }

    private Installation.Ran entente(String input, String... arguments) {
        var command = new ArrayList<>(List.of("--server", "http://localhost:" + port));
        command.addAll(List.of(arguments));
        return Installation.ententeOf(folder.resolve("home"), input, command.toArray(String[]::new));
    }

    @Test
    void events_of_before_verify_as_they_were_and_what_had_gone_is_told_once() throws Exception {
        // As the version of before did it, three years later: a month of one class cut off, and a value erased.
        sql("""
                CREATE OR REPLACE FUNCTION entente_time() RETURNS timestamptz LANGUAGE sql VOLATILE AS
                    $$SELECT clock_timestamp() + interval '3 years'$$;
                SELECT cut_month('operation', '2026-12-01');
                CREATE OR REPLACE FUNCTION entente_time() RETURNS timestamptz LANGUAGE sql VOLATILE PARALLEL SAFE AS
                    'SELECT clock_timestamp()';
                DELETE FROM event_personal WHERE (event, name) IN (SELECT event, 'network' FROM event_leaf WHERE seq = 2);
                """);
        var said = folder.resolve("said");
        var migrating = program("OWNER", "owner", said, "migrate");
        assertThat(migrating.waitFor(SOON.toSeconds(), TimeUnit.SECONDS)).isTrue();
        assertThat(migrating.exitValue()).as(Files.readString(said)).isZero();
        var service = program("DATABASE", "running", said);
        try {
            Installation.waitUntil(SOON, "it is ready", () -> holds(said, "Started EntenteService"));
            entente(PASSWORD + "\n", "sign-in", "--login", "ingeborg").expect(0);
            entente("", "stop", "method:push", "--reason", "after the upgrade").expect(0);
            Installation.waitUntil(
                    SOON,
                    "everything is sealed",
                    () -> asked("echo 'SELECT count(*) FROM event_pending'").equals("0"));
            verifies();
        } finally {
            service.destroy();
            service.waitFor(20, TimeUnit.SECONDS);
        }
    }

    private void verifies() throws IOException {
        var kept = LEFT.resolve("kept").toString();
        assertThat(entente("", "event", "verify", "--key", KEY, "--kept", kept)
                        .expect(0)
                        .out())
                .contains("Cut off (in sealed lists): 4.", "Values erased (in sealed lists): 1.");
        var file = folder.resolve("record.jsonl");
        entente("", "event", "export", file.toString()).expect(0);
        entente("", "event", "verify", file.toString(), "--key", KEY, "--kept", kept)
                .expect(0);
        var events = Files.readAllLines(file).stream()
                .filter(line -> line.startsWith("{\"event\""))
                .toList();
        assertThat(events.get(0)).contains("\"v\":1", "administrator.added");
        assertThat(events.stream().filter(line -> line.contains("after the upgrade")))
                .singleElement()
                .asString()
                .contains("\"v\":2", "\"kept\":\"administration\"");
        assertThat(events.stream().filter(line -> line.contains("record.gaps"))).hasSize(1);
        // Each has a proof that holds on its own, also for another program.
        for (var seq : List.of(0, 3, events.size() - 1)) {
            var proof = Files.writeString(
                    folder.resolve("proof"),
                    entente("", "event", "prove", "--event", String.valueOf(seq))
                            .expect(0)
                            .out());
            entente("", "event", "check", proof.toString(), "--key", KEY).expect(0);
            assertThat(Installation.run(
                                    Map.of(),
                                    "python3",
                                    Installation.ROOT
                                            .resolve("e2e/src/test/resources/check_proofs.py")
                                            .toString(),
                                    proof.toString())
                            .out())
                    .isEqualTo("holds\n");
        }
    }

    private static boolean holds(Path file, String text) {
        try {
            return Files.readString(file).contains(text);
        } catch (IOException e) {
            return false;
        }
    }

    private String asked(String printing) {
        try {
            return piped(printing).strip();
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }
}
