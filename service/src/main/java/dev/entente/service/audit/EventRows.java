package dev.entente.service.audit;

import dev.entente.core.audit.AuditEvent;
import dev.entente.service.audit.AuditTrail.Located;
import dev.entente.service.platform.Sql;
import java.time.Instant;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.ObjectReader;
import tools.jackson.databind.json.JsonMapper;

/** Events as they are stored. They are written once, so none of Hibernate's entities is needed to read them, thousands at once. */
@Component
class EventRows {
    private static final String COLUMNS =
            "id, retention_class, occurred_at, kind, attempt, reference, ordinal, revision, cast(data AS text) AS data,"
                    + " cast(commitments AS text) AS commitments, leaf_version, leaf_hash";

    /** Other events that a short stretch may have in between. */
    private static final int FEW = 100;

    private final Session database;
    private final ObjectReader facts;
    private final ObjectReader commitments;

    EventRows(Session database, JsonMapper json) {
        this.database = database;
        this.facts = json.readerFor(new TypeReference<Map<String, Object>>() {});
        this.commitments = json.readerFor(new TypeReference<Map<String, String>>() {});
    }

    /**
     * An event.
     *
     * @param content as it is hashed
     * @param leafHash the hash that stands beside it
     */
    record Stored(AuditEvent content, byte[] leafHash) {
        UUID id() {
            return content.id();
        }
    }

    private record Row(
            UUID id,
            String retentionClass,
            Instant occurredAt,
            String kind,
            UUID attempt,
            String reference,
            int ordinal,
            int revision,
            String data,
            String commitments,
            int leafVersion,
            byte[] leafHash) {}

    private Stored stored(Row row) {
        return new Stored(
                new AuditEvent(
                        row.leafVersion(),
                        row.id(),
                        row.occurredAt().toEpochMilli(),
                        row.kind(),
                        row.leafVersion() == 1 ? null : row.retentionClass(),
                        row.attempt(),
                        row.reference(),
                        row.ordinal(),
                        row.revision(),
                        facts.readValue(row.data()),
                        commitments.readValue(row.commitments())),
                row.leafHash());
    }

    /** Of an attempt, in order. */
    List<Stored> ofAttempt(UUID attempt) {
        return Sql.rows(
                        database,
                        "SELECT " + COLUMNS + " FROM event WHERE attempt = :attempt ORDER BY ordinal",
                        Row.class)
                .setParameter("attempt", attempt)
                .getResultStream()
                .map(this::stored)
                .toList();
    }

    /** Those that wait to be sealed, oldest first: with their time known beforehand, PostgreSQL looks into one partition. */
    List<Stored> waiting(List<Located> those, Collection<String> classes) {
        if (those.isEmpty()) {
            return List.of();
        }
        return Sql.rows(
                        database,
                        "SELECT " + COLUMNS + " FROM event WHERE id = ANY(:ids) AND retention_class IN (:classes)"
                                + " AND occurred_at BETWEEN :first AND :last ORDER BY occurred_at, attempt, ordinal",
                        Row.class)
                .setParameter("ids", those.stream().map(Located::event).toArray(UUID[]::new))
                .setParameter("classes", classes)
                .setParameter("first", those.get(0).at())
                .setParameter("last", those.get(those.size() - 1).at())
                .getResultStream()
                .map(this::stored)
                .toList();
    }

    /**
     * Events at successive positions. Mostly nothing else happened between the first and the last of them, so they are read by time in one
     * scan. If more than a quarter as many others are in between, the scan stops there and the rest are looked up one by one.
     */
    Map<UUID, Stored> following(List<Located> those) {
        if (those.isEmpty()) {
            return Map.of();
        }
        var rows = new HashMap<UUID, Stored>();
        var wanted = Set.copyOf(those);
        var times = those.stream().map(Located::at).toList();
        var most = those.size() + those.size() / 4 + FEW;
        var read = Sql.rows(
                        database,
                        "SELECT " + COLUMNS + " FROM event WHERE occurred_at BETWEEN :first AND :last"
                                + " ORDER BY occurred_at LIMIT :most",
                        Row.class)
                .setParameter("first", Collections.min(times))
                .setParameter("last", Collections.max(times))
                .setParameter("most", most)
                .getResultList();
        read.stream()
                .filter(row -> wanted.contains(new Located(row.id(), row.occurredAt())))
                .map(this::stored)
                .forEach(row -> rows.put(row.id(), row));
        if (read.size() == most) {
            rows.putAll(of(
                    those.stream().filter(one -> !rows.containsKey(one.event())).toList()));
        }
        return rows;
    }

    /**
     * One after the other, by id and by time, which says in which partition: lists of thousands were planned anew each time. First and
     * last say beforehand in which partitions none is.
     */
    Map<UUID, Stored> of(List<Located> those) {
        var rows = new HashMap<UUID, Stored>();
        if (!those.isEmpty()) {
            var times = those.stream().map(Located::at).toList();
            Sql.rows(
                            database,
                            "SELECT e.* FROM unnest(cast(:ids AS uuid[]), cast(:times AS timestamptz[])) AS t(event, at)"
                                    + " CROSS JOIN LATERAL (SELECT " + COLUMNS + " FROM event"
                                    + " WHERE id = t.event AND occurred_at = t.at AND occurred_at BETWEEN :first AND :last"
                                    + " LIMIT 1) e",
                            Row.class)
                    .setParameter("ids", those.stream().map(Located::event).toArray(UUID[]::new))
                    .setParameter("times", times.toArray(Instant[]::new))
                    .setParameter("first", Collections.min(times))
                    .setParameter("last", Collections.max(times))
                    .getResultStream()
                    .map(this::stored)
                    .forEach(row -> rows.put(row.id(), row));
        }
        return rows;
    }
}
