package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.Reference;
import dev.entente.service.audit.AttemptReferences;
import dev.entente.service.people.People;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.AttemptApi;
import java.time.Instant;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Attempts for administrators. */
@Component
@Transactional(readOnly = true)
public class AttemptList {
    /** The state of one that was purged. */
    static final String PURGED = "purged";

    private final Session database;
    private final People people;
    private final LimitsInTheWay limitsInTheWay;
    private final AttemptReferences kept;

    AttemptList(Session database, People people, LimitsInTheWay limitsInTheWay, AttemptReferences kept) {
        this.database = database;
        this.people = people;
        this.limitsInTheWay = limitsInTheWay;
        this.kept = kept;
    }

    /** One attempt and its id. */
    public record Found(UUID id, AttemptApi.AttemptRow row, String reason) {}

    /**
     * Newest first; {@code after} is the reference of the last of the page before.
     *
     * @param madeUp those for names that don't exist, instead of all others
     * @param since the first moment; null for none
     * @param until the moment after the last; null for none
     */
    public List<AttemptApi.AttemptRow> list(
            String state, UUID person, boolean madeUp, Instant since, Instant until, String after, int limit) {
        var end = until == null ? Instant.ofEpochSecond(4_000_000_000L) : until;
        var page = after == null ? end : find(after).createdAt;
        var before = page.isBefore(end) ? page : end;
        var rows = database.createQuery(
                        "FROM AttemptRow WHERE createdAt < :before AND createdAt >= :since AND (:state IS NULL OR state = :state)"
                                + " AND (:person IS NULL OR person = :person) AND person IS "
                                + (madeUp ? "NULL" : "NOT NULL") + " ORDER BY createdAt DESC",
                        AttemptRow.class)
                .setParameter("before", before)
                .setParameter("since", since == null ? Instant.EPOCH : since)
                .setParameter("state", state(state))
                .setParameter("person", person)
                .setMaxResults(limit)
                .getResultList();
        return shown(rows);
    }

    /** One by its reference, as a person may have read it out. */
    public Found show(String reference) {
        var purged = purged(reference);
        if (purged.isPresent()) {
            return purged.get();
        }
        var row = find(reference);
        var shown = shown(List.of(row)).get(0);
        return new Found(row.id, shown, row.decoy);
    }

    /** How many attempts since a time were for names that don't exist. */
    public int madeUp(Instant since) {
        return database.createQuery(
                        "SELECT count(*) FROM AttemptRow WHERE person IS NULL AND createdAt > :since", Long.class)
                .setParameter("since", since)
                .getSingleResult()
                .intValue();
    }

    /** What is used up now where an attempt came from, a sentence each. */
    public List<String> limits(UUID id) {
        var row = database.find(AttemptRow.class, id);
        return row == null || row.person == null
                ? List.of()
                : people.find(row.person)
                        .map(person -> limitsInTheWay.sentences(person, Attempts.running(row)))
                        .orElse(List.of());
    }

    /** How many attempts of people that began since a time stand where. */
    public Map<String, Integer> outcomes(Instant since) {
        var counts = new TreeMap<String, Integer>();
        Sql.rows(database, """
                        SELECT state, count(*) AS count FROM attempt WHERE person IS NOT NULL AND created_at > :since
                        GROUP BY state""", Count.class)
                .setParameter("since", since)
                .getResultStream()
                .forEach(row -> counts.put(row.state(), row.count()));
        return counts;
    }

    private record Count(String state, int count) {}

    /** One that was purged: only the record knows more of it. */
    private Optional<Found> purged(String typed) {
        var reference = reference(typed);
        return kept.attempt(reference)
                .filter(id -> database.find(AttemptRow.class, id) == null)
                .map(id -> new Found(
                        id,
                        new AttemptApi.AttemptRow(
                                reference.toString(), PURGED, null, null, null, null, null, null, null),
                        null));
    }

    private static Reference reference(String typed) {
        return Reference.parse(typed)
                .orElseThrow(() -> Problem.of("not-a-reference").with("what", (typed.length() > 40 ? "…" : typed)));
    }

    private AttemptRow find(String typed) {
        var reference = reference(typed);
        return database.createQuery("FROM AttemptRow WHERE reference = :reference", AttemptRow.class)
                .setParameter("reference", reference.digits())
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.of("attempt-not-found").with("reference", reference));
    }

    private static AttemptState state(String name) {
        try {
            return name == null || name.isBlank() ? null : AttemptState.valueOf(name.toUpperCase(Locale.ROOT));
        } catch (IllegalArgumentException e) {
            throw Problem.of("unknown-state")
                    .with("name", name)
                    .with(
                            "list",
                            Arrays.stream(AttemptState.values())
                                    .map(state -> state.name().toLowerCase(Locale.ROOT))
                                    .collect(Collectors.joining(", ")));
        }
    }

    private List<AttemptApi.AttemptRow> shown(List<AttemptRow> rows) {
        var ids = new HashSet<UUID>();
        rows.stream().filter(r -> r.person != null).forEach(r -> ids.add(r.person));
        var names = people.names(ids);
        return rows.stream()
                .map(r -> new AttemptApi.AttemptRow(
                        new Reference(r.reference).toString(),
                        r.state.name().toLowerCase(Locale.ROOT),
                        r.action,
                        r.person,
                        r.person == null ? null : names.get(r.person),
                        r.policy,
                        r.decoy,
                        r.createdAt,
                        r.endedAt))
                .toList();
    }
}
