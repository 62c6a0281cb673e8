package dev.entente.service.platform;

import dev.entente.core.guess.Charge;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.hibernate.Session;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.interceptor.TransactionAspectSupport;

/**
 * Counts within windows, in the database, so that they hold across nodes. A use is counted in a transaction of its own
 * before anything is compared, so that nothing rolls it back. Whose a count is, is kept as HMAC only.
 */
@Component
public class Limits {
    /** The window of what is counted until a success. */
    private static final Instant NEVER = Instant.ofEpochSecond(253_370_764_800L);

    private final Session database;
    private final KeyRing keys;
    private final InstantSource clock;

    Limits(Session database, KeyRing keys, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.clock = clock;
    }

    /**
     * What came of a charge.
     *
     * @param refusedBy the limit that had too little left, and then nothing was taken; empty if all was taken
     * @param last whether one of the limits is used up now
     * @param used how much of the first one is used now
     */
    public record Charged(Optional<Reached> refusedBy, boolean last, long used) {
        /** Whether there was enough. */
        public boolean taken() {
            return refusedBy.isEmpty();
        }
    }

    /**
     * A limit that is used up.
     *
     * @param until when its window ends; null if only a success or an administrator ends it
     */
    public record Reached(Charge charge, Instant until) {}

    /** Takes all of these or nothing. */
    @Transactional(propagation = Propagation.REQUIRES_NEW)
    public Charged charge(List<Charge> charges) {
        if (charges.isEmpty()) {
            return new Charged(Optional.empty(), false, 0);
        }
        var charged = take(charges);
        if (!charged.taken()) {
            TransactionAspectSupport.currentTransactionStatus().setRollbackOnly();
        }
        return charged;
    }

    /** In one statement and one order for everybody, so that nobody waits in a circle. */
    private Charged take(List<Charge> charges) {
        return database.doReturningWork(connection -> {
            try (var statement = connection.prepareStatement("""
                    WITH wanted AS (SELECT * FROM unnest(?::bytea[], ?::timestamptz[], ?::bigint[], ?::bigint[])
                        WITH ORDINALITY AS w(limit_key, window_end, amount, max, place)),
                    taken AS (INSERT INTO limit_count AS c (limit_key, window_end, used)
                        SELECT limit_key, window_end, amount FROM wanted WHERE amount <= max ORDER BY limit_key
                        ON CONFLICT (limit_key, window_end) DO UPDATE SET used = c.used + excluded.used
                        WHERE c.used + excluded.used <= (SELECT w.max FROM wanted w
                            WHERE w.limit_key = excluded.limit_key AND w.window_end = excluded.window_end)
                        RETURNING limit_key, window_end, used)
                    SELECT w.place, t.used FROM wanted w LEFT JOIN taken t USING (limit_key, window_end)
                    ORDER BY w.place""")) {
                keysAndEnds(connection, statement, 1, charges);
                statement.setArray(
                        3,
                        connection.createArrayOf(
                                "int8", charges.stream().map(Charge::amount).toArray()));
                statement.setArray(
                        4,
                        connection.createArrayOf(
                                "int8", charges.stream().map(Charge::max).toArray()));
                var last = false;
                var first = 0L;
                try (var rows = statement.executeQuery()) {
                    while (rows.next()) {
                        var charge = charges.get(rows.getInt(1) - 1);
                        var used = rows.getLong(2);
                        if (rows.wasNull()) {
                            return new Charged(Optional.of(new Reached(charge, ends(charge))), false, 0);
                        }
                        first = charge == charges.get(0) ? used : first;
                        last |= used + charge.amount() > charge.max();
                    }
                }
                return new Charged(Optional.empty(), last, first);
            }
        });
    }

    /** Those that have too little left; nothing is taken. */
    @Transactional(readOnly = true)
    public List<Reached> reached(List<Charge> charges) {
        if (charges.isEmpty()) {
            return List.of();
        }
        return database.doReturningWork(connection -> {
            try (var statement = connection.prepareStatement("""
                    SELECT w.place FROM unnest(?::bytea[], ?::timestamptz[], ?::bigint[])
                        WITH ORDINALITY AS w(limit_key, window_end, most, place)
                    LEFT JOIN limit_count c USING (limit_key, window_end)
                    WHERE coalesce(c.used, 0) > w.most ORDER BY w.place""")) {
                keysAndEnds(connection, statement, 1, charges);
                statement.setArray(
                        3,
                        connection.createArrayOf(
                                "int8",
                                charges.stream().map(c -> c.max() - c.amount()).toArray()));
                var reached = new ArrayList<Reached>();
                try (var rows = statement.executeQuery()) {
                    while (rows.next()) {
                        var charge = charges.get(rows.getInt(1) - 1);
                        reached.add(new Reached(charge, ends(charge)));
                    }
                }
                return reached;
            }
        });
    }

    private void keysAndEnds(Connection connection, PreparedStatement statement, int first, List<Charge> charges)
            throws SQLException {
        statement.setArray(
                first,
                connection.createArrayOf(
                        "bytea", charges.stream().map(this::key).toArray(byte[][]::new)));
        statement.setArray(
                first + 1,
                connection.createArrayOf(
                        "timestamptz",
                        charges.stream().map(c -> end(c.window()).toString()).toArray()));
    }

    /** Gives back what was taken, since what it guards against turned out not to be. */
    @Transactional(propagation = Propagation.REQUIRES_NEW)
    public void giveBack(List<Charge> charges) {
        for (var charge : charges) {
            Sql.change(database, """
                            UPDATE limit_count SET used = greatest(0, used - :amount)
                            WHERE limit_key = :key AND window_end = :end""")
                    .setParameter("amount", charge.amount())
                    .setParameter("key", key(charge))
                    .setParameter("end", end(charge.window()))
                    .executeUpdate();
        }
    }

    /**
     * A success has come: sets what is counted until then to what may still fail, and gives back what was paid in advance; all in
     * one statement and one order.
     */
    @Transactional
    public void succeeded(Map<Charge, Long> outstanding, List<Charge> unused) {
        var charges = new ArrayList<>(outstanding.keySet());
        charges.addAll(unused);
        database.doWork(connection -> {
            try (var statement = connection.prepareStatement("""
                    WITH left_over AS (SELECT c.ctid AS row,
                            CASE WHEN w.place <= ? THEN w.amount ELSE greatest(0, c.used - w.amount) END AS amount
                        FROM limit_count c
                        JOIN unnest(?::bytea[], ?::timestamptz[], ?::bigint[])
                            WITH ORDINALITY AS w(limit_key, window_end, amount, place)
                            USING (limit_key, window_end) ORDER BY c.limit_key FOR UPDATE OF c)
                    UPDATE limit_count SET used = l.amount FROM left_over l WHERE limit_count.ctid = l.row""")) {
                statement.setInt(1, outstanding.size());
                keysAndEnds(connection, statement, 2, charges);
                statement.setArray(
                        4,
                        connection.createArrayOf(
                                "int8",
                                charges.stream()
                                        .map(c -> outstanding.getOrDefault(c, c.amount()))
                                        .toArray()));
                statement.executeUpdate();
            }
        });
    }

    /**
     * Uses one of a limit.
     *
     * @return whether there was one left
     */
    @Transactional(propagation = Propagation.REQUIRES_NEW)
    public boolean use(String limit, String subject, int max, Duration window) {
        return charge(List.of(new Charge(limit, subject, window, 1, max))).taken();
    }

    /**
     * The same within the caller's transaction: for what may be counted in vain, and not for what guards anything.
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public boolean useHere(String limit, String subject, int max, Duration window) {
        return take(List.of(new Charge(limit, subject, window, 1, max))).taken();
    }

    /** Takes these within the caller's transaction, which the caller has to roll back if not all of them were taken. */
    @Transactional(propagation = Propagation.MANDATORY)
    public Charged chargeHere(List<Charge> charges) {
        return take(charges);
    }

    private Instant ends(Charge charge) {
        return charge.window() == null ? null : end(charge.window());
    }

    private byte[] key(Charge charge) {
        return keys.blind("limit " + charge.limit(), charge.subject());
    }

    private Instant end(Duration window) {
        return window == null
                ? NEVER
                : Instant.ofEpochMilli((clock.millis() / window.toMillis() + 1) * window.toMillis());
    }

    @Scheduled(fixedDelay = 600_000)
    @Transactional
    void forget() {
        Sql.change(database, "DELETE FROM limit_count WHERE window_end < entente_now()")
                .executeUpdate();
    }
}
