package dev.entente.service;

import java.util.Map;
import org.flywaydb.core.Flyway;
import org.flywaydb.core.api.FlywayException;

/**
 * The step that changes the database: {@code java -jar … migrate}. It alone has the owner's password; the service that runs
 * afterwards has not.
 */
final class Migrate {
    private Migrate() {}

    /** Runs what is missing; prints one line. */
    static int run(Map<String, String> environment) {
        var url = environment.getOrDefault("ENTENTE_DATABASE_URL", "jdbc:postgresql://127.0.0.1:5432/entente");
        var owner = environment.getOrDefault("ENTENTE_OWNER_USER", "entente_owner");
        var running = environment.getOrDefault("ENTENTE_DATABASE_USER", "entente_running");
        // Rights go to no role that was not named: without one they go to the owner, who has them.
        var retention = environment.getOrDefault("ENTENTE_RETENTION_USER", owner);
        try {
            var done = Flyway.configure()
                    .dataSource(url, owner, environment.getOrDefault("ENTENTE_OWNER_PASSWORD", ""))
                    .locations("classpath:db/migration")
                    .placeholders(Map.of("runningRole", quoted(running), "retentionRole", quoted(retention)))
                    .load()
                    .migrate();
            System.out.println(
                    done.migrationsExecuted == 0
                            ? "The database is up to date."
                            : "The database is at version " + done.targetSchemaVersion + " now.");
            return 0;
        } catch (FlywayException e) {
            System.err.println(
                    "entente: the database at " + url + " could not be migrated as " + owner + ": " + first(e));
            return 1;
        }
    }

    /** Roles may bear any name. */
    private static String quoted(String role) {
        return "\"" + role.replace("\"", "\"\"") + "\"";
    }

    private static String first(Throwable e) {
        Throwable inner = e;
        while (inner.getCause() != null) {
            inner = inner.getCause();
        }
        return String.valueOf(inner.getMessage()).lines().findFirst().orElse("");
    }
}
