package dev.entente.core.policy;

import java.util.Map;

/**
 * A text that a person reads and accepts.
 *
 * @param name as policies refer to it
 * @param title for administrators
 * @param texts by language (BCP 47), at least one
 */
public record Terms(String name, String title, Map<String, String> texts) {
    public Terms {
        texts = Map.copyOf(texts);
    }
}
