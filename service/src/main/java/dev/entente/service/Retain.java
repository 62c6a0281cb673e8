package dev.entente.service;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.LocalDate;
import java.time.YearMonth;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.UUID;

/**
 * The step that takes out of the record what is not to be kept: {@code java -jar … retain}, once a day. It has a role of its own, which may
 * do nothing but call the functions that look at the holds first; the service that serves requests can remove nothing.
 */
final class Retain {
    /** Months that events are kept, by class, where the environment says nothing else. */
    private static final Map<String, Integer> MONTHS = Map.of("attempt", 24, "administration", 84, "operation", 12);

    private Retain() {}

    /** Carries out what is due; prints a line for each thing, and returns 1 if it could not. */
    static int run(Map<String, String> environment) {
        var url = environment.getOrDefault("ENTENTE_DATABASE_URL", "jdbc:postgresql://127.0.0.1:5432/entente");
        var user = environment.getOrDefault("ENTENTE_RETENTION_USER", "entente_retention");
        var kept = new LinkedHashMap<String, Integer>();
        for (var one : List.of("attempt", "administration", "operation")) {
            var name = "ENTENTE_KEEP_" + one.toUpperCase(Locale.ROOT);
            var said = environment.get(name);
            if (said != null && !said.matches("[1-9]\\d{0,3}")) {
                System.err.println("entente: " + name + " must be a number of months, such as " + MONTHS.get(one));
                return 1;
            }
            kept.put(one, said == null ? MONTHS.get(one) : Integer.valueOf(said));
        }
        try (var database =
                DriverManager.getConnection(url, user, environment.getOrDefault("ENTENTE_RETENTION_PASSWORD", ""))) {
            // What waits for a lock keeps everybody waiting behind it.
            try (var statement = database.createStatement()) {
                statement.execute("SET lock_timeout = '10s'");
            }
            var held = erase(database) + cut(database, kept);
            try (var run =
                    database.prepareStatement("INSERT INTO retention_run (at, attempt, administration, operation, held)"
                            + " VALUES (entente_time(), ?, ?, ?, ?)")) {
                var at = 1;
                for (var months : kept.values()) {
                    run.setInt(at++, months);
                }
                run.setInt(at, held);
                run.executeUpdate();
            }
            return 0;
        } catch (SQLException e) {
            System.err.println("entente: the record at " + url + " could not be looked through as " + user + ": "
                    + String.valueOf(e.getMessage()).lines().findFirst().orElse(""));
            return 1;
        }
    }

    private static int erase(Connection database) throws SQLException {
        var waiting = new ArrayList<UUID>();
        try (var statement = database.prepareStatement(
                        "SELECT id FROM erasure WHERE done_at IS NULL ORDER BY requested_at");
                var rows = statement.executeQuery()) {
            while (rows.next()) {
                waiting.add(rows.getObject(1, UUID.class));
            }
        }
        var held = 0;
        for (var one : waiting) {
            try (var statement = database.prepareStatement("SELECT erase_person(?)")) {
                statement.setObject(1, one);
                var outcome = only(statement);
                if (outcome.equals("done")) {
                    System.out.println("Erased the values of request " + one + ".");
                } else if (outcome.equals("held")) {
                    held++;
                    System.out.println("Request " + one + " waits: something of it is on hold.");
                } else if (outcome.equals("waits")) {
                    System.out.println(
                            "Request " + one + " waits for the next run: some of its events aren't sealed yet.");
                }
            }
        }
        return held;
    }

    private record Month(String kept, LocalDate first) {}

    private static int cut(Connection database, Map<String, Integer> kept) throws SQLException {
        var months = new ArrayList<Month>();
        try (var statement =
                        database.prepareStatement("SELECT class, month, entente_time()::date FROM event_months()");
                var rows = statement.executeQuery()) {
            while (rows.next()) {
                var month = new Month(rows.getString(1), rows.getObject(2, LocalDate.class));
                // A month goes once its last day is as old as that.
                if (YearMonth.from(month.first())
                        .plusMonths(kept.get(month.kept()))
                        .isBefore(YearMonth.from(rows.getObject(3, LocalDate.class)))) {
                    months.add(month);
                }
            }
        }
        var held = 0;
        for (var month : months) {
            try (var statement = database.prepareStatement("SELECT cut_month(?, ?)")) {
                statement.setString(1, month.kept());
                statement.setObject(2, month.first());
                var outcome = only(statement);
                if (outcome.equals("cut")) {
                    System.out.println(
                            "Cut off the " + month.kept() + " events of " + YearMonth.from(month.first()) + ".");
                } else if (outcome.equals("held")) {
                    held++;
                    System.out.println("The " + month.kept() + " events of " + YearMonth.from(month.first())
                            + " stay: something of them is on hold.");
                }
            }
        }
        return held;
    }

    private static String only(PreparedStatement statement) throws SQLException {
        try (var rows = statement.executeQuery()) {
            rows.next();
            return rows.getString(1);
        }
    }
}
