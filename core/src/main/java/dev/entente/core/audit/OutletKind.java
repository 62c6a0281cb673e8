package dev.entente.core.audit;

import java.util.Arrays;
import java.util.Optional;

/** Whom an outlet speaks with. */
public enum OutletKind {
    /** A collector that takes syslog messages (RFC 5424) over TLS (RFC 5425), at {@code host:port}. */
    SYSLOG("syslog"),
    /** A web service that takes events as JSON, signed (RFC 9421), at an address. */
    WEBHOOK("webhook"),
    /** A web service that takes security event tokens (RFC 8417), pushed to it one by one (RFC 8935), at an address. */
    SECURITY_EVENTS("security-events"),
    /** Whoever fetches security event tokens here (RFC 8936). */
    SECURITY_EVENTS_FETCHED("security-events-fetched"),
    /** A file on the service's own machine, an event a line, for collectors there. */
    FILE("file");

    private final String label;

    OutletKind(String label) {
        this.label = label;
    }

    /** The name in files and interfaces. */
    public String label() {
        return label;
    }

    /** The one with this name. */
    public static Optional<OutletKind> labelled(String label) {
        return Arrays.stream(values()).filter(kind -> kind.label.equals(label)).findFirst();
    }
}
