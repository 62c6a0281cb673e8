package dev.entente.service;

import dev.entente.core.audit.AuditEvent;
import dev.entente.core.audit.KeyChange;
import dev.entente.core.audit.MerkleFrontier;
import dev.entente.core.audit.RecordKeys;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.SigningKey;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.stream.Stream;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * The step that repairs a record which isn't continued any more: {@code java -jar … continue-record}, as the owner and with the secrets
 * folder. Everything up to the last good checkpoint stays as it is. Later events are sealed again if they still exist and match their
 * hashes, and the others are listed. The repair itself is recorded.
 */
final class ContinueRecord {
    private static final JsonMapper JSON = JsonMapper.shared();
    /** The signer's lock: nothing is sealed meanwhile. */
    private static final long LOCK = 0x456e74656e7465L;

    private static final int AT_ONCE = 10_000;
    private static final int NAMED = 20;

    private final Connection database;
    private final RecordKeys keys;

    private ContinueRecord(Connection database, RecordKeys keys) {
        this.database = database;
        this.keys = keys;
    }

    /** Carries it out where there is something to do; prints what was done, and returns 1 if it could not be. */
    static int run(Map<String, String> environment) {
        var url = environment.getOrDefault("ENTENTE_DATABASE_URL", "jdbc:postgresql://127.0.0.1:5432/entente");
        var owner = environment.getOrDefault("ENTENTE_OWNER_USER", "entente_owner");
        var secrets = Path.of(environment.getOrDefault("ENTENTE_SECRETS", ""));
        try (var database =
                DriverManager.getConnection(url, owner, environment.getOrDefault("ENTENTE_OWNER_PASSWORD", ""))) {
            database.setAutoCommit(false);
            try (var lock = database.createStatement()) {
                lock.execute("SELECT pg_advisory_xact_lock(" + LOCK + ")");
            }
            System.out.println(new ContinueRecord(database, keys(database, secrets)).carriedOut());
            database.commit();
            return 0;
        } catch (SQLException e) {
            System.err.println("entente: the record at " + url + " could not be continued as " + owner + ": "
                    + String.valueOf(e.getMessage()).lines().findFirst().orElse(""));
            return 1;
        } catch (IOException | InvalidDocument e) {
            System.err.println("entente: the keys of the record can't be read from " + secrets
                    + "; set ENTENTE_SECRETS to the service's secrets folder");
            return 1;
        }
    }

    private static RecordKeys keys(Connection database, Path secrets) throws SQLException, IOException {
        var changes = new ArrayList<KeyChange>();
        try (var statement = database.createStatement();
                var rows = statement.executeQuery("SELECT by_old, by_new FROM record_key_change ORDER BY number")) {
            while (rows.next()) {
                changes.add(new KeyChange(rows.getString(1), rows.getString(2)));
            }
        }
        var own = Files.readAllLines(secrets.resolve("record.key")).stream()
                .filter(line -> !line.isBlank())
                .map(SigningKey::decode)
                .toList();
        if (own.size() <= changes.size()) {
            throw new IOException("the key of now is missing");
        }
        return RecordKeys.of(own.get(changes.size()).publicKey(), changes);
    }

    /**
     * The last place at which leaves lead to what was signed.
     *
     * @param peaks of the tree there
     */
    private record Good(long size, List<byte[]> peaks) {}

    private Good good() throws SQLException {
        var good = new Good(0, List.of());
        var tree = new MerkleFrontier();
        try (var leaves = database.createStatement();
                var checkpoints = database.createStatement()) {
            leaves.setFetchSize(AT_ONCE);
            checkpoints.setFetchSize(AT_ONCE);
            try (var leaf = leaves.executeQuery("SELECT seq, leaf_hash FROM event_leaf ORDER BY seq");
                    var signed = checkpoints.executeQuery("SELECT size, statement FROM checkpoint ORDER BY size")) {
                var more = signed.next();
                while (more && leaf.next() && leaf.getLong(1) == tree.size()) {
                    tree.append(leaf.getBytes(2));
                    while (more && signed.getLong(1) < tree.size()) {
                        more = signed.next();
                    }
                    if (more && signed.getLong(1) == tree.size() && proves(signed.getString(2), tree)) {
                        good = new Good(tree.size(), tree.peaks());
                    }
                }
            }
        }
        return good;
    }

    private boolean proves(String statement, MerkleFrontier tree) {
        try {
            var checkpoint = keys.verify(statement).checkpoint();
            return checkpoint.size() == tree.size()
                    && checkpoint.root().equals(HexFormat.of().formatHex(tree.root()));
        } catch (InvalidDocument e) {
            return false;
        }
    }

    private String carriedOut() throws SQLException {
        var good = good();
        var said = number("SELECT coalesce(max(size), 0) FROM checkpoint");
        var leaves = number("SELECT count(*) FROM event_leaf");
        var peaks = bytes(good.peaks());
        var unsealable = spoiled();
        unsealable.addAll(gone());
        if (good.size() == said && leaves == said && unsealable.isEmpty() && holds(good.size(), peaks)) {
            return "All " + said + " events are proven; nothing has to be repaired.";
        }
        execute("ALTER TABLE event_leaf DISABLE TRIGGER leaf_append_only");
        execute("ALTER TABLE checkpoint DISABLE TRIGGER checkpoint_append_only");
        execute("ALTER TABLE record_key_change DISABLE TRIGGER record_key_change_append_only");
        execute("CREATE TEMP TABLE loose ON COMMIT DROP AS SELECT event FROM event_leaf WHERE seq >= " + good.size());
        var loose = number("SELECT count(*) FROM loose");
        execute("DELETE FROM event_leaf WHERE seq >= " + good.size());
        execute("DELETE FROM checkpoint WHERE size > " + good.size());
        execute("DELETE FROM record_key_change WHERE size > " + good.size());
        execute("DELETE FROM event_subtree WHERE (number + 1) * 256 > " + good.size());
        try (var mend = database.prepareStatement("UPDATE checkpoint SET root = ?, peaks = ? WHERE size = ?")) {
            mend.setBytes(1, new MerkleFrontier(good.size(), good.peaks()).root());
            mend.setBytes(2, peaks);
            mend.setLong(3, good.size());
            mend.executeUpdate();
        }
        execute("INSERT INTO event_waiting (retention_class, occurred_at, events, leaf_hashes, kinds)"
                + " SELECT e.retention_class, e.occurred_at, ARRAY[e.id], ARRAY[e.leaf_hash], ARRAY[e.kind]"
                + " FROM event e JOIN loose l ON l.event = e.id"
                + " WHERE NOT EXISTS (SELECT FROM event_pending p WHERE p.event = e.id)");
        var spoiled = spoiled();
        var lost = ids("SELECT event FROM loose WHERE event NOT IN (SELECT id FROM event)");
        lost.addAll(gone());
        waitNoMore(Stream.concat(spoiled.stream(), lost.stream()).toArray(UUID[]::new));
        // Who reads by positions reads these again: what comes to stand there is another event.
        execute("UPDATE outlet SET position = least(position, " + good.size() + "), lease = lease + 1");
        execute("DELETE FROM outlet_offered WHERE seq >= " + good.size());
        execute("UPDATE notice_follower SET position = least(position, " + good.size() + ")");
        execute("UPDATE checkpoint_told SET size = least(size, " + good.size() + ")");
        execute("ALTER TABLE event_leaf ENABLE TRIGGER leaf_append_only");
        execute("ALTER TABLE checkpoint ENABLE TRIGGER checkpoint_append_only");
        execute("ALTER TABLE record_key_change ENABLE TRIGGER record_key_change_append_only");
        execute("SELECT record_event('record.continued', '{\"changed\":" + spoiled.size() + ",\"loose\":" + loose
                + ",\"lost\":" + lost.size() + ",\"proven\":" + good.size() + ",\"said\":" + said + "}', NULL)");
        return "The record continues after event " + good.size() + " of " + said + " signed events. Of the " + loose
                + " events after that, those that still exist unchanged will be sealed again." + named("Missing", lost)
                + named("Changed, and left unsealed", spoiled)
                + " Restart every node, and remove record.seen on every steward.";
    }

    /** Events that wait and are not there any more. */
    private List<UUID> gone() throws SQLException {
        return ids("SELECT p.event FROM event_pending p WHERE NOT EXISTS"
                + " (SELECT FROM event e WHERE e.id = p.event AND e.occurred_at = p.occurred_at)");
    }

    /** The others of their rows go on waiting. */
    private void waitNoMore(UUID[] events) throws SQLException {
        try (var remove = database.prepareStatement("""
                WITH removed AS (DELETE FROM event_waiting WHERE events && ? RETURNING *)
                INSERT INTO event_waiting (retention_class, occurred_at, events, leaf_hashes, kinds)
                SELECT r.retention_class, r.occurred_at, array_agg(w.event), array_agg(w.leaf_hash), array_agg(w.kind)
                FROM removed r CROSS JOIN LATERAL unnest(r.events, r.leaf_hashes, r.kinds) AS w(event, leaf_hash, kind)
                WHERE w.event <> ALL(?) GROUP BY r.id, r.retention_class, r.occurred_at""")) {
            var those = database.createArrayOf("uuid", events);
            remove.setArray(1, those);
            remove.setArray(2, those);
            remove.executeUpdate();
        }
    }

    private static String named(String what, List<UUID> those) {
        return those.isEmpty()
                ? ""
                : " " + what + ": "
                        + String.join(
                                ", ",
                                those.stream().limit(NAMED).map(UUID::toString).toList())
                        + (those.size() > NAMED ? " and " + (those.size() - NAMED) + " more." : ".");
    }

    private boolean holds(long size, byte[] peaks) throws SQLException {
        try (var statement = database.prepareStatement("SELECT peaks FROM checkpoint WHERE size = ?")) {
            statement.setLong(1, size);
            try (var row = statement.executeQuery()) {
                return !row.next() ? size == 0 : Arrays.equals(row.getBytes(1), peaks);
            }
        }
    }

    private static byte[] bytes(List<byte[]> peaks) {
        var bytes = new byte[32 * peaks.size()];
        for (var i = 0; i < peaks.size(); i++) {
            System.arraycopy(peaks.get(i), 0, bytes, 32 * i, 32);
        }
        return bytes;
    }

    /** Events that wait and don't say what their hash says: the signer would stop at each. */
    private List<UUID> spoiled() throws SQLException {
        var spoiled = new ArrayList<UUID>();
        try (var statement = database.createStatement()) {
            statement.setFetchSize(AT_ONCE);
            try (var row = statement.executeQuery(
                    "SELECT e.id, e.retention_class, e.occurred_at, e.kind, e.attempt, e.reference,"
                            + " e.ordinal, e.revision, e.data, e.commitments, e.leaf_version, e.leaf_hash, w.leaf_hash FROM event_pending"
                            + " w JOIN event e ON e.id = w.event AND e.occurred_at = w.occurred_at")) {
                while (row.next()) {
                    var hash = hash(row);
                    if (!Arrays.equals(hash, row.getBytes(12)) || !Arrays.equals(hash, row.getBytes(13))) {
                        spoiled.add(row.getObject(1, UUID.class));
                    }
                }
            }
        }
        return spoiled;
    }

    private static byte[] hash(ResultSet row) throws SQLException {
        var version = row.getInt(11);
        return new AuditEvent(
                        version,
                        row.getObject(1, UUID.class),
                        row.getTimestamp(3).toInstant().toEpochMilli(),
                        row.getString(4),
                        version == 1 ? null : row.getString(2),
                        row.getObject(5, UUID.class),
                        row.getString(6),
                        row.getInt(7),
                        row.getInt(8),
                        JSON.readValue(row.getString(9), new TypeReference<Map<String, Object>>() {}),
                        JSON.readValue(row.getString(10), new TypeReference<Map<String, String>>() {}))
                .leafHash();
    }

    private void execute(String sql) throws SQLException {
        try (var statement = database.createStatement()) {
            statement.execute(sql);
        }
    }

    private long number(String sql) throws SQLException {
        try (var statement = database.createStatement();
                var row = statement.executeQuery(sql)) {
            row.next();
            return row.getLong(1);
        }
    }

    private List<UUID> ids(String sql) throws SQLException {
        var ids = new ArrayList<UUID>();
        try (var statement = database.createStatement();
                var rows = statement.executeQuery(sql)) {
            while (rows.next()) {
                ids.add(rows.getObject(1, UUID.class));
            }
        }
        return ids;
    }
}
