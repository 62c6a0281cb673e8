package dev.entente.core.delivery;

import dev.entente.core.attempt.Outcome;
import java.util.Locale;

/** Where a delivery stands. The last four are ends, one for each {@link Outcome}. */
public enum DeliveryState {
    /** No steward has it. */
    WAITING,
    /** A steward has it and has written nothing. */
    LEASED,
    /** A steward noted the version before and may write at any moment. */
    BEGUN,
    DONE,
    REFUSED,
    FAILED,
    UNKNOWN;

    /** The name in tables and interfaces. */
    public String label() {
        return name().toLowerCase(Locale.ROOT);
    }

    /** @throws IllegalArgumentException if it is none */
    public static DeliveryState labelled(String label) {
        return valueOf(label.toUpperCase(Locale.ROOT));
    }

    public static DeliveryState of(Outcome outcome) {
        return valueOf(outcome.name());
    }

    public boolean ended() {
        return compareTo(DONE) >= 0;
    }

    /** How it ended; nothing before that. */
    public Outcome outcome() {
        return Outcome.valueOf(name());
    }
}
