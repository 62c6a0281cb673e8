package dev.entente.service.outlet;

import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind.Severity;
import dev.entente.core.audit.OutletKind;
import dev.entente.service.platform.KeyRing;
import dev.entente.wire.RecordApi.Event;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/**
 * One outlet as it stands.
 *
 * @param goesTo its address, as {@link OutletKind} describes it; null where events are fetched
 * @param authority PEM of the authority whose certificates are believed besides those of the system; null for none
 * @param audience of signed tokens; null for the address
 * @param credential that the receiver asks for, or that we ask for; encrypted, null for none
 * @param kinds of events that are told; with {@code parts} empty as well: all
 * @param severity the least that is told
 * @param personal whether values that name somebody are told
 * @param position of the next event
 * @param failures in a row
 * @param lease which turn of a node this is
 */
record Outlet(
        String name,
        OutletKind kind,
        String goesTo,
        String authority,
        String audience,
        byte[] credential,
        List<String> kinds,
        List<String> parts,
        Severity severity,
        boolean personal,
        OutletState state,
        long position,
        int failures,
        String why,
        Instant since,
        Instant sentAt,
        long lease) {

    /** What its credential is encrypted for. */
    static String about(String name) {
        return "outlet " + name;
    }

    /** The token itself; null if there is none. */
    String credential(KeyRing keys) {
        return credential == null ? null : keys.decrypt(about(name), credential);
    }

    /** Whether it is to be told of this one. */
    boolean wants(Event event) {
        return EventCatalogue.find(event.kind())
                .filter(kind -> kind.severity().compareTo(severity) >= 0)
                .filter(kind -> kinds.isEmpty() && parts.isEmpty()
                        || kinds.contains(kind.name())
                        || parts.contains(kind.part()))
                .isPresent();
    }

    /** What it may be told of an event: without the values that name somebody, unless it is to have them. */
    Event told(Event event) {
        return personal
                ? event
                : new Event(
                        event.seq(),
                        event.id(),
                        event.at(),
                        event.kind(),
                        event.reference(),
                        event.ordinal(),
                        event.revision(),
                        event.data(),
                        Map.of(),
                        event.severity(),
                        EventCatalogue.find(event.kind())
                                .map(kind -> kind.words(event.data(), withheld(event), "en"))
                                .orElse(event.kind()));
    }

    private static Map<String, String> withheld(Event event) {
        var names = new HashMap<>(event.personal());
        names.replaceAll((name, value) -> "…");
        return names;
    }
}
