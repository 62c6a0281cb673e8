package dev.entente.service.audit;

import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind.Retention;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;

/**
 * Something to put on record, as {@link EventCatalogue} says that it can be.
 *
 * @param retention how long kinds like this are kept
 * @param kind noun and past participle, such as {@code challenge.sent}
 * @param attempt the attempt it belongs to, or null
 * @param revision the configuration that decided, 0 if none did
 * @param data facts that name nobody: strings, integers, booleans
 * @param personal values that name somebody; kept apart and erasable
 */
public record NewEvent(
        Retention retention,
        String kind,
        UUID attempt,
        int revision,
        Map<String, Object> data,
        Map<String, String> personal) {
    /** About an attempt. */
    public static NewEvent of(String kind, UUID attempt, int revision) {
        return new NewEvent(Retention.ATTEMPT, kind, attempt, revision, Map.of(), Map.of());
    }

    /** Something an administrator did. */
    public static NewEvent administration(String kind, String administrator) {
        return new NewEvent(Retention.ADMINISTRATION, kind, null, 0, Map.of(), Map.of("administrator", administrator));
    }

    /** Something that was done for administrators, and is kept as long as their deeds. */
    static NewEvent kept(String kind) {
        return new NewEvent(Retention.ADMINISTRATION, kind, null, 0, Map.of(), Map.of());
    }

    /** Something that happened between our own parts. */
    public static NewEvent operation(String kind) {
        return new NewEvent(Retention.OPERATION, kind, null, 0, Map.of(), Map.of());
    }

    /** With a fact; null is left out. */
    public NewEvent with(String name, Object value) {
        return new NewEvent(retention, kind, attempt, revision, added(data, name, value), personal);
    }

    /** With a personal value; null is left out. */
    public NewEvent withPersonal(String name, String value) {
        return new NewEvent(retention, kind, attempt, revision, data, added(personal, name, value));
    }

    /** Under another revision. */
    public NewEvent at(int number) {
        return new NewEvent(retention, kind, attempt, number, data, personal);
    }

    /**
     * As it is written.
     *
     * @throws IllegalArgumentException if there is no such kind, or a field does not fit
     */
    NewEvent fitted() {
        var known = EventCatalogue.toWrite(kind);
        if (!known.classes().contains(retention)) {
            throw new IllegalArgumentException("the event " + kind + " isn't kept as " + retention.label());
        }
        var fitted = known.fit(data, personal);
        return new NewEvent(retention, kind, attempt, revision, fitted.data(), fitted.personal());
    }

    private static <T> Map<String, T> added(Map<String, T> map, String name, T value) {
        var more = new TreeMap<>(map);
        if (value != null) {
            more.put(name, value);
        }
        return more;
    }
}
