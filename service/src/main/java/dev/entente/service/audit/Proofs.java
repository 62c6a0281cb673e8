package dev.entente.service.audit;

import dev.entente.core.attempt.Reference;
import dev.entente.core.audit.Checkpoint;
import dev.entente.core.audit.KeyChange;
import dev.entente.core.audit.MerkleFrontier;
import dev.entente.core.audit.MerkleProof;
import dev.entente.core.audit.ProofFile;
import dev.entente.core.audit.RecordKeys;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import dev.entente.wire.RecordApi;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.LongStream;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Makes proofs that others check without the record: of an event's place in it, and that it continues an earlier checkpoint. Reads at
 * most the leaves of one subtree and one hash for each 256 events.
 */
@Component
@Transactional(readOnly = true)
public class Proofs {
    /** Leaves of a kept subtree are two to the power of this. */
    private static final int KEPT = 8;

    private static final int LEAVES = 1 << KEPT;
    /** Subtrees that are hashed together. */
    private static final int AT_ONCE = 200;
    /** Events that are proven by one call. */
    private static final int TOGETHER = 200;
    /** Events of one attempt that are proven. */
    private static final int MOST = 500;

    private final Session database;
    private final AuditTrail trail;
    private final RecordSigner signer;
    private final AttemptReferences references;

    Proofs(Session database, AuditTrail trail, RecordSigner signer, AttemptReferences references) {
        this.database = database;
        this.trail = trail;
        this.signer = signer;
        this.references = references;
    }

    private record Hash(long number, byte[] hash) {}

    /** Keeps the hashes of subtrees that are complete by now. */
    @WhenDue("SELECT FROM sealed_events WHERE size / 256 > (SELECT coalesce(max(number) + 1, 0) FROM event_subtree)")
    @Transactional
    void keep() {
        var first = Sql.values(database, "SELECT coalesce(max(number) + 1, 0) FROM event_subtree", Long.class)
                .getSingleResult();
        var hashes = leaves(first * LEAVES, AT_ONCE * LEAVES);
        for (var number = 0; (number + 1) * LEAVES <= hashes.size(); number++) {
            Sql.change(
                            database,
                            "INSERT INTO event_subtree (number, hash) VALUES (:number, :hash) ON CONFLICT DO NOTHING")
                    .setParameter("number", first + number)
                    .setParameter("hash", root(hashes.subList(number * LEAVES, (number + 1) * LEAVES)))
                    .executeUpdate();
        }
    }

    private static byte[] root(List<byte[]> hashes) {
        var tree = new MerkleFrontier();
        hashes.forEach(tree::append);
        return tree.root();
    }

    private List<byte[]> leaves(long from, long most) {
        return Sql.values(
                        database,
                        "SELECT leaf_hash FROM event_leaf WHERE seq >= :from AND seq < :to ORDER BY seq",
                        byte[].class)
                .setParameter("from", from)
                .setParameter("to", from + most)
                .getResultList();
    }

    private byte[] subtree(long first, int level) {
        var size = 1L << level;
        if (level < KEPT) {
            return root(leaves(first, size));
        }
        var from = first / LEAVES;
        var to = from + size / LEAVES;
        var kept = new HashMap<Long, byte[]>();
        Sql.rows(database, "SELECT number, hash FROM event_subtree WHERE number >= :from AND number < :to", Hash.class)
                .setParameter("from", from)
                .setParameter("to", to)
                .getResultStream()
                .forEach(hash -> kept.put(hash.number(), hash.hash()));
        return root(LongStream.range(from, to)
                .mapToObj(number -> kept.containsKey(number) ? kept.get(number) : root(leaves(number * LEAVES, LEAVES)))
                .toList());
    }

    private RecordSigner.Latest latest() {
        return signer.latest().orElseThrow(() -> Problem.of("record-empty"));
    }

    /** That an event stands at its position of the latest checkpoint. */
    ProofFile ofEvent(long seq) {
        return ofEvents(List.of(seq)).get(0);
    }

    /**
     * The same for several.
     *
     * @throws Problem 404 if one of them is not there, 422 if they are too many
     */
    List<ProofFile> ofEvents(List<Long> positions) {
        if (positions.size() > TOGETHER) {
            throw Problem.of("too-many-proofs").with("most", TOGETHER);
        }
        return included(positions, latest());
    }

    /** The same for everything that happened to an attempt, as far as it is sealed. */
    public RecordApi.AttemptProofs ofAttempt(String said) {
        var reference = Reference.parse(said)
                .orElseThrow(() -> Problem.of("attempt-not-found").with("reference", said));
        var attempt = references
                .attempt(reference)
                .orElseThrow(() -> Problem.of("attempt-not-found").with("reference", said));
        var latest = latest();
        var there = Sql.values(database, """
                        SELECT l.seq FROM event e JOIN event_leaf l ON l.event = e.id WHERE e.attempt = :attempt AND l.seq < :size
                        ORDER BY l.seq LIMIT :most""", Long.class)
                .setParameter("attempt", attempt)
                .setParameter("size", latest.size())
                .setParameter("most", MOST)
                .getResultList();
        var numbers = Sql.values(database, "SELECT ordinal FROM event WHERE attempt = :attempt", Integer.class)
                .setParameter("attempt", attempt)
                .getResultStream()
                .collect(Collectors.toSet());
        var last = Sql.values(database, "SELECT ordinal FROM event_ordinal WHERE attempt = :attempt", Integer.class)
                .setParameter("attempt", attempt)
                .getResultStream()
                .findFirst();
        return new RecordApi.AttemptProofs(
                reference.toString(),
                included(there, latest),
                IntStream.rangeClosed(1, last.orElse(0))
                        .filter(number -> !numbers.contains(number))
                        .limit(MOST)
                        .boxed()
                        .toList(),
                Math.max(0, Math.min(MOST, numbers.size()) - there.size()));
    }

    private record Subtree(long first, int level) {}

    /** Their paths meet further up: what is there is hashed once. */
    private List<ProofFile> included(List<Long> positions, RecordSigner.Latest latest) {
        var hashed = new HashMap<Subtree, byte[]>();
        return positions.stream()
                .map(seq -> included(seq, latest, (first, level) -> {
                    var subtree = new Subtree(first, level);
                    var known = hashed.get(subtree);
                    if (known == null) {
                        known = subtree(first, level);
                        hashed.put(subtree, known);
                    }
                    return known;
                }))
                .toList();
    }

    private ProofFile included(long seq, RecordSigner.Latest latest, MerkleProof.Subtrees hashes) {
        var sealed = trail.part(Math.max(0, seq), 1).events();
        if (seq < 0 || seq >= latest.size() || sealed.isEmpty() || sealed.get(0).event() == null) {
            throw Problem.of("event-not-found").with("seq", seq);
        }
        var signed = trail.keys().verify(latest.statement());
        return new ProofFile(
                ProofFile.VERSION,
                sealed.get(0).event(),
                seq,
                sealed.get(0).personal(),
                null,
                hex(MerkleProof.inclusion(seq, latest.size(), hashes)),
                latest.statement(),
                signed.by(),
                changes(signed));
    }

    /** That the record continues a checkpoint that somebody kept. */
    ProofFile continued(String kept) {
        Checkpoint before;
        try {
            before = trail.keys().verify(kept).checkpoint();
        } catch (InvalidDocument e) {
            throw Problem.of("checkpoint-unknown");
        }
        var latest = latest();
        if (before.size() < 1 || before.size() > latest.size()) {
            throw Problem.of("record-shorter").with("before", before.size()).with("latest", latest.size());
        }
        var signed = trail.keys().verify(latest.statement());
        return new ProofFile(
                ProofFile.VERSION,
                null,
                null,
                Map.of(),
                kept,
                hex(MerkleProof.consistency(before.size(), latest.size(), this::subtree)),
                latest.statement(),
                signed.by(),
                changes(signed));
    }

    /** Those that led to the key which signed that. */
    private List<KeyChange> changes(RecordKeys.Signed signed) {
        return trail.keyChanges().stream()
                .filter(change -> change.size() < signed.checkpoint().size())
                .map(RecordApi.NextKey::change)
                .toList();
    }

    private static List<String> hex(List<byte[]> hashes) {
        return hashes.stream().map(HexFormat.of()::formatHex).toList();
    }
}
