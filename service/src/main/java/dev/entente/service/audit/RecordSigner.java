package dev.entente.service.audit;

import dev.entente.core.audit.Checkpoint;
import dev.entente.core.audit.KeyChange;
import dev.entente.core.audit.MerkleFrontier;
import dev.entente.core.audit.RecordKeys;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.service.audit.AuditTrail.Located;
import dev.entente.service.audit.EventRows.Stored;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import dev.entente.wire.RecordApi;
import java.time.Instant;
import java.time.InstantSource;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Appends committed events to the Merkle tree and signs a checkpoint.
 *
 * <p>Events commit in no particular order, so a position cannot be given while writing: a transaction that commits late
 * would be skipped. Instead the events of a statement leave a row that waits; one signer at a time, held apart by an advisory lock, takes
 * the rows it can see, gives their events the next positions and deletes the rows in the same transaction, by a function that is
 * all the running role may do with them. A late commit is
 * simply seen by the next round.
 */
@Component
class RecordSigner {
    private static final Logger log = LoggerFactory.getLogger(RecordSigner.class);
    private static final long LOCK = 0x456e74656e7465L;
    /** Events sealed at once: whole rows of those that wait, until they are as many. */
    private static final int BATCH = 5000;

    private final Session database;
    private final KeyRing keys;
    private final InstantSource clock;
    private final TransactionTemplate transaction;
    private final EventLog events;
    private final EventRows stored;
    private volatile MerkleFrontier verified;
    private volatile RecordKeys known;
    private volatile String doubt;

    RecordSigner(
            Session database,
            KeyRing keys,
            InstantSource clock,
            TransactionTemplate transaction,
            EventLog events,
            EventRows stored) {
        this.stored = stored;
        this.events = events;
        this.database = database;
        this.keys = keys;
        this.clock = clock;
        this.transaction = transaction;
    }

    /**
     * The latest signed checkpoint.
     *
     * @param keyChanges how often the record's key was changed
     */
    record Latest(long size, byte[] peaks, String statement, long signedAt, long leaves, int keyChanges) {}

    /** Whether what is there is still what was signed is looked at now and then, also when nothing happens. */
    @Scheduled(fixedDelay = 10_000)
    void look() {
        seal();
    }

    /** As long as there is more than is sealed at once. */
    @WhenDue("SELECT FROM event_waiting")
    void seal() {
        var more = true;
        while (more) {
            more = sealOnce();
        }
    }

    private boolean sealOnce() {
        var outcome = transaction.execute(status -> sealWaiting());
        // Known only now that it has committed.
        if (outcome.frontier() != null) {
            verified = outcome.frontier();
        }
        if (outcome.looked()) {
            if (outcome.doubt() != null && !outcome.doubt().equals(doubt)) {
                log.error("the record is not continued: {}", outcome.doubt());
            }
            doubt = outcome.doubt();
        }
        return outcome.more();
    }

    /** @param more whether as many were sealed as are at once, so that there may be more */
    private record Outcome(boolean looked, MerkleFrontier frontier, String doubt, boolean more) {}

    private Outcome sealWaiting() {
        var alone = Sql.values(database, "SELECT pg_try_advisory_xact_lock(:lock)", Boolean.class)
                .setParameter("lock", LOCK)
                .getSingleResult();
        if (!alone) {
            return new Outcome(false, null, null, false);
        }
        try {
            var frontier = standing();
            if (known.changes() + 1 < keys.recordKeys().size()) {
                handOver(frontier);
                return new Outcome(true, frontier, null, true);
            }
            var pending = pending();
            if (!pending.isEmpty()) {
                append(frontier, pending, stored(pending));
                sign(frontier);
            }
            return new Outcome(true, frontier, null, pending.size() >= BATCH);
        } catch (InDoubt e) {
            return new Outcome(true, null, e.getMessage(), false);
        }
    }

    /** What is there already is not what was signed. Nothing is appended to it. */
    private static final class InDoubt extends Exception {
        InDoubt(String message) {
            super(message, null, false, false);
        }
    }

    /** Why the record is not continued; empty if it is. */
    Optional<String> doubt() {
        return Optional.ofNullable(doubt);
    }

    /**
     * What to build on, believed only as far as the record key signed it: the peaks have to give the signed root, the leaves that
     * came since the last look have to lead there, and there must be no leaf more.
     */
    private MerkleFrontier standing() throws InDoubt {
        var last = latest();
        if (known == null || last.isEmpty() || last.get().keyChanges() != known.changes()) {
            known = readKeys()
                    .orElseThrow(
                            () -> new InDoubt(
                                    "this node lacks the key that signs it now, or has another; copy the secrets folder and start it again"));
        }
        if (last.isEmpty()) {
            expect(leaves() == 0, "there are sealed events, but no checkpoint");
            return new MerkleFrontier();
        }
        Checkpoint signed;
        try {
            signed = known.verify(last.get().statement()).checkpoint();
        } catch (InvalidDocument e) {
            throw new InDoubt("the latest checkpoint was not signed by the record key");
        }
        var frontier = frontier(last.get());
        expect(
                signed.size() == last.get().size()
                        && signed.root().equals(HexFormat.of().formatHex(frontier.root())),
                "the latest checkpoint does not hold what was signed");
        expect(
                last.get().leaves() == signed.size(),
                "there are sealed events that no checkpoint covers, or some are missing");
        var known = verified;
        if (known != null) {
            expect(known.size() <= signed.size(), "the record is shorter than it was: " + signed.size() + " events");
            var grown = new MerkleFrontier(known.size(), known.peaks());
            if (known.size() < signed.size()) {
                hashes(known.size()).forEach(grown::append);
            }
            expect(
                    Arrays.equals(grown.root(), frontier.root()),
                    "the sealed events since number " + known.size() + " do not lead to the latest checkpoint");
        }
        return frontier;
    }

    /** The key of now is that of this node, and it lets all before it follow. */
    private Optional<RecordKeys> readKeys() {
        var changes = Sql.rows(
                        database, "SELECT by_old, by_new FROM record_key_change ORDER BY number", KeyChange.class)
                .getResultList();
        if (changes.size() >= keys.recordKeys().size()) {
            return Optional.empty();
        }
        try {
            return Optional.of(
                    RecordKeys.of(keys.recordKeys().get(changes.size()).publicKey(), changes));
        } catch (InvalidDocument e) {
            return Optional.empty();
        }
    }

    /** The key that the operator put after the one of now signs from here on. */
    private void handOver(MerkleFrontier frontier) {
        var from = keys.recordKeys().get(known.changes());
        var to = keys.recordKeys().get(known.changes() + 1);
        var change =
                KeyChange.sign(from, to, frontier.size(), HexFormat.of().formatHex(frontier.root()), clock.millis());
        Sql.change(database, """
                        INSERT INTO record_key_change (number, size, by_old, by_new, changed_at)
                        VALUES (:number, :size, :old, :new, :now)""")
                .setParameter("number", known.changes() + 1)
                .setParameter("size", frontier.size())
                .setParameter("old", change.byOld())
                .setParameter("new", change.byNew())
                .setParameter("now", clock.instant())
                .executeUpdate();
        events.write(NewEvent.operation("record.key-changed")
                .with("size", frontier.size())
                .with("before", from.publicKey().thumbprint())
                .with("key", to.publicKey().thumbprint()));
    }

    /** The record's keys; those that this node has where nothing is sealed yet. */
    RecordKeys keys() {
        var keysNow = known;
        return keysNow != null && latest().map(Latest::keyChanges).orElse(0) == keysNow.changes()
                ? keysNow
                : readKeys()
                        .orElseGet(() -> RecordKeys.of(keys.recordKeys().get(0).publicKey()));
    }

    /** How they followed each other, oldest first. */
    List<RecordApi.NextKey> keyChanges() {
        return Sql.rows(database, "SELECT size, by_old, by_new FROM record_key_change ORDER BY number", Changed.class)
                .getResultStream()
                .map(row -> new RecordApi.NextKey(row.size(), new KeyChange(row.byOld(), row.byNew())))
                .toList();
    }

    private record Changed(long size, String byOld, String byNew) {}

    private static void expect(boolean holds, String otherwise) throws InDoubt {
        if (!holds) {
            throw new InDoubt(otherwise);
        }
    }

    private long leaves() {
        return Sql.values(database, "SELECT coalesce(max(seq) + 1, 0) FROM event_leaf", Long.class)
                .getSingleResult();
    }

    private List<byte[]> hashes(long from) {
        return Sql.values(database, "SELECT leaf_hash FROM event_leaf WHERE seq >= :from ORDER BY seq", byte[].class)
                .setParameter("from", from)
                .getResultList();
    }

    /** All at once: thousands of single statements would hold the lock for seconds. */
    private void append(MerkleFrontier frontier, List<Pending> pending, List<Stored> stored) throws InDoubt {
        if (stored.size() < pending.size()) {
            var there = stored.stream().map(Stored::id).collect(Collectors.toSet());
            for (var one : pending) {
                expect(there.contains(one.event()), "the event " + one.event() + " waits to be sealed, but is gone");
            }
        }
        var first = frontier.size();
        var waiting = pending.stream().map(Pending::waiting).distinct().toArray(Long[]::new);
        var events = new UUID[stored.size()];
        var hashes = new byte[stored.size()][];
        for (var i = 0; i < stored.size(); i++) {
            var row = stored.get(i);
            // What is sealed is what the event says, not what stands beside it.
            events[i] = row.id();
            hashes[i] = row.content().leafHash();
            expect(Arrays.equals(hashes[i], row.leafHash()), "the event " + row.id() + " is not what its hash says");
            frontier.append(hashes[i]);
        }
        database.doWork(connection -> {
            try (var seal = connection.prepareCall("SELECT seal_events(?, ?, ?, ?)")) {
                seal.setLong(1, first);
                seal.setArray(2, connection.createArrayOf("int8", waiting));
                seal.setArray(3, connection.createArrayOf("uuid", events));
                seal.setArray(4, connection.createArrayOf("bytea", hashes));
                seal.execute();
            }
        });
    }

    private record Pending(long waiting, UUID event, String retentionClass, Instant occurredAt) {}

    private List<Pending> pending() {
        return Sql.rows(database, """
                        SELECT p.waiting, p.event, p.retention_class, p.occurred_at
                        FROM (SELECT id, sum(many) OVER (ORDER BY occurred_at, id) - many AS before
                            FROM (SELECT id, occurred_at, cardinality(events) AS many FROM event_waiting
                                ORDER BY occurred_at, id LIMIT :batch) o) w
                        JOIN event_pending p ON p.waiting = w.id WHERE w.before < :batch ORDER BY p.occurred_at""", Pending.class)
                .setParameter("batch", BATCH)
                .getResultList();
    }

    private List<Stored> stored(List<Pending> pending) {
        return stored.waiting(
                pending.stream()
                        .map(one -> new Located(one.event(), one.occurredAt()))
                        .toList(),
                pending.stream().map(Pending::retentionClass).distinct().toList());
    }

    private void sign(MerkleFrontier frontier) {
        var now = clock.millis();
        var root = frontier.root();
        var statement = new Checkpoint(1, frontier.size(), HexFormat.of().formatHex(root), now)
                .sign(keys.recordKeys().get(known.changes()));
        var peaks = new byte[32 * frontier.peaks().size()];
        for (var i = 0; i < frontier.peaks().size(); i++) {
            System.arraycopy(frontier.peaks().get(i), 0, peaks, 32 * i, 32);
        }
        Sql.change(database, """
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
        return Sql.rows(database, """
                        SELECT size, peaks, statement, cast(extract(epoch FROM signed_at) * 1000 AS bigint) AS signed_at,
                            (SELECT coalesce(max(seq) + 1, 0) FROM event_leaf) AS leaves,
                            cast((SELECT count(*) FROM record_key_change) AS int) AS key_changes
                        FROM checkpoint ORDER BY size DESC LIMIT 1""", Latest.class).getResultStream().findFirst();
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
        Sql.values(database, "SELECT cast(prepare_event_months(:today, 14) AS text)", String.class)
                .setParameter("today", LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC))
                .getSingleResult();
    }
}
