package dev.entente.service.platform;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.Map;
import javax.sql.DataSource;
import org.springframework.stereotype.Component;

/** Which keys a database was made with, by thumbprints that tell nothing of the keys. */
@Component
class KeyThumbprints {
    private final DataSource source;

    KeyThumbprints(DataSource source) {
        this.source = source;
    }

    /** By name; empty for a database that has none yet. */
    Map<String, String> known() {
        return with(connection -> {
            var known = new HashMap<String, String>();
            try (var statement = connection.createStatement();
                    var rows = statement.executeQuery("SELECT name, thumbprint FROM key_thumbprint")) {
                while (rows.next()) {
                    known.put(rows.getString("name"), rows.getString("thumbprint"));
                }
            }
            return known;
        });
    }

    /** Whether anything was written under keys already. */
    boolean inUse() {
        return with(connection -> {
            try (var statement = connection.createStatement();
                    var rows = statement.executeQuery("SELECT EXISTS (SELECT FROM known_administrator) AS used")) {
                rows.next();
                return rows.getBoolean("used");
            }
        });
    }

    /** Remembers those that are new; gives what is known then, to which another node may have added. */
    Map<String, String> remember(Map<String, String> keys) {
        with(connection -> {
            try (var statement = connection.prepareStatement(
                    "INSERT INTO key_thumbprint (name, thumbprint) VALUES (?, ?) ON CONFLICT DO NOTHING")) {
                for (var key : keys.entrySet()) {
                    statement.setString(1, key.getKey());
                    statement.setString(2, key.getValue());
                    statement.addBatch();
                }
                statement.executeBatch();
            }
            return null;
        });
        return known();
    }

    private interface Work<T> {
        T on(Connection connection) throws SQLException;
    }

    private <T> T with(Work<T> work) {
        try (var connection = source.getConnection()) {
            return work.on(connection);
        } catch (SQLException e) {
            throw new IllegalStateException("the database does not answer: " + e.getSQLState(), e);
        }
    }
}
