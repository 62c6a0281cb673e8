package dev.entente.core.problem;

import com.ibm.icu.text.MessageFormat;
import com.ibm.icu.util.ULocale;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.Collection;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import org.snakeyaml.engine.v2.api.Load;
import org.snakeyaml.engine.v2.api.LoadSettings;

/**
 * Every problem that there is. Each part of the service has a file in {@code dev/entente/core/problem}, and a kind is one entry in it: its
 * status and its words stand nowhere else, unless a method or a file has to say them, and {@code docs/problems.md} follows from it.
 */
public final class ProblemCatalogue {
    private static final List<String> PARTS = List.of(
            "access",
            "approval",
            "attempt",
            "audit",
            "delivery",
            "directory",
            "helpdesk",
            "notice",
            "notification",
            "outlet",
            "overview",
            "people",
            "platform",
            "policy",
            "portal",
            "verify");

    private static final Map<String, ProblemKind> KINDS = read();

    private ProblemCatalogue() {}

    /** All of them, by part and then as they stand in its file. */
    public static Collection<ProblemKind> all() {
        return KINDS.values();
    }

    /** The one with this key. */
    public static Optional<ProblemKind> find(String key) {
        return Optional.ofNullable(KINDS.get(key));
    }

    private static Map<String, ProblemKind> read() {
        var kinds = new LinkedHashMap<String, ProblemKind>();
        for (var part : PARTS) {
            try (var file = ProblemCatalogue.class.getResourceAsStream(part + ".yaml")) {
                var settings = LoadSettings.builder().setLabel(part + ".yaml").build();
                map(new Load(settings).loadFromInputStream(file)).forEach((key, entry) -> {
                    if (kinds.put(key, kind(key, map(entry))) != null) {
                        throw new IllegalStateException("there are two problems " + key);
                    }
                });
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }
        return Collections.unmodifiableMap(kinds);
    }

    private static ProblemKind kind(String key, Map<String, Object> entry) {
        var says = new TreeMap<String, MessageFormat>();
        map(entry.get("says"))
                .forEach((language, text) ->
                        says.put(language, new MessageFormat(String.valueOf(text), ULocale.forLanguageTag(language))));
        var members = new TreeSet<String>();
        for (var member : (List<?>) entry.getOrDefault("members", List.of())) {
            members.add(String.valueOf(member));
        }
        var about = entry.get("about");
        return new ProblemKind(
                key,
                (Integer) entry.get("status"),
                Collections.unmodifiableSet(members),
                Collections.unmodifiableMap(says),
                about == null ? null : about.toString());
    }

    @SuppressWarnings("unchecked")
    private static Map<String, Object> map(Object node) {
        return (Map<String, Object>) node;
    }
}
