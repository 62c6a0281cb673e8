package dev.entente.core.verify;

import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;

/** How something is sent to people. */
public enum Channel {
    MAIL(false),
    /** A text message to a telephone. */
    TEXT(true),
    /** A call to a telephone, in which a voice reads. */
    VOICE(true);

    private final boolean costs;

    Channel(boolean costs) {
        this.costs = costs;
    }

    /**
     * Whether each message costs money and disturbs somebody. Before one is sent, the person shows that they know where it goes, by
     * the end of the number; so nobody can have texts sent who knows no more than a name.
     */
    public boolean costs() {
        return costs;
    }

    /** The name in files and interfaces. */
    public String label() {
        return name().toLowerCase(Locale.ROOT);
    }

    /** The channel with this name. */
    public static Optional<Channel> labelled(String label) {
        return Arrays.stream(values()).filter(c -> c.label().equals(label)).findFirst();
    }
}
