package dev.entente.service.audit;

import dev.entente.core.audit.RecordVerifier;
import dev.entente.core.audit.RecordVerifier.Salted;
import dev.entente.core.audit.RecordVerifier.Sealed;
import dev.entente.service.platform.Sql;
import dev.entente.wire.RecordApi.SealedPart;
import dev.entente.wire.RecordApi.SignedCheckpoint;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The record as it was sealed, so that others can prove it: {@link RecordVerifier} is all that is needed, and the public key. */
@RestController
@RequestMapping("/api/v1/record")
class RecordController {
    private static final int MOST = 1000;

    private final Session database;
    private final AuditTrail trail;

    RecordController(Session database, AuditTrail trail) {
        this.database = database;
        this.trail = trail;
    }

    private record Leaf(long seq, UUID event, byte[] leafHash) {}

    private record Personal(UUID event, String name, String value, byte[] salt) {}

    /** At most 1,000 events from a position on. What is gone of an event is left out of it, and its hash is there still. */
    @GetMapping
    @Transactional(readOnly = true)
    public SealedPart part(
            @RequestParam(defaultValue = "0") long from, @RequestParam(defaultValue = "1000") int limit) {
        var size = trail.extent().map(AuditTrail.Extent::size).orElse(0L);
        var leaves = Sql.rows(
                        database,
                        "SELECT seq, event, leaf_hash FROM event_leaf WHERE seq >= :from ORDER BY seq LIMIT :limit",
                        Leaf.class)
                .setParameter("from", from)
                .setParameter("limit", Math.max(1, Math.min(limit, MOST)))
                .getResultList();
        var ids = leaves.stream().map(Leaf::event).toList();
        var rows = new HashMap<UUID, EventRow>();
        var personal = new HashMap<UUID, Map<String, Salted>>();
        if (!ids.isEmpty()) {
            database.createQuery("FROM EventRow WHERE id IN (:ids)", EventRow.class)
                    .setParameter("ids", ids)
                    .getResultList()
                    .forEach(row -> rows.put(row.id, row));
            Sql.rows(
                            database,
                            "SELECT event, name, value, salt FROM event_personal WHERE event IN (:ids)",
                            Personal.class)
                    .setParameter("ids", ids)
                    .getResultStream()
                    .forEach(p -> personal.computeIfAbsent(p.event(), id -> new HashMap<>())
                            .put(p.name(), new Salted(HexFormat.of().formatHex(p.salt()), p.value())));
        }
        var events = leaves.stream()
                .map(leaf -> new Sealed(
                        leaf.seq(),
                        HexFormat.of().formatHex(leaf.leafHash()),
                        rows.containsKey(leaf.event()) ? rows.get(leaf.event()).content() : null,
                        personal.getOrDefault(leaf.event(), Map.of())))
                .toList();
        var next = leaves.isEmpty()
                ? null
                : Long.valueOf(leaves.get(leaves.size() - 1).seq() + 1);
        return new SealedPart(
                events,
                next == null ? List.of() : checkpoints(from, next),
                size,
                trail.signer(),
                next == null || next >= size ? null : next);
    }

    private List<SignedCheckpoint> checkpoints(long after, long upTo) {
        return Sql.rows(
                        database,
                        "SELECT size, statement FROM checkpoint WHERE size > :after AND size <= :upTo ORDER BY size",
                        SignedCheckpoint.class)
                .setParameter("after", after)
                .setParameter("upTo", upTo)
                .getResultList();
    }
}
