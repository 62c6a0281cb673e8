package dev.entente.core.policy;

import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;

/** What a person is told of. */
public enum Occasion {
    RESET,
    UNLOCK,
    CHANGE,
    /** The ways to prove who they are were changed. */
    NEW_METHOD,
    /** Somebody tried in their name and did not get through, or a new password was not taken. */
    FAILURE,
    /** Their password ends soon. */
    EXPIRY,
    /** They can't reset their password as long as they don't set up a method. */
    INVITATION;

    /** Whether it is told before anything happens. */
    public boolean ahead() {
        return this == EXPIRY || this == INVITATION;
    }

    /** The name in files and interfaces. */
    public String label() {
        return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    /** The occasion with this name; {@code details} is how a change of methods was written at first. */
    public static Optional<Occasion> labelled(String label) {
        return label.equals(Action.DETAILS.label())
                ? Optional.of(NEW_METHOD)
                : Arrays.stream(values()).filter(o -> o.label().equals(label)).findFirst();
    }

    /** The occasion that an action is when it succeeded; empty for what no policy says anything of. */
    public static Optional<Occasion> of(Action action) {
        return switch (action) {
            case RESET -> Optional.of(RESET);
            case UNLOCK -> Optional.of(UNLOCK);
            case CHANGE -> Optional.of(CHANGE);
            case DETAILS -> Optional.of(NEW_METHOD);
            case TEMPORARY -> Optional.empty();
        };
    }
}
