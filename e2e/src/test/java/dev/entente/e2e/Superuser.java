package dev.entente.e2e;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Properties;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;

/** What tests ask a database, or do to it, as its superuser. Connections are kept: to start a program for each question costs more. */
final class Superuser {
    private final Path password;
    private final int port;
    private final Queue<Connection> kept = new ConcurrentLinkedQueue<>();

    Superuser(Path password, int port) {
        this.password = password;
        this.port = port;
    }

    /**
     * Carries out statements.
     *
     * @return every row on a line, its values between {@code |}, as PostgreSQL writes them; null as nothing
     */
    String ask(String sql) {
        for (var connection = kept.poll(); connection != null; connection = kept.poll()) {
            if (lives(connection)) {
                return ask(connection, sql);
            }
        }
        return ask(connect(), sql);
    }

    /** Carries out statements, such as ones that take a lock, and does something while their session lasts. */
    void during(String sql, Runnable meanwhile) {
        try (var connection = connect();
                var statement = connection.createStatement()) {
            statement.execute(sql);
            meanwhile.run();
        } catch (SQLException e) {
            throw new AssertionError(sql + ": " + e.getMessage(), e);
        }
    }

    /** The database may have been started anew. */
    private static boolean lives(Connection connection) {
        try (var statement = connection.createStatement()) {
            // Temporary tables and settings of the question before.
            statement.execute("DISCARD ALL");
            return true;
        } catch (SQLException e) {
            close(connection);
            return false;
        }
    }

    private String ask(Connection connection, String sql) {
        try (var statement = connection.createStatement()) {
            statement.setEscapeProcessing(false);
            var lines = new ArrayList<String>();
            var rows = statement.execute(sql);
            while (rows || statement.getUpdateCount() >= 0) {
                if (rows) {
                    read(statement, lines);
                }
                rows = statement.getMoreResults();
            }
            kept.add(connection);
            return String.join("\n", lines).strip();
        } catch (SQLException e) {
            close(connection);
            throw new AssertionError(sql + ": " + e.getMessage(), e);
        }
    }

    private static void close(Connection connection) {
        try {
            connection.close();
        } catch (SQLException e) {
            // It is gone already.
        }
    }

    private static void read(Statement statement, ArrayList<String> lines) throws SQLException {
        try (ResultSet rows = statement.getResultSet()) {
            while (rows.next()) {
                var values = new ArrayList<String>();
                for (var column = 1; column <= rows.getMetaData().getColumnCount(); column++) {
                    var value = rows.getString(column);
                    values.add(value == null ? "" : value);
                }
                lines.add(String.join("|", values));
            }
        }
    }

    private Connection connect() {
        try {
            var settings = new Properties();
            settings.setProperty("user", "postgres");
            settings.setProperty("password", Files.readString(password).strip());
            // As text, which is what comes out of PostgreSQL's own client.
            settings.setProperty("binaryTransfer", "false");
            return DriverManager.getConnection("jdbc:postgresql://127.0.0.1:" + port + "/entente", settings);
        } catch (IOException | SQLException e) {
            throw new AssertionError("the database cannot be asked: " + e.getMessage(), e);
        }
    }
}
