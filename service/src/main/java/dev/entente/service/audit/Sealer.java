package dev.entente.service.audit;

import dev.entente.core.audit.Checkpoint;
import dev.entente.core.audit.MerkleFrontier;
import dev.entente.service.platform.KeyRing;
import java.time.InstantSource;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Appends committed events to the Merkle tree and signs a checkpoint.
 *
 * <p>Events commit in no particular order, so a position cannot be given while writing: a transaction that commits late
 * would be skipped. Instead every event leaves a pending row; one sealer at a time, held apart by an advisory lock, takes
 * the pending rows it can see, gives them the next positions and deletes them in the same transaction. A late commit is
 * simply seen by the next round.
 */
@Component
class Sealer {
    private static final long LOCK = 0x456e74656e7465L;
    private static final int BATCH = 5000;

    private final Session database;
    private final KeyRing keys;
    private final InstantSource clock;

    Sealer(Session database, KeyRing keys, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.clock = clock;
    }

    /** The latest signed checkpoint. */
    record Latest(long size, byte[] peaks, String statement, long signedAt) {}

    @Scheduled(fixedDelay = 1000)
    @Transactional
    void seal() {
        var alone = database.createNativeQuery("SELECT pg_try_advisory_xact_lock(:lock)", Boolean.class)
                .setParameter("lock", LOCK)
                .getSingleResult();
        if (!alone) {
            return;
        }
        var pending = pending();
        if (pending.isEmpty()) {
            return;
        }
        var frontier = latest().map(Sealer::frontier).orElseGet(MerkleFrontier::new);
        var events = pending.stream().map(row -> (UUID) row[0]).toArray(UUID[]::new);
        var hashes = pending.stream().map(row -> (byte[]) row[1]).toArray(byte[][]::new);
        var first = frontier.size();
        // All at once: thousands of single statements would hold the lock for seconds.
        database.doWork(connection -> {
            try (var leaves = connection.prepareStatement("""
                            INSERT INTO event_leaf (seq, event, leaf_hash)
                            SELECT ? + t.number - 1, t.event, t.hash
                            FROM unnest(?::uuid[], ?::bytea[]) WITH ORDINALITY AS t(event, hash, number)""");
                    var done = connection.prepareStatement("DELETE FROM event_pending WHERE event = ANY(?)")) {
                leaves.setLong(1, first);
                leaves.setArray(2, connection.createArrayOf("uuid", events));
                leaves.setArray(3, connection.createArrayOf("bytea", hashes));
                leaves.executeUpdate();
                done.setArray(1, connection.createArrayOf("uuid", events));
                done.executeUpdate();
            }
        });
        for (var hash : hashes) {
            frontier.append(hash);
        }
        sign(frontier);
    }

    private List<Object[]> pending() {
        return database.createNativeQuery("""
                        SELECT e.id, e.leaf_hash FROM event_pending p JOIN event e ON e.id = p.event
                        ORDER BY e.occurred_at, e.attempt, e.ordinal LIMIT :batch""", Object[].class)
                .setParameter("batch", BATCH)
                .getResultList();
    }

    private void sign(MerkleFrontier frontier) {
        var now = clock.millis();
        var root = frontier.root();
        var statement = new Checkpoint(1, frontier.size(), HexFormat.of().formatHex(root), now).sign(keys.recordKey());
        var peaks = new byte[32 * frontier.peaks().size()];
        for (var i = 0; i < frontier.peaks().size(); i++) {
            System.arraycopy(frontier.peaks().get(i), 0, peaks, 32 * i, 32);
        }
        database.createNativeMutationQuery("""
                        INSERT INTO checkpoint (size, root, peaks, statement, signed_at)
                        VALUES (:size, :root, :peaks, :statement, to_timestamp(:at / 1000.0))""")
                .setParameter("size", frontier.size())
                .setParameter("root", root)
                .setParameter("peaks", peaks)
                .setParameter("statement", statement)
                .setParameter("at", now)
                .executeUpdate();
    }

    Optional<Latest> latest() {
        var rows = database.createNativeQuery("""
                        SELECT size, peaks, statement, cast(extract(epoch FROM signed_at) * 1000 AS bigint)
                        FROM checkpoint ORDER BY size DESC LIMIT 1""", Object[].class).getResultList();
        return rows.stream()
                .map(r -> new Latest(
                        ((Number) r[0]).longValue(), (byte[]) r[1], (String) r[2], ((Number) r[3]).longValue()))
                .findFirst();
    }

    private static MerkleFrontier frontier(Latest latest) {
        var peaks = new ArrayList<byte[]>();
        for (var at = 0; at < latest.peaks().length; at += 32) {
            peaks.add(Arrays.copyOfRange(latest.peaks(), at, at + 32));
        }
        return new MerkleFrontier(latest.size(), peaks);
    }

    /** Partitions for the months to come. */
    @Scheduled(fixedDelay = 86_400_000, initialDelay = 60_000)
    @Transactional
    void prepareMonths() {
        database.createNativeQuery("SELECT cast(prepare_event_months(:today, 14) AS text)", String.class)
                .setParameter("today", LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC))
                .getSingleResult();
    }
}
