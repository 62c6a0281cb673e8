package dev.entente.core.verify;

import java.util.Map;

/**
 * What a person, or a device of theirs, answered to a challenge.
 *
 * @param typed as typed; empty if nothing was
 * @param parts what else was answered, by name, as the method describes it, such as what a device signed; empty if there is none
 */
public record Answer(String typed, Map<String, String> parts) {
    private static final int MOST_PARTS = 40;
    private static final int LONGEST_PART = 20_000;

    public Answer {
        typed = typed == null ? "" : typed;
        parts = parts == null ? Map.of() : Map.copyOf(parts);
        if (parts.size() > MOST_PARTS || parts.values().stream().anyMatch(v -> v.length() > LONGEST_PART)) {
            throw new IllegalArgumentException(
                    "an answer has at most " + MOST_PARTS + " parts of " + LONGEST_PART + " characters each");
        }
    }

    /** Whether nothing was answered: a page asks whether there is an answer from elsewhere. */
    public boolean isEmpty() {
        return typed.isBlank() && parts.isEmpty();
    }

    /** Something typed. */
    public static Answer typed(String typed) {
        return new Answer(typed, Map.of());
    }

    /** Shows nothing of it. */
    @Override
    public String toString() {
        return "Answer[********]";
    }
}
