package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Installed as docs/operating.md has it, with roles of other names, and with what is forgotten or mixed up on the way. */
class InstallTest {
    private static final String OWNER = "harbour-owner";
    private static final String RUNNING = "harbour \"running\"";
    private static final String PASSWORD = "A-Database-Password-1";
    private final World world = World.get();

    @TempDir
    private Path folder;

    @BeforeEach
    void database() {
        world.query("CREATE ROLE \"harbour-owner\" LOGIN PASSWORD '" + PASSWORD + "'");
        world.query("CREATE ROLE \"harbour \"\"running\"\"\" LOGIN PASSWORD '" + PASSWORD + "'");
        world.query("CREATE DATABASE \"second-harbour\" OWNER \"harbour-owner\"");
    }

    @AfterEach
    void gone() {
        world.query("DROP DATABASE \"second-harbour\" WITH (FORCE)");
        world.query("DROP ROLE \"harbour-owner\"");
        world.query("DROP ROLE \"harbour \"\"running\"\"\"");
    }

    /** What a service printed that ended. */
    private record Ended(int code, String said) {}

    private Process started(String secrets, Path said, String... arguments) throws IOException {
        var environment = new HashMap<String, String>();
        environment.put("ENTENTE_DATABASE_URL", "jdbc:postgresql://127.0.0.1:" + world.pgPort + "/second-harbour");
        environment.put("ENTENTE_DATABASE_USER", RUNNING);
        environment.put("ENTENTE_DATABASE_PASSWORD", PASSWORD);
        environment.put("ENTENTE_SECRETS", folder.resolve(secrets).toString());
        environment.put("ENTENTE_PORT", String.valueOf(World.freePort()));
        environment.put("ENTENTE_PUBLICURL", "http://localhost");
        environment.put("ENTENTE_ORGANISATION", "Second Harbour");
        environment.put("ENTENTE_HELPDESK", "ask");
        environment.put("ENTENTE_MAILFROM", "no-reply@harbour.test");
        if (arguments.length > 0) {
            environment.put("ENTENTE_OWNER_USER", OWNER);
            environment.put("ENTENTE_OWNER_PASSWORD", PASSWORD);
        }
        return World.program(environment, said, arguments);
    }

    /** Runs it to its end, which it has to come to by itself. */
    private Ended ended(String secrets, String... arguments) throws Exception {
        var said = folder.resolve("said");
        var process = started(secrets, said, arguments);
        try {
            assertThat(process.waitFor(60, TimeUnit.SECONDS)).as("it ends").isTrue();
            return new Ended(process.exitValue(), Files.readString(said));
        } finally {
            process.destroyForcibly();
        }
    }

    @Test
    void a_forgotten_migration_and_keys_of_another_database_stop_the_start_with_what_to_do() throws Exception {
        var early = ended("secrets");
        assertThat(early.code()).isNotZero();
        assertThat(early.said())
                .contains("The database is at version 0", "ENTENTE_OWNER_PASSWORD", "migrate")
                .doesNotContain("\tat ");

        assertThat(ended("secrets", "migrate").said()).contains("The database is at version");
        assertThat(ended("secrets", "migrate").said()).contains("up to date");
        assertThat(world.query("SELECT string_agg(DISTINCT grantee, ', ' ORDER BY grantee) FROM"
                        + " information_schema.role_table_grants"))
                .as("rights of the world's own database")
                .doesNotContain("harbour");

        var said = folder.resolve("running");
        var service = started("secrets", said);
        try {
            World.waitUntil(Duration.ofSeconds(60), "it is ready", () -> {
                try {
                    return Files.readString(said).contains("Started EntenteService");
                } catch (IOException e) {
                    return false;
                }
            });
        } finally {
            service.destroy();
            service.waitFor(20, TimeUnit.SECONDS);
        }

        var others = ended("other-secrets");
        assertThat(others.code()).isNotZero();
        assertThat(others.said()).contains("ENTENTE_SECRETS").doesNotContain("\tat ", "Started EntenteService");
        assertThat(Files.exists(folder.resolve("other-secrets/record.key")))
                .as("no new keys are made for a database that has its own")
                .isFalse();
    }

    @Test
    void a_role_that_may_not_migrate_is_told_so_in_a_line() throws Exception {
        var builder = Map.of(
                "ENTENTE_DATABASE_URL",
                "jdbc:postgresql://127.0.0.1:" + world.pgPort + "/second-harbour",
                "ENTENTE_OWNER_USER",
                OWNER,
                "ENTENTE_OWNER_PASSWORD",
                "wrong");
        var ran = World.run(
                builder,
                "java",
                "-jar",
                World.ROOT
                        .resolve("service/target/program/entente-service-program.jar")
                        .toString(),
                "migrate");
        assertThat(ran.code()).isEqualTo(1);
        assertThat(ran.err())
                .contains("could not be migrated as harbour-owner", "password authentication failed")
                .doesNotContain("wrong", "\tat ");
    }
}
