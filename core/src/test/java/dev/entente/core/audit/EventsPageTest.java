package dev.entente.core.audit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.audit.EventKind.Type;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.json.JsonMapper;

/**
 * {@code docs/events.md} and {@code docs/schema/event.json} are made from the catalogue. With {@code -Dentente.regenerate=true} this
 * writes them anew.
 */
class EventsPageTest {
    private static final Path DOCS = Path.of("").toAbsolutePath().getParent().resolve("docs");
    private static final String KINDS = "## The kinds\n";

    private static String page(String before) {
        var text = new StringBuilder(before);
        var part = "";
        for (var kind : EventCatalogue.all()) {
            if (!kind.part().equals(part)) {
                part = kind.part();
                text.append("\n### ")
                        .append(part)
                        .append("\n\n| kind | since | severity | kept as | fields |\n|---|---|---|---|---|\n");
            }
            text.append("| `")
                    .append(kind.name())
                    .append(kind.written() ? "`" : "` (not written any more)")
                    .append(" | ")
                    .append(kind.since())
                    .append(" | ")
                    .append(kind.severity().label())
                    .append(" | ")
                    .append(kind.classes().stream()
                            .map(EventKind.Retention::label)
                            .sorted()
                            .collect(Collectors.joining(" or ")))
                    .append(" | ")
                    .append(kind.fields().entrySet().stream()
                            .map(f -> "`" + f.getKey() + "`"
                                    + (f.getValue().optional() ? "?" : "")
                                    + " "
                                    + f.getValue().type().label())
                            .collect(Collectors.joining(", ")))
                    .append(" |\n");
        }
        return text.toString();
    }

    private static Map<String, Object> type(Type type) {
        var schema = new LinkedHashMap<String, Object>();
        schema.put(
                "type",
                switch (type) {
                    case NUMBER, ORDINAL -> "integer";
                    case FLAG -> "boolean";
                    default -> "string";
                });
        if (type == Type.TIME) {
            schema.put("format", "date-time");
        }
        return schema;
    }

    private static Map<String, Object> fields(EventKind kind, boolean personal) {
        var properties = new LinkedHashMap<String, Object>();
        kind.fields().forEach((name, field) -> {
            if ((field.type() == Type.PERSONAL) == personal) {
                properties.put(name, type(field.type()));
            }
        });
        var schema = new LinkedHashMap<String, Object>();
        schema.put("type", "object");
        schema.put("additionalProperties", false);
        schema.put("properties", properties);
        return schema;
    }

    private static String schema() {
        var kinds = new ArrayList<Object>();
        for (var kind : EventCatalogue.all()) {
            var properties = new LinkedHashMap<String, Object>();
            properties.put("kind", Map.of("const", kind.name()));
            properties.put("data", fields(kind, false));
            properties.put("personal", fields(kind, true));
            kinds.add(Map.of("properties", properties));
        }
        var all = new LinkedHashMap<String, Object>();
        all.put("$schema", "https://json-schema.org/draft/2020-12/schema");
        all.put("title", "An event of the record");
        all.put("type", "object");
        all.put("required", List.of("id", "at", "kind", "data", "personal", "severity", "sentence"));
        all.put("oneOf", kinds);
        return JsonMapper.builder()
                        .enable(SerializationFeature.INDENT_OUTPUT)
                        .build()
                        .writeValueAsString(all)
                + "\n";
    }

    @Test
    void the_page_and_the_schema_are_what_the_catalogue_says() throws IOException {
        var page = DOCS.resolve("events.md");
        var schema = DOCS.resolve("schema/event.json");
        var said = Files.readString(page);
        assertThat(said).contains(KINDS);
        var wanted = page(said.substring(0, said.indexOf(KINDS) + KINDS.length()));
        if (Boolean.getBoolean("entente.regenerate")) {
            Files.writeString(page, wanted);
            Files.writeString(schema, schema());
        }
        assertThat(Files.readString(page)).isEqualTo(wanted);
        assertThat(Files.readString(schema)).isEqualTo(schema());
    }
}
