package dev.entente.e2e;

import com.networknt.schema.InputFormat;
import com.networknt.schema.JsonMetaSchema;
import com.networknt.schema.JsonSchemaFactory;
import com.networknt.schema.NonValidationKeyword;
import com.networknt.schema.SchemaLocation;
import com.networknt.schema.SpecVersion.VersionFlag;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.StreamSupport;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * What the description of the API says, for comparing it with what the service was asked and what it answered, no matter who asked: pages, the
 * command line, clients of the tests.
 */
final class Described {
    private static final String HERE = "https://entente.test/api";
    private static final String PROBLEM = "urn:entente:problem:";

    private final JsonNode description;
    private final List<Call> calls;
    private final JsonSchemaFactory schemas;

    /** @param pointer of the call in the description */
    private record Call(String method, Pattern path, int literal, String pointer, JsonNode says) {}

    private static final class Once {
        private static final Described READ = read();
    }

    static Described api() {
        return Once.READ;
    }

    private static Described read() {
        try {
            return new Described(
                    ApiPerson.JSON.readTree(Files.readString(Installation.ROOT.resolve("console/openapi.json"))));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    Described(JsonNode description) {
        this.description = description;
        calls = description.get("paths").properties().stream()
                .flatMap(path -> path.getValue().properties().stream()
                        .map(call -> new Call(
                                call.getKey().toUpperCase(Locale.ROOT),
                                Pattern.compile(path.getKey().replaceAll("\\{[^}]+}", "[^/]+")),
                                path.getKey().replaceAll("\\{[^}]+}", "").length(),
                                "/paths/" + path.getKey().replace("/", "~1") + "/" + call.getKey(),
                                call.getValue())))
                .sorted(Comparator.comparingInt(Call::literal).reversed())
                .toList();
        var strict = (ObjectNode) description.deepCopy();
        // What isn't described isn't there, but for members of problems.
        strict.at("/components/schemas").properties().forEach(schema -> {
            if (schema.getValue().has("properties") && !schema.getValue().has("additionalProperties")) {
                ((ObjectNode) schema.getValue()).put("additionalProperties", false);
            }
        });
        // The tests have a method of their own.
        strict.findValues("enum").forEach(values -> {
            if (values.valueStream().anyMatch(value -> value.asString("").equals("known-device"))) {
                ((ArrayNode) values).add("trial-stamp");
            }
        });
        schemas = JsonSchemaFactory.builder(JsonSchemaFactory.getInstance(VersionFlag.V202012))
                .metaSchema(JsonMetaSchema.builder(JsonMetaSchema.getV202012())
                        .unknownKeywordFactory((keyword, context) -> new NonValidationKeyword(keyword))
                        .build())
                .schemaLoaders(from -> from.schemas(Map.of(HERE, strict.toString())))
                .build();
    }

    /** What differs from the description in one kept call; nothing if all agrees. */
    List<String> faults(JsonNode kept) {
        var path = kept.get("path").stringValue();
        var method = kept.get("method").stringValue();
        var status = kept.get("status").intValue();
        var call = calls.stream()
                .filter(one ->
                        one.path().matcher(path).matches() && one.method().equals(method))
                .findFirst();
        var found = status < 400 ? success(call, kept, status) : problem(call, kept, status);
        return found.stream()
                .map(fault ->
                        method + " " + call.map(one -> one.path().pattern()).orElse(path) + " " + status + ": " + fault)
                .toList();
    }

    private List<String> success(Optional<Call> described, JsonNode kept, int status) {
        if (described.isEmpty()) {
            return List.of("isn't described");
        }
        var call = described.get();
        var faults = new ArrayList<String>();
        var answer = call.says().at("/responses/" + status);
        if (answer.isMissingNode()) {
            return List.of("the status isn't described");
        }
        var type = kept.get("type").stringValue();
        var content = answer.path("content");
        if (!type.isEmpty() && !content.has(type)) {
            faults.add("the content " + type + " isn't described");
        } else if (type.isEmpty() && !content.isEmpty() && status != 304) {
            faults.add("came without content");
        } else if (type.endsWith("json") && !kept.get("long").booleanValue()) {
            faults.addAll(invalid(
                    call.pointer() + "/responses/" + status + "/content/" + type.replace("/", "~1") + "/schema",
                    kept.get("said"),
                    "answered"));
        }
        var sent = kept.get("sent");
        var body = call.says().path("requestBody");
        if (sent == null || sent.isNull() || sent.isObject() && sent.isEmpty() && body.isMissingNode()) {
            if (body.path("required").asBoolean(false) && body.at("/content").has("application/json")) {
                faults.add("a body is required, and came without");
            }
        } else if (body.isMissingNode()) {
            faults.add("no body is described");
        } else {
            faults.addAll(invalid(call.pointer() + "/requestBody/content/application~1json/schema", sent, "sent"));
        }
        var parameters = StreamSupport.stream(call.says().path("parameters").spliterator(), false)
                .toList();
        kept.get("query").forEach(name -> {
            if (parameters.stream().noneMatch(p -> p.get("name").equals(name))) {
                faults.add("the parameter " + name + " isn't described");
            }
        });
        if (!kept.get("act").booleanValue()
                && parameters.stream()
                        .anyMatch(p -> p.get("name").stringValue().equals("Entente-Act")
                                && p.get("required").booleanValue())) {
            faults.add("was not signed");
        }
        return faults;
    }

    private List<String> problem(Optional<Call> described, JsonNode kept, int status) {
        var said = kept.get("said");
        if (!kept.get("type").stringValue().equals("application/problem+json")
                || said == null
                || !said.path("type").asString("").startsWith(PROBLEM)) {
            return List.of("is no problem document");
        }
        var faults = new ArrayList<>(invalid("/components/schemas/ProblemDocument", said, "answered"));
        var type = said.get("type").stringValue().substring(PROBLEM.length());
        var own = described
                .map(call -> types(call.says().at("/responses/" + status)))
                .orElse(Set.of());
        var any = description.at("/components/responses").properties().stream()
                .filter(one -> described.isEmpty()
                        || described
                                .get()
                                .says()
                                .at("/responses/default/$ref")
                                .asString("")
                                .equals("#/components/responses/" + one.getKey()))
                .flatMap(one -> types(one.getValue()).stream())
                .collect(Collectors.toSet());
        if (!own.contains(type) && !any.contains(type)) {
            faults.add("the problem " + type + " isn't described");
        }
        return faults;
    }

    private static Set<String> types(JsonNode answer) {
        return Set.copyOf(Arrays.asList(answer.path("description").asString("").split(", ")));
    }

    private List<String> invalid(String pointer, JsonNode value, String what) {
        return schemas
                .getSchema(SchemaLocation.of(HERE + "#" + pointer))
                .validate(String.valueOf(value), InputFormat.JSON)
                .stream()
                .map(fault -> what + " " + fault.getMessage().replaceAll("\\[[0-9]+]", "[]"))
                .toList();
    }
}
