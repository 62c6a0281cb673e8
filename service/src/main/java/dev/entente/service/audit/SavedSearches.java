package dev.entente.service.audit;

import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.RecordApi.SavedSearch;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** Searches that administrators keep under a name, for all of them. */
@Component
@Transactional
class SavedSearches {
    private static final int MOST = 100;
    private static final int LONGEST_NAME = 60;
    private static final int LONGEST_VALUE = 200;

    private final Session database;
    private final EventLog events;
    private final JsonMapper json;
    private final InstantSource clock;

    SavedSearches(Session database, EventLog events, JsonMapper json, InstantSource clock) {
        this.database = database;
        this.events = events;
        this.json = json;
        this.clock = clock;
    }

    private record Row(String name, String filters, String savedBy, Instant savedAt) {}

    /** By name. */
    @Transactional(readOnly = true)
    public List<SavedSearch> all() {
        return Sql.rows(
                        database,
                        "SELECT name, cast(filters AS text) AS filters, saved_by, saved_at FROM saved_search ORDER BY lower(name)",
                        Row.class)
                .getResultStream()
                .map(row -> new SavedSearch(
                        row.name(),
                        json.readValue(row.filters(), new TypeReference<TreeMap<String, String>>() {}),
                        row.savedBy(),
                        row.savedAt()))
                .toList();
    }

    /**
     * Keeps one, in the place of another with its name.
     *
     * @param known the names of filters
     * @throws Problem 422 if the name is none, nothing is looked for, or a filter is unknown; 409 if there are too many
     */
    public SavedSearch save(String name, Map<String, String> filters, Set<String> known, String administrator) {
        if (name.isBlank() || name.length() > LONGEST_NAME) {
            throw Problem.of("search-name").with("longestName", LONGEST_NAME);
        }
        var wanted = new TreeMap<String, String>();
        (filters == null ? Map.<String, String>of() : filters).forEach((filter, value) -> {
            if (!known.contains(filter)) {
                throw Problem.of("filter-unknown").with("filter", filter);
            }
            if (value != null && !value.isBlank()) {
                if (value.length() > LONGEST_VALUE) {
                    throw Problem.of("filter-too-long").with("longestValue", LONGEST_VALUE);
                }
                wanted.put(filter, value.strip());
            }
        });
        if (wanted.isEmpty()) {
            throw Problem.of("search-for-nothing");
        }
        if (all().stream().filter(one -> !one.name().equals(name)).count() >= MOST) {
            throw Problem.of("too-many-searches").with("most", MOST);
        }
        Sql.change(database, """
                        INSERT INTO saved_search (name, filters, saved_by, saved_at)
                        VALUES (:name, cast(:filters AS jsonb), :by, :now)
                        ON CONFLICT (name) DO UPDATE SET filters = excluded.filters, saved_by = excluded.saved_by,
                            saved_at = excluded.saved_at""")
                .setParameter("name", name)
                .setParameter("filters", json.writeValueAsString(wanted))
                .setParameter("by", administrator)
                .setParameter("now", clock.instant())
                .executeUpdate();
        events.write(NewEvent.administration("search.saved", administrator).with("search", name));
        return all().stream().filter(one -> one.name().equals(name)).findFirst().orElseThrow();
    }

    /** @throws Problem 404 if there is none with this name */
    public void remove(String name, String administrator) {
        var gone = Sql.change(database, "DELETE FROM saved_search WHERE name = :name")
                .setParameter("name", name)
                .executeUpdate();
        if (gone == 0) {
            throw Problem.of("search-not-found").with("name", name);
        }
        events.write(NewEvent.administration("search.removed", administrator).with("search", name));
    }
}
