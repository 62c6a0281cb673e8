package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.Reference;
import dev.entente.service.people.People;
import dev.entente.service.platform.Problem;
import dev.entente.wire.AdminApi;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Attempts for administrators. */
@Component
@Transactional(readOnly = true)
public class AttemptList {
    private final Session database;
    private final People people;

    AttemptList(Session database, People people) {
        this.database = database;
        this.people = people;
    }

    /** One attempt and its id. */
    public record Found(UUID id, AdminApi.AttemptRow row, String reason) {}

    /** Newest first; {@code after} is the reference of the last of the page before. */
    public List<AdminApi.AttemptRow> list(String state, UUID person, String after, int limit) {
        var before = after == null ? Instant.ofEpochSecond(4_000_000_000L) : find(after).createdAt;
        var rows = database.createQuery("""
                        FROM AttemptRow WHERE createdAt < :before AND (:state IS NULL OR state = :state)
                        AND (:person IS NULL OR person = :person) ORDER BY createdAt DESC""", AttemptRow.class)
                .setParameter("before", before)
                .setParameter("state", state(state))
                .setParameter("person", person)
                .setMaxResults(limit)
                .getResultList();
        return shown(rows);
    }

    /** One by its reference, as a person may have read it out. */
    public Found show(String reference) {
        var row = find(reference);
        var shown = shown(List.of(row)).get(0);
        return new Found(row.id, shown, row.decoy);
    }

    /** How many attempts that began since a time stand where. */
    public Map<String, Integer> outcomes(Instant since) {
        var counts = new TreeMap<String, Integer>();
        for (var row : database.createQuery(
                        "SELECT state, count(*) FROM AttemptRow WHERE createdAt > :since GROUP BY state",
                        Object[].class)
                .setParameter("since", since)
                .getResultList()) {
            counts.put(((AttemptState) row[0]).name().toLowerCase(Locale.ROOT), ((Long) row[1]).intValue());
        }
        return counts;
    }

    private AttemptRow find(String typed) {
        var reference = Reference.parse(typed)
                .orElseThrow(() -> Problem.invalid("\"" + (typed.length() > 40 ? "…" : typed)
                        + "\" is not a reference. It has eight digits, such as R 2291 4075; one may be mistyped."));
        return database.createQuery("FROM AttemptRow WHERE reference = :reference", AttemptRow.class)
                .setParameter("reference", reference.digits())
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.missing("attempt with the reference " + reference));
    }

    private static AttemptState state(String name) {
        try {
            return name == null || name.isBlank() ? null : AttemptState.valueOf(name.toUpperCase(Locale.ROOT));
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("There is no state \"" + name + "\".");
        }
    }

    private List<AdminApi.AttemptRow> shown(List<AttemptRow> rows) {
        var ids = new HashSet<UUID>();
        rows.stream().filter(r -> r.person != null).forEach(r -> ids.add(r.person));
        var names = people.names(ids);
        return rows.stream()
                .map(r -> new AdminApi.AttemptRow(
                        new Reference(r.reference).toString(),
                        r.state.name().toLowerCase(Locale.ROOT),
                        r.action,
                        r.person,
                        r.person == null ? null : names.get(r.person),
                        r.policy,
                        r.decoy,
                        r.createdAt.toEpochMilli(),
                        r.endedAt == null ? null : r.endedAt.toEpochMilli()))
                .toList();
    }
}
