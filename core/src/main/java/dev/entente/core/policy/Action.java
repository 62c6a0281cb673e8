package dev.entente.core.policy;

import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;

/** What a person can do for themselves. */
public enum Action {
    RESET(true),
    UNLOCK(false),
    CHANGE(false),
    DETAILS(false);

    private final boolean available;

    Action(boolean available) {
        this.available = available;
    }

    /** The name in files and interfaces. */
    public String label() {
        return name().toLowerCase(Locale.ROOT);
    }

    /** Whether this version can do it; a policy that allows another is refused. */
    public boolean available() {
        return available;
    }

    /** The action with this name. */
    public static Optional<Action> labelled(String label) {
        return Arrays.stream(values()).filter(a -> a.label().equals(label)).findFirst();
    }
}
