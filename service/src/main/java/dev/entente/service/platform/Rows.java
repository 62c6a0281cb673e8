package dev.entente.service.platform;

import java.lang.reflect.Constructor;
import java.lang.reflect.RecordComponent;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.hibernate.Session;
import org.hibernate.query.NativeQuery;
import org.hibernate.query.TupleTransformer;

/**
 * Rows of a native query as records. Columns are matched to components by name ({@code begun_at} to {@code begunAt}), so the order
 * of a SELECT means nothing, and a column without a component, or the other way round, fails at the first row.
 *
 * <p>Components may be {@code int}, {@code long}, {@code boolean} and their boxes, {@code String}, {@code UUID}, {@code Instant},
 * {@code byte[]}, an enum (the column holds its name), and {@code List<String>} for an array of texts.
 */
public final class Rows {
    private static final Map<Class<?>, Shape> SHAPES = new ConcurrentHashMap<>();

    private Rows() {}

    /**
     * @param type a record; it may be private to the class that asks
     * @return a query that reads one record a row
     */
    public static <R extends Record> NativeQuery<R> of(Session database, String sql, Class<R> type) {
        return database.createNativeQuery(sql, Object[].class)
                .setTupleTransformer(new Into<>(type, SHAPES.computeIfAbsent(type, Shape::of)));
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
    }

    private static final class Into<R> implements TupleTransformer<R> {
        private final Class<R> type;
        private final Shape shape;
        private int[] positions;

        Into(Class<R> type, Shape shape) {
            this.type = type;
            this.shape = shape;
        }

        @Override
        public R transformTuple(Object[] row, String[] names) {
            if (positions == null) {
                positions = positions(Arrays.asList(names));
            }
            var values = new Object[positions.length];
            for (var i = 0; i < values.length; i++) {
                values[i] = value(row[positions[i]], shape.types()[i]);
            }
            try {
                return type.cast(shape.constructor().newInstance(values));
            } catch (ReflectiveOperationException | IllegalArgumentException e) {
                throw new IllegalStateException("a row does not fit " + type.getSimpleName(), e);
            }
        }

        private int[] positions(List<String> names) {
            if (names.size() != shape.columns().size() || !names.containsAll(shape.columns())) {
                throw new IllegalStateException(
                        type.getSimpleName() + " has " + shape.columns() + ", the query " + names);
            }
            return shape.columns().stream().mapToInt(names::indexOf).toArray();
        }

        @SuppressWarnings({"unchecked", "rawtypes"})
        private static Object value(Object value, Class<?> type) {
            if (value instanceof Number number) {
                return type == int.class || type == Integer.class ? (Object) number.intValue() : number.longValue();
            }
            if (value instanceof String[] texts) {
                return Arrays.asList(texts);
            }
            return type.isEnum() && value instanceof String name ? Enum.valueOf((Class<Enum>) type, name) : value;
        }
    }
}
