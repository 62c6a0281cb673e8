package dev.entente.service.people;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.Instant;
import java.util.UUID;
import org.hibernate.JDBCException;

/**
 * Statements for a whole batch, on the connection of the transaction: an array is handed over as an array of the database, so that
 * one statement takes in hundreds of rows.
 */
final class BatchSql {
    private final Connection connection;

    BatchSql(Connection connection) {
        this.connection = connection;
    }

    /** Reads one row. */
    interface Reader {
        void read(ResultSet row) throws SQLException;
    }

    /** @return how many rows it changed */
    int update(String sql, Object... values) {
        try (var statement = prepared(sql, values)) {
            return statement.executeUpdate();
        } catch (SQLException e) {
            throw failed(sql, e);
        }
    }

    void query(String sql, Reader each, Object... values) {
        try (var statement = prepared(sql, values);
                var rows = statement.executeQuery()) {
            while (rows.next()) {
                each.read(rows);
            }
        } catch (SQLException e) {
            throw failed(sql, e);
        }
    }

    private JDBCException failed(String sql, SQLException e) {
        return new JDBCException("a batch could not be taken in", e, sql);
    }

    private PreparedStatement prepared(String sql, Object... values) throws SQLException {
        var statement = connection.prepareStatement(sql);
        var index = 1;
        for (var value : values) {
            if (value instanceof Instant at) {
                statement.setTimestamp(index, Timestamp.from(at));
            } else if (value instanceof Object[] array) {
                statement.setArray(index, connection.createArrayOf(type(array), array));
            } else {
                statement.setObject(index, value);
            }
            index++;
        }
        return statement;
    }

    private static String type(Object[] array) {
        if (array instanceof UUID[]) {
            return "uuid";
        }
        if (array instanceof Boolean[]) {
            return "boolean";
        }
        if (array instanceof Timestamp[]) {
            return "timestamptz";
        }
        return array instanceof byte[][] ? "bytea" : "text";
    }
}
