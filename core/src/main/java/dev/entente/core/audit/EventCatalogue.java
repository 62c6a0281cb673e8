package dev.entente.core.audit;

import com.ibm.icu.text.MessageFormat;
import com.ibm.icu.util.ULocale;
import dev.entente.core.audit.EventKind.Field;
import dev.entente.core.audit.EventKind.Retention;
import dev.entente.core.audit.EventKind.Severity;
import dev.entente.core.audit.EventKind.Type;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.util.Collection;
import java.util.Collections;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.snakeyaml.engine.v2.api.Load;
import org.snakeyaml.engine.v2.api.LoadSettings;

/**
 * Every kind of event that there is or was. Each part of the record has a file in {@code dev/entente/core/audit}, and a kind is one entry
 * in it: its fields are checked where it is written, and its words, the filters, {@code docs/events.md} and its schema follow from it.
 */
public final class EventCatalogue {
    /** In the order in which they are documented. */
    private static final List<String> PARTS = List.of(
            "attempt",
            "delivery",
            "method",
            "message",
            "policy",
            "directory",
            "people",
            "access",
            "outlet",
            "retention",
            "search",
            "attention");

    /** Fields by whose values events are sought, besides their kinds. */
    public static final List<String> SOUGHT = List.of(
            "administrator",
            "login",
            "person",
            "directory",
            "steward",
            "method",
            "policy",
            "network",
            "cause",
            "state",
            "message");

    /** Where an entry names no version, its kind has always been there. */
    private static final String FIRST = "0.1";

    private static final Map<String, EventKind> KINDS = read();

    private EventCatalogue() {}

    /** All of them, by part and then as they stand in its file. */
    public static Collection<EventKind> all() {
        return KINDS.values();
    }

    /** The kind with this name; empty for one that nobody knows any more. */
    public static Optional<EventKind> find(String name) {
        return Optional.ofNullable(KINDS.get(name));
    }

    /**
     * The kind with this name, to be written.
     *
     * @throws IllegalArgumentException if there is none, or it is not written any more
     */
    public static EventKind toWrite(String name) {
        return find(name)
                .filter(EventKind::written)
                .orElseThrow(() -> new IllegalArgumentException("there is no kind of event " + name));
    }

    private static Map<String, EventKind> read() {
        var kinds = new LinkedHashMap<String, EventKind>();
        for (var part : PARTS) {
            try (var file = EventCatalogue.class.getResourceAsStream(part + ".yaml")) {
                file(part, file, kinds);
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }
        return Collections.unmodifiableMap(kinds);
    }

    private static void file(String part, InputStream file, Map<String, EventKind> kinds) {
        var settings = LoadSettings.builder().setLabel(part + ".yaml").build();
        map(new Load(settings).loadFromInputStream(file)).forEach((name, entry) -> {
            var kind = kind(part, name, map(entry));
            if (kinds.put(name, kind) != null) {
                throw new IllegalStateException("there are two kinds of event " + name);
            }
        });
    }

    private static EventKind kind(String part, String name, Map<String, Object> entry) {
        var classes = EnumSet.noneOf(Retention.class);
        var said = entry.get("class");
        for (var one : said instanceof List<?> several ? several : List.of(String.valueOf(said))) {
            classes.add(Retention.valueOf(String.valueOf(one).toUpperCase(Locale.ROOT)));
        }
        var fields = new LinkedHashMap<String, Field>();
        map(entry.getOrDefault("fields", Map.of())).forEach((field, type) -> {
            var text = String.valueOf(type);
            var optional = text.endsWith("?");
            fields.put(field, new Field(Type.valueOf(text.replace("?", "").toUpperCase(Locale.ROOT)), optional));
        });
        var says = new TreeMap<String, MessageFormat>();
        map(entry.get("says"))
                .forEach((language, text) ->
                        says.put(language, new MessageFormat(String.valueOf(text), ULocale.forLanguageTag(language))));
        return new EventKind(
                name,
                part,
                classes,
                Severity.valueOf(
                        String.valueOf(entry.getOrDefault("severity", "info")).toUpperCase(Locale.ROOT)),
                String.valueOf(entry.getOrDefault("since", FIRST)),
                !"before".equals(entry.get("written")),
                Collections.unmodifiableMap(fields),
                Collections.unmodifiableMap(says));
    }

    @SuppressWarnings("unchecked")
    private static Map<String, Object> map(Object node) {
        return (Map<String, Object>) node;
    }
}
