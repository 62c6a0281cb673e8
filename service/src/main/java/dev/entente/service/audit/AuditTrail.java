package dev.entente.service.audit;

import dev.entente.core.attempt.Reference;
import dev.entente.core.audit.AuditEvent;
import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind.Severity;
import dev.entente.core.audit.Gone;
import dev.entente.core.audit.RecordExtension;
import dev.entente.core.audit.RecordKeys;
import dev.entente.core.audit.RecordVerifier.Salted;
import dev.entente.core.audit.RecordVerifier.Sealed;
import dev.entente.core.audit.SignedCheckpoint;
import dev.entente.service.audit.EventRows.Stored;
import dev.entente.service.platform.Sql;
import dev.entente.wire.RecordApi.Event;
import dev.entente.wire.RecordApi.NextKey;
import dev.entente.wire.RecordApi.SealedPart;
import java.time.Instant;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
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
    private final EventRows stored;

    AuditTrail(Session database, RecordSigner signer, EventRows stored) {
        this.database = database;
        this.signer = signer;
        this.stored = stored;
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

    /** The keys that sign checkpoints, one after the other. */
    public RecordKeys keys() {
        return signer.keys();
    }

    /** How they followed each other, oldest first. */
    public List<NextKey> keyChanges() {
        return signer.keyChanges();
    }

    /** Everything that happened to an attempt, in order. */
    public List<Event> ofAttempt(UUID attempt, String reference) {
        var rows = stored.ofAttempt(attempt);
        var personal = personal(rows.stream().map(Stored::id).toList());
        return rows.stream()
                .map(row -> event(row, null, reference, personal.getOrDefault(row.id(), Map.of())))
                .toList();
    }

    /**
     * A stretch of the record.
     *
     * @param events in their order; what is gone of them is left out
     * @param next position after it, in that order
     * @param last whether nothing more is sealed yet
     */
    public record Stretch(List<Event> events, long next, boolean last) {}

    /**
     * Where an event is.
     *
     * @param at when it happened, which says in which partition
     */
    public record Located(UUID event, Instant at) {}

    private record Sequel(long seq, UUID event, Instant at, String kind) {}

    /** At most so many sealed events from a position on, oldest first. */
    public Stretch stretch(long from, int limit) {
        return stretch(from, limit, null);
    }

    /**
     * What is of some kinds among at most so many sealed events from a position on.
     *
     * @param kinds null for all
     */
    public Stretch stretch(long from, int limit, Set<String> kinds) {
        var there = sequels("seq >= :seq ORDER BY seq", from, limit);
        return new Stretch(events(there, kinds), there.isEmpty() ? from : last(there) + 1, there.size() < limit);
    }

    /** How many sealed events there are, without those of months that were cut off. */
    long there() {
        return Sql.values(
                        database,
                        "SELECT (SELECT coalesce(max(seq) + 1, 0) FROM event_leaf)"
                                + " - (SELECT coalesce(cast(sum(events) AS bigint), 0) FROM record_cut)",
                        Long.class)
                .getSingleResult();
    }

    /** At most so many sealed events before a position, newest first; the next is before {@code next}. */
    Stretch before(long seq, int limit) {
        var there = sequels("seq < :seq ORDER BY seq DESC", seq, limit);
        return new Stretch(events(there, null), there.isEmpty() ? seq : last(there), there.size() < limit);
    }

    private List<Sequel> sequels(String condition, long seq, int limit) {
        return Sql.rows(
                        database,
                        "SELECT seq, event, at, kind FROM event_leaf WHERE " + condition + " LIMIT :limit",
                        Sequel.class)
                .setParameter("seq", seq)
                .setParameter("limit", limit)
                .getResultList();
    }

    private static long last(List<Sequel> there) {
        return there.get(there.size() - 1).seq();
    }

    /** Events in this order; what is gone of them is left out. */
    public List<Event> events(List<Located> those) {
        if (those.isEmpty()) {
            return List.of();
        }
        var places = Sql.rows(database, "SELECT seq, event FROM event_leaf WHERE event = ANY(:ids)", Place.class)
                .setParameter("ids", those.stream().map(Located::event).toArray(UUID[]::new))
                .getResultStream()
                .collect(Collectors.toMap(Place::event, Place::seq));
        return events(those, places, stored.of(those));
    }

    private List<Event> events(List<Sequel> there, Set<String> kinds) {
        // Events sealed by an earlier version have no kind beside their position; those are read to find out.
        var those = there.stream()
                .filter(one -> kinds == null || one.kind() == null || kinds.contains(one.kind()))
                .toList();
        var located =
                those.stream().map(one -> new Located(one.event(), one.at())).toList();
        var events = events(
                located,
                those.stream().collect(Collectors.toMap(Sequel::event, Sequel::seq)),
                kinds == null ? stored.following(located) : stored.of(located));
        return kinds == null
                ? events
                : events.stream().filter(event -> kinds.contains(event.kind())).toList();
    }

    private List<Event> events(List<Located> those, Map<UUID, Long> places, Map<UUID, Stored> rows) {
        var personal = personal(List.copyOf(rows.keySet()));
        var references = references(rows.values().stream()
                .map(Stored::content)
                .filter(content -> content.reference() == null && content.attempt() != null)
                .map(AuditEvent::attempt)
                .distinct()
                .toList());
        return those.stream()
                .map(one -> rows.get(one.event()))
                .filter(Objects::nonNull)
                .map(row -> event(
                        row,
                        places.get(row.id()),
                        references.get(row.content().attempt()),
                        personal.getOrDefault(row.id(), Map.of())))
                .toList();
    }

    private record Place(long seq, UUID event) {}

    private record Named(UUID attempt, String reference) {}

    /** Of events that don't seal their own. */
    private Map<UUID, String> references(List<UUID> attempts) {
        var references = new HashMap<UUID, String>();
        if (!attempts.isEmpty()) {
            Sql.rows(
                            database,
                            "SELECT attempt, reference FROM attempt_reference WHERE attempt IN (:attempts)",
                            Named.class)
                    .setParameter("attempts", attempts)
                    .getResultStream()
                    .forEach(one -> references.put(one.attempt(), new Reference(one.reference()).toString()));
        }
        return references;
    }

    /** A part of the record as it was sealed, at most so many events from a position on. */
    SealedPart part(long from, int limit) {
        var leaves = Sql.rows(
                        database,
                        "SELECT seq, event, leaf_hash, at FROM event_leaf WHERE seq >= :from ORDER BY seq LIMIT :limit",
                        Leaf.class)
                .setParameter("from", from)
                .setParameter("limit", limit)
                .getResultList();
        var ids = leaves.stream().map(Leaf::event).toList();
        var rows = stored.following(leaves.stream()
                .map(leaf -> new Located(leaf.event(), leaf.at()))
                .toList());
        var values = new HashMap<UUID, Map<String, Salted>>();
        personalOf(ids)
                .forEach(p -> values.computeIfAbsent(p.event(), id -> new HashMap<>())
                        .put(p.name(), new Salted(HexFormat.of().formatHex(p.salt()), p.value())));
        var events = leaves.stream()
                .map(leaf -> new Sealed(
                        leaf.seq(),
                        HexFormat.of().formatHex(leaf.leafHash()),
                        Optional.ofNullable(rows.get(leaf.event()))
                                .map(Stored::content)
                                .orElse(null),
                        values.getOrDefault(leaf.event(), Map.of())))
                .toList();
        var gone = Sql.rows(database, "SELECT event, list FROM record_gone WHERE event = ANY(:ids)", Listed.class)
                .setParameter("ids", ids.toArray(UUID[]::new))
                .getResultStream()
                .collect(Collectors.toMap(Listed::event, Listed::list));
        var size = extent().map(Extent::size).orElse(0L);
        var next = from + leaves.size();
        var checkpoints = Sql.rows(
                        database,
                        "SELECT size, statement FROM checkpoint WHERE size > :from AND size <= :next ORDER BY size",
                        SignedCheckpoint.class)
                .setParameter("from", from)
                .setParameter("next", next)
                .getResultList();
        var changes = signer.keyChanges();
        // Where one key handed over after the last of a part, the next part begins with it.
        return new SealedPart(
                events,
                leaves.stream()
                        .filter(leaf -> gone.containsKey(leaf.event()))
                        .map(leaf -> new Gone(leaf.seq(), gone.get(leaf.event())))
                        .toList(),
                checkpoints,
                size,
                Sql.values(database, "SELECT count(*) FROM event_pending", Long.class)
                        .getSingleResult(),
                keys().at(from),
                changes.stream()
                        .filter(change -> change.size() >= from && (change.size() < next || next >= size))
                        .toList(),
                leaves.isEmpty() || next >= size ? null : next);
    }

    private record Listed(UUID event, String list) {}

    private record Leaf(long seq, UUID event, byte[] leafHash, Instant at) {}

    private record Personal(UUID event, String name, String value, byte[] salt) {}

    private List<Personal> personalOf(List<UUID> ids) {
        return ids.isEmpty()
                ? List.of()
                : Sql.rows(
                                database,
                                "SELECT event, name, value, salt FROM event_personal WHERE event = ANY(:ids)",
                                Personal.class)
                        .setParameter("ids", ids.toArray(UUID[]::new))
                        .getResultList();
    }

    private Map<UUID, Map<String, String>> personal(List<UUID> ids) {
        var values = new HashMap<UUID, Map<String, String>>();
        personalOf(ids)
                .forEach(p ->
                        values.computeIfAbsent(p.event(), id -> new HashMap<>()).put(p.name(), p.value()));
        return values;
    }

    /** @param reference by which an attempt is called whose event doesn't seal it */
    private static Event event(Stored stored, Long seq, String reference, Map<String, String> personal) {
        var row = stored.content();
        var known = EventCatalogue.find(row.kind());
        var called = row.reference() == null ? reference : new Reference(row.reference()).toString();
        return new Event(
                seq,
                row.id(),
                Instant.ofEpochMilli(row.at()),
                row.kind(),
                called,
                row.ordinal(),
                row.revision(),
                row.data(),
                personal,
                known.map(kind -> kind.severity().label()).orElse(Severity.INFO.label()),
                known.map(kind -> kind.words(row.data(), personal, "en")).orElse(row.kind()));
    }
}
