package dev.entente.core.verify;

import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;

/** What kind of thing a method shows (NIST SP 800-63B section 3.1). */
public enum Factor {
    POSSESSION,
    KNOWLEDGE,
    INHERENCE;

    /** The name in files and interfaces. */
    public String label() {
        return name().toLowerCase(Locale.ROOT);
    }

    /** The factor with this name. */
    public static Optional<Factor> labelled(String label) {
        return Arrays.stream(values()).filter(f -> f.label().equals(label)).findFirst();
    }
}
