package dev.entente.service.audit;

import dev.entente.core.attempt.Reference;
import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind.Severity;
import dev.entente.core.audit.RecordExtension;
import dev.entente.core.seal.EcKey;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Sql;
import dev.entente.wire.RecordApi.Event;
import java.time.Instant;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.IntStream;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Reads the record. */
@Component
@Transactional(readOnly = true)
public class AuditTrail {
    /** Bytes of a hash. */
    private static final int HASH = 32;

    private final Session database;
    private final RecordSigner signer;
    private final KeyRing keys;

    AuditTrail(Session database, RecordSigner signer, KeyRing keys) {
        this.database = database;
        this.signer = signer;
        this.keys = keys;
    }

    /**
     * How far the record reaches.
     *
     * @param size events in the tree
     * @param signedAt when it was signed last
     */
    public record Extent(long size, Instant signedAt) {}

    /** Empty before the first event. */
    public Optional<Extent> extent() {
        return signer.latest().map(l -> new Extent(l.size(), Instant.ofEpochMilli(l.signedAt())));
    }

    /** Why the record is not continued; empty if it is. */
    public Optional<String> doubt() {
        return signer.doubt();
    }

    private record Edge(byte[] peaks) {}

    private record Next(long size, String statement) {}

    /** How the record goes on for somebody who keeps a checkpoint over so many events; at most one checkpoint further at a time. */
    public RecordExtension extension(long kept) {
        var peaks = kept == 0
                ? Optional.of(new byte[0])
                : Sql.rows(database, "SELECT peaks FROM checkpoint WHERE size = :kept", Edge.class)
                        .setParameter("kept", kept)
                        .getResultStream()
                        .findFirst()
                        .map(Edge::peaks);
        var latest = signer.latest();
        if (latest.isEmpty() || peaks.isEmpty() || latest.get().size() <= kept || kept == 0) {
            // Whoever keeps none begins with the latest.
            return new RecordExtension(
                    kept,
                    peaks.map(AuditTrail::hashes).orElse(null),
                    List.of(),
                    latest.map(RecordSigner.Latest::statement).orElse(null));
        }
        var next = Sql.rows(database, """
                        SELECT size, statement FROM checkpoint WHERE size = (SELECT coalesce(
                            (SELECT max(size) FROM checkpoint WHERE size > :kept AND size <= :far),
                            (SELECT min(size) FROM checkpoint WHERE size > :kept)))""", Next.class)
                .setParameter("kept", kept)
                .setParameter("far", kept + RecordExtension.MOST)
                .getSingleResult();
        var leaves = Sql.values(
                        database,
                        "SELECT leaf_hash FROM event_leaf WHERE seq >= :kept AND seq < :next ORDER BY seq",
                        byte[].class)
                .setParameter("kept", kept)
                .setParameter("next", next.size())
                .getResultStream()
                .map(HexFormat.of()::formatHex)
                .toList();
        return new RecordExtension(kept, hashes(peaks.get()), leaves, next.statement());
    }

    private static List<String> hashes(byte[] peaks) {
        return IntStream.range(0, peaks.length / HASH)
                .mapToObj(i -> HexFormat.of().formatHex(peaks, i * HASH, (i + 1) * HASH))
                .toList();
    }

    /** Whose signature checkpoints bear. */
    public EcKey signer() {
        return keys.recordKey().publicKey();
    }

    /** Everything that happened to an attempt, in order. */
    public List<Event> ofAttempt(UUID attempt, String reference) {
        var rows = database.createQuery("FROM EventRow WHERE attempt = :attempt ORDER BY ordinal", EventRow.class)
                .setParameter("attempt", attempt)
                .getResultList();
        return rows.stream()
                .map(row -> event(row, null, reference, personal(row.id)))
                .toList();
    }

    /** Sealed events from a position on, oldest first. */
    public List<Event> from(long seq, int limit) {
        return sealed("l.seq >= :seq ORDER BY l.seq", seq, limit);
    }

    /** Sealed events before a position, newest first. */
    public List<Event> before(long seq, int limit) {
        return sealed("l.seq < :seq ORDER BY l.seq DESC", seq, limit);
    }

    /** Events by their ids, in this order. */
    List<Event> events(List<UUID> ids) {
        if (ids.isEmpty()) {
            return List.of();
        }
        var found = new HashMap<UUID, Event>();
        Sql.rows(database, """
                        SELECT l.seq, e.id AS event, a.reference FROM event e LEFT JOIN event_leaf l ON l.event = e.id
                        LEFT JOIN attempt_reference a ON a.attempt = e.attempt WHERE e.id IN (:ids)""", Place.class)
                .setParameter("ids", ids)
                .getResultStream()
                .forEach(place -> found.put(place.event(), event(place)));
        return ids.stream().map(found::get).toList();
    }

    private Event event(Place place) {
        var row = database.createQuery("FROM EventRow WHERE id = :id", EventRow.class)
                .setParameter("id", place.event())
                .getSingleResult();
        return event(
                row,
                place.seq(),
                place.reference() == null ? null : new Reference(place.reference()).toString(),
                personal(row.id));
    }

    private List<Event> sealed(String condition, long seq, int limit) {
        return Sql.rows(
                        database,
                        "SELECT l.seq, l.event, a.reference FROM event_leaf l LEFT JOIN event e ON e.id = l.event "
                                + "LEFT JOIN attempt_reference a ON a.attempt = e.attempt WHERE "
                                + condition + " LIMIT :limit",
                        Place.class)
                .setParameter("seq", seq)
                .setParameter("limit", limit)
                .getResultStream()
                .map(this::event)
                .toList();
    }

    /** @param reference of the attempt that the event belongs to, digits only; null if it belongs to none */
    private record Place(Long seq, UUID event, String reference) {}

    private record Personal(String name, String value) {}

    private Map<String, String> personal(UUID event) {
        var values = new HashMap<String, String>();
        for (var row : Sql.rows(database, "SELECT name, value FROM event_personal WHERE event = :event", Personal.class)
                .setParameter("event", event)
                .getResultList()) {
            values.put(row.name(), row.value());
        }
        return values;
    }

    private static Event event(EventRow row, Long seq, String reference, Map<String, String> personal) {
        var known = EventCatalogue.find(row.kind);
        return new Event(
                seq,
                row.id,
                row.occurredAt,
                row.kind,
                reference,
                row.ordinal,
                row.revision,
                row.data,
                personal,
                known.map(kind -> kind.severity().label()).orElse(Severity.INFO.label()),
                known.map(kind -> kind.words(row.data, personal, "en")).orElse(row.kind));
    }
}
