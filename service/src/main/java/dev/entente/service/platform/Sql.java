package dev.entente.service.platform;

import java.lang.reflect.Constructor;
import java.lang.reflect.RecordComponent;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.hibernate.FlushMode;
import org.hibernate.Session;
import org.hibernate.engine.spi.SessionImplementor;
import org.hibernate.query.SelectionQuery;

/**
 * Statements in PostgreSQL's own words, on the connection and in the transaction of the Hibernate session they are given. What the
 * session has not written yet is written first. They go past Hibernate's own native queries, whose interpretation of statement and
 * result was a quarter of the service's processor time.
 *
 * <p>Parameters are named ({@code :person}). Values may be null, {@code String}, {@code UUID}, {@code Instant}, numbers,
 * {@code Boolean}, {@code byte[]}, arrays of these, and collections, which stand for a list ({@code IN (:ids)}).
 *
 * @param <R> what one row is read as
 */
public final class Sql<R> {
    private static final Map<String, Named> STATEMENTS = new ConcurrentHashMap<>();
    private static final Map<Class<?>, Shape> SHAPES = new ConcurrentHashMap<>();

    private final Session database;
    private final String sql;
    private final Class<R> type;
    private final Map<String, Object> values = new HashMap<>();

    private Sql(Session database, String sql, Class<R> type) {
        this.database = database;
        this.sql = sql;
        this.type = type;
    }

    /**
     * A question whose rows are read as records. Columns are matched to components by name ({@code begun_at} to {@code begunAt}),
     * so the order of a SELECT means nothing, and a column without a component, or the other way round, fails.
     *
     * @param type a record; it may be private to the class that asks. Its components may be {@code int}, {@code long},
     *     {@code boolean} and their boxes, {@code double}, {@code String}, {@code UUID}, {@code Instant}, {@code byte[]}, an enum (the
     *     column holds its name), and {@code List<String>} for an array of texts
     */
    public static <R extends Record> Sql<R> rows(Session database, String sql, Class<R> type) {
        return new Sql<>(database, sql, type);
    }

    /** A question with one column, of one of the types that components of records may have. */
    public static <R> Sql<R> values(Session database, String sql, Class<R> type) {
        return new Sql<>(database, sql, type);
    }

    /** A statement that changes something. */
    public static Sql<Void> change(Session database, String sql) {
        return new Sql<>(database, sql, Void.class);
    }

    /**
     * A question of Hibernate's about a list, of which mostly one is asked for: it translates what says {@code IN} anew each time.
     *
     * @param hql says {@code IN (:name)} of the parameter
     */
    public static <T> SelectionQuery<T> among(
            Session database, String hql, Class<T> type, String parameter, Collection<?> values) {
        return values.size() == 1
                ? database.createSelectionQuery(hql.replace("IN (:" + parameter + ")", "= :" + parameter), type)
                        .setParameter(parameter, values.iterator().next())
                : database.createSelectionQuery(hql, type).setParameter(parameter, values);
    }

    /** Gives a parameter its value. */
    public Sql<R> setParameter(String name, Object value) {
        values.put(name, value);
        return this;
    }

    /** Every row, in the order of the question. */
    public List<R> getResultList() {
        return run(statement -> {
            var found = new ArrayList<R>();
            try (var rows = statement.executeQuery()) {
                var reader = reader(rows);
                while (rows.next()) {
                    found.add(reader.read(rows));
                }
            }
            return found;
        });
    }

    /** As {@link #getResultList}. */
    public Stream<R> getResultStream() {
        return getResultList().stream();
    }

    /** The only row; its value may be null. */
    public R getSingleResult() {
        var rows = getResultList();
        if (rows.size() != 1) {
            throw new IllegalStateException(rows.size() + " rows where one belongs");
        }
        return rows.get(0);
    }

    /** Carries out the change. @return how many rows it concerned */
    public int executeUpdate() {
        return run(PreparedStatement::executeUpdate);
    }

    private interface Work<T> {
        T of(PreparedStatement statement) throws SQLException;
    }

    private <T> T run(Work<T> work) {
        var session = database.unwrap(SessionImplementor.class);
        if (session.isTransactionInProgress() && session.getHibernateFlushMode() != FlushMode.MANUAL) {
            session.flush();
        }
        var named = STATEMENTS.computeIfAbsent(sql, Named::of);
        return session.doReturningWork(connection -> {
            try (var statement = connection.prepareStatement(named.text(values))) {
                named.set(connection, statement, values);
                return work.of(statement);
            }
        });
    }

    /**
     * A statement with its parameters taken out.
     *
     * @param parts what stands around the parameters, one more than there are of those
     */
    private record Named(List<String> parts, List<String> names) {
        static Named of(String sql) {
            var parts = new ArrayList<String>();
            var names = new ArrayList<String>();
            var start = 0;
            var quoted = false;
            for (var at = 0; at < sql.length(); at++) {
                var c = sql.charAt(at);
                if (c == '\'') {
                    quoted = !quoted;
                } else if (!quoted && c == ':' && at + 1 < sql.length()) {
                    if (sql.charAt(at + 1) == ':') {
                        // A cast.
                        at++;
                    } else if (Character.isJavaIdentifierStart(sql.charAt(at + 1))) {
                        var end = at + 1;
                        while (end < sql.length() && Character.isJavaIdentifierPart(sql.charAt(end))) {
                            end++;
                        }
                        parts.add(sql.substring(start, at));
                        names.add(sql.substring(at + 1, end));
                        start = end;
                        at = end - 1;
                    }
                }
            }
            parts.add(sql.substring(start));
            return new Named(parts, names);
        }

        String text(Map<String, Object> values) {
            if (!names.containsAll(values.keySet()) || !values.keySet().containsAll(names)) {
                throw new IllegalStateException("the statement has " + names + ", given were " + values.keySet());
            }
            var text = new StringBuilder(parts.get(0));
            for (var i = 0; i < names.size(); i++) {
                // Nothing is in an empty list, and null equals nothing.
                text.append(
                        values.get(names.get(i)) instanceof Collection<?> many
                                ? many.isEmpty()
                                        ? "NULL"
                                        : many.stream().map(v -> "?").collect(Collectors.joining(","))
                                : "?");
                text.append(parts.get(i + 1));
            }
            return text.toString();
        }

        void set(Connection connection, PreparedStatement statement, Map<String, Object> values) throws SQLException {
            var at = 1;
            for (var name : names) {
                if (values.get(name) instanceof Collection<?> many) {
                    for (var value : many) {
                        statement.setObject(at++, sent(connection, value));
                    }
                } else {
                    statement.setObject(at++, sent(connection, values.get(name)));
                }
            }
        }

        private static Object sent(Connection connection, Object value) throws SQLException {
            if (value instanceof Instant instant) {
                return instant.atOffset(ZoneOffset.UTC);
            }
            if (value instanceof Instant[] instants) {
                return connection.createArrayOf(
                        "timestamptz",
                        Arrays.stream(instants)
                                .map(i -> i == null ? null : i.atOffset(ZoneOffset.UTC))
                                .toArray());
            }
            if (value instanceof Object[] many) {
                return connection.createArrayOf(element(many.getClass().getComponentType()), many);
            }
            return value;
        }

        private static String element(Class<?> type) {
            return Optional.ofNullable(Map.<Class<?>, String>of(
                                    String.class,
                                    "text",
                                    UUID.class,
                                    "uuid",
                                    Long.class,
                                    "int8",
                                    Integer.class,
                                    "int4",
                                    Boolean.class,
                                    "bool",
                                    byte[].class,
                                    "bytea")
                            .get(type))
                    .orElseThrow(() -> new IllegalStateException("no array of " + type));
        }
    }

    private interface RowReader<R> {
        R read(ResultSet rows) throws SQLException;
    }

    private RowReader<R> reader(ResultSet rows) throws SQLException {
        if (!type.isRecord()) {
            return row -> type.cast(value(row, 1, type));
        }
        var shape = SHAPES.computeIfAbsent(type, Shape::of);
        var columns = shape.positions(rows);
        return row -> {
            var read = new Object[columns.length];
            for (var i = 0; i < read.length; i++) {
                read[i] = value(row, columns[i], shape.types()[i]);
            }
            try {
                return type.cast(shape.constructor().newInstance(read));
            } catch (ReflectiveOperationException | IllegalArgumentException e) {
                throw new IllegalStateException("a row does not fit " + type.getSimpleName(), e);
            }
        };
    }

    /** @param columns the column that each component is read from */
    private record Shape(Constructor<?> constructor, Class<?>[] types, List<String> columns) {
        static Shape of(Class<?> type) {
            var components = type.getRecordComponents();
            var types = Arrays.stream(components).map(RecordComponent::getType).toArray(Class<?>[]::new);
            try {
                var constructor = type.getDeclaredConstructor(types);
                constructor.setAccessible(true);
                return new Shape(
                        constructor,
                        types,
                        Arrays.stream(components)
                                .map(c ->
                                        c.getName().replaceAll("([A-Z])", "_$1").toLowerCase(Locale.ROOT))
                                .toList());
            } catch (NoSuchMethodException e) {
                throw new IllegalStateException(e);
            }
        }

        int[] positions(ResultSet rows) throws SQLException {
            var about = rows.getMetaData();
            var names = new ArrayList<String>();
            for (var i = 1; i <= about.getColumnCount(); i++) {
                names.add(about.getColumnLabel(i));
            }
            if (names.size() != columns.size() || !names.containsAll(columns)) {
                throw new IllegalStateException(
                        constructor.getDeclaringClass().getSimpleName() + " has " + columns + ", the query " + names);
            }
            return columns.stream().mapToInt(c -> names.indexOf(c) + 1).toArray();
        }
    }

    @SuppressWarnings({"unchecked", "rawtypes"})
    private static Object value(ResultSet rows, int column, Class<?> type) throws SQLException {
        if (type == Instant.class) {
            var time = rows.getObject(column, OffsetDateTime.class);
            return time == null ? null : time.toInstant();
        }
        if (type == LocalDate.class) {
            return rows.getObject(column, LocalDate.class);
        }
        if (type == BigDecimal.class) {
            return rows.getBigDecimal(column);
        }
        if (type == String.class) {
            return rows.getString(column);
        }
        if (type == byte[].class) {
            return rows.getBytes(column);
        }
        if (type == List.class || type.isArray()) {
            var array = rows.getArray(column);
            return array == null
                    ? null
                    : type.isArray() ? array.getArray() : Arrays.asList((String[]) array.getArray());
        }
        if (type.isEnum()) {
            var name = rows.getString(column);
            return name == null ? null : Enum.valueOf((Class<Enum>) type, name);
        }
        var value = rows.getObject(column);
        if (value instanceof Number number) {
            return type == int.class || type == Integer.class
                    ? (Object) number.intValue()
                    : type == double.class || type == Double.class ? (Object) number.doubleValue() : number.longValue();
        }
        return value;
    }
}
