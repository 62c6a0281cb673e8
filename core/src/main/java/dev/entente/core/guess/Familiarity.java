package dev.entente.core.guess;

import java.util.Locale;

/** How well somebody is known where they come from. What strangers use up elsewhere is not taken from the first two. */
public enum Familiarity {
    /** A browser on which this person proved who they are before. Nobody else holds its cookie. */
    BROWSER,
    /** A network from which this person proved who they are before, on another browser. Others may be in it, too. */
    NETWORK,
    /** Neither. */
    NONE;

    /** The name in interfaces. */
    public String label() {
        return name().toLowerCase(Locale.ROOT);
    }
}
