package dev.entente.service.outlet;

import java.util.Locale;

/** What an outlet does now. */
public enum OutletState {
    /** It is told what happens; after a failure it is tried again by itself. */
    FOLLOWING,
    /** An administrator made it wait. */
    PAUSED,
    /** Its receiver will not take an event, also later; an administrator has to look. */
    STOPPED;

    /** The name in files and interfaces. */
    public String label() {
        return name().toLowerCase(Locale.ROOT);
    }
}
