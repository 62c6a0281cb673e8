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

    /** The language of the text for whoever wants one, see {@link Languages#choose}. */
    public String language(String wanted) {
        return Languages.choose(texts.keySet(), wanted);
    }
}
