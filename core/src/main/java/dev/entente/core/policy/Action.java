package dev.entente.core.policy;

import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;

/** What can be done about a password: by the person, and one thing by an administrator. */
public enum Action {
    RESET(true),
    UNLOCK(true),
    CHANGE(true),
    DETAILS(true),
    /** Set by an administrator; no policy allows it. */
    TEMPORARY(false);

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

    /** Whether somebody has a new password after it. */
    public boolean setsPassword() {
        return this == RESET || this == CHANGE || this == TEMPORARY;
    }

    /** The action with this name. */
    public static Optional<Action> labelled(String label) {
        return Arrays.stream(values()).filter(a -> a.label().equals(label)).findFirst();
    }
}
