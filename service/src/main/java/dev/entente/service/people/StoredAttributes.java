package dev.entente.service.people;

import java.util.List;
import java.util.Map;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** Attributes of an account as they are stored: a JSON object, each value a list of texts. */
final class StoredAttributes {
    private static final JsonMapper JSON = JsonMapper.builder().build();

    private StoredAttributes() {}

    static String write(Map<String, List<String>> attributes) {
        return JSON.writeValueAsString(attributes == null ? Map.of() : attributes);
    }

    static Map<String, List<String>> read(String text) {
        return JSON.readValue(text, new TypeReference<>() {});
    }
}
