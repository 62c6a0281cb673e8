package dev.entente.core.notice;

import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;

/** When somebody is told. */
public enum Pace {
    OFF,
    /** As soon as it is sealed. */
    AT_ONCE,
    /** Once a day, together with all else of that day. */
    DAILY;

    /** The name in files and interfaces. */
    public String label() {
        return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    /** The one with this name. */
    public static Optional<Pace> labelled(String label) {
        return Arrays.stream(values()).filter(p -> p.label().equals(label)).findFirst();
    }
}
