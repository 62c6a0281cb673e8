package dev.entente.core.seal;

import java.util.regex.Pattern;
import tools.jackson.core.JacksonException;
import tools.jackson.core.StreamReadFeature;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.MapperFeature;
import tools.jackson.databind.cfg.CoercionAction;
import tools.jackson.databind.cfg.CoercionInputShape;
import tools.jackson.databind.exc.UnrecognizedPropertyException;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.type.LogicalType;

/**
 * Reads what others may have made, and takes it as it is written or not at all: no member twice and none that isn't known, no number as a
 * string or the other way round, no fraction for a whole number, nothing left out that has to be there as a number, and nothing behind it.
 */
public final class StrictJson {
    static final JsonMapper MAPPER = JsonMapper.builder()
            .enable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
            .enable(DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES)
            .enable(DeserializationFeature.FAIL_ON_TRAILING_TOKENS)
            .disable(DeserializationFeature.ACCEPT_FLOAT_AS_INT)
            .enable(StreamReadFeature.STRICT_DUPLICATE_DETECTION)
            .disable(MapperFeature.ALLOW_COERCION_OF_SCALARS)
            .withCoercionConfig(
                    LogicalType.Textual,
                    config -> config.setCoercion(CoercionInputShape.Integer, CoercionAction.Fail)
                            .setCoercion(CoercionInputShape.Float, CoercionAction.Fail)
                            .setCoercion(CoercionInputShape.Boolean, CoercionAction.Fail))
            .build();

    private static final Pattern TWICE = Pattern.compile("^Duplicate.*\"(\\w{1,40})\"");
    private static final Pattern NAME = Pattern.compile("\\w{1,40}");

    private StrictJson() {}

    /**
     * Reads one document.
     *
     * @throws InvalidDocument with a clause that says what is wrong with it, such as {@code “seq” has a wrong type or value}
     */
    public static <T> T read(String text, Class<T> type) {
        T document;
        try {
            document = MAPPER.readValue(text, type);
        } catch (JacksonException e) {
            throw new InvalidDocument("format", what(e), e);
        }
        if (document == null) {
            throw new InvalidDocument("format", "it is null");
        }
        return document;
    }

    private static String what(JacksonException e) {
        if (e.getCause() instanceof InvalidDocument inner) {
            return inner.getMessage();
        }
        var twice = TWICE.matcher(String.valueOf(e.getOriginalMessage()));
        if (twice.find()) {
            return "“" + twice.group(1) + "” appears twice";
        }
        if (e instanceof UnrecognizedPropertyException unknown) {
            var name = unknown.getPropertyName();
            return NAME.matcher(name).matches() ? "“" + name + "” is an unknown member" : "it has an unknown member";
        }
        var path = e.getPath();
        for (var i = path.size() - 1; i >= 0; i--) {
            var name = path.get(i).getPropertyName();
            if (name != null && NAME.matcher(name).matches()) {
                return "“" + name + "” has a wrong type or value";
            }
        }
        return "it isn't valid JSON of this form";
    }
}
