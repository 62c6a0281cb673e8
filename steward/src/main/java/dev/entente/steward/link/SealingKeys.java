package dev.entente.steward.link;

import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.jwk.Curve;
import com.nimbusds.jose.jwk.ECKey;
import com.nimbusds.jose.jwk.gen.ECKeyGenerator;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.SealingKey;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.security.SecureRandom;
import java.text.ParseException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import tools.jackson.databind.json.JsonMapper;

/**
 * The short-lived keys that passwords are sealed to. A new one comes every few hours; when one's time is over its private
 * half is overwritten and deleted, also when the steward was down meanwhile and starts again. That takes it from later copies
 * of the files; a disk that writes elsewhere than it is told (most flash, some file systems) may still hold the old bytes, so
 * that an encrypted disk is worth having. They are kept on disk meanwhile, for a steward that restarts in the middle of an order
 * has to be able to judge what it did.
 */
public final class SealingKeys {
    private static final Duration LIFE = Duration.ofHours(12);
    private static final Duration RENEW = Duration.ofHours(6);
    private static final JsonMapper JSON = JsonMapper.shared();

    private final Path folder;
    private final StewardState state;
    private final InstantSource clock;
    private final Map<String, StoredKey> keys = new ConcurrentHashMap<>();

    private record StoredKey(String jwk, long notBefore, long notAfter, String statement) {}

    /** Reads the keys that are still in force. */
    public SealingKeys(Path stateFolder, StewardState state, InstantSource clock) throws IOException {
        this.folder = stateFolder.resolve("sealing");
        this.state = state;
        this.clock = clock;
        StewardState.makeFolder(folder);
        try (var files = Files.list(folder)) {
            for (var file : files.filter(f -> f.toString().endsWith(".json")).toList()) {
                var kept = JSON.readValue(Files.readString(file), StoredKey.class);
                keys.put(file.getFileName().toString().replace(".json", ""), kept);
            }
        }
        destroyOld();
    }

    /** Statements to hand in: makes a new key when the newest is old, and destroys those whose time is over. */
    public synchronized List<String> current() throws IOException {
        destroyOld();
        var now = clock.instant();
        var newest = keys.values().stream().max(Comparator.comparingLong(StoredKey::notBefore));
        if (newest.isEmpty()
                || Instant.ofEpochMilli(newest.get().notBefore()).plus(RENEW).isBefore(now)) {
            make(now);
        }
        return keys.values().stream().map(StoredKey::statement).toList();
    }

    /** The private half for a thumbprint, if it is this steward's and in force. */
    public Optional<ECKey> find(String thumbprint) {
        return Optional.ofNullable(keys.get(thumbprint))
                .filter(kept -> kept.notAfter() > clock.millis())
                .map(kept -> parse(kept.jwk()));
    }

    private void make(Instant now) throws IOException {
        try {
            var pair = new ECKeyGenerator(Curve.P_256).generate();
            var publicKey =
                    new EcKey("EC", "P-256", pair.getX().toString(), pair.getY().toString());
            var statement = new SealingKey(
                            1,
                            state.steward(),
                            state.directory(),
                            publicKey,
                            now.toEpochMilli(),
                            now.plus(LIFE).toEpochMilli())
                    .sign(state.identity());
            var kept = new StoredKey(
                    pair.toJSONString(), now.toEpochMilli(), now.plus(LIFE).toEpochMilli(), statement);
            StewardState.writePrivately(
                    folder.resolve(publicKey.thumbprint() + ".json"), JSON.writeValueAsString(kept));
            keys.put(publicKey.thumbprint(), kept);
        } catch (JOSEException e) {
            throw new IllegalStateException("no key could be made", e);
        }
    }

    private void destroyOld() throws IOException {
        for (var entry : List.copyOf(keys.entrySet())) {
            if (entry.getValue().notAfter() <= clock.millis()) {
                keys.remove(entry.getKey());
                var file = folder.resolve(entry.getKey() + ".json");
                overwrite(file);
                Files.deleteIfExists(file);
            }
        }
    }

    /** In its place, not beside it: a new file would leave the old bytes where they are. */
    private static void overwrite(Path file) throws IOException {
        try (var channel = FileChannel.open(file, StandardOpenOption.WRITE)) {
            var noise = new byte[(int) channel.size()];
            new SecureRandom().nextBytes(noise);
            channel.write(ByteBuffer.wrap(noise));
            channel.force(true);
        }
    }

    private static ECKey parse(String jwk) {
        try {
            return ECKey.parse(jwk);
        } catch (ParseException e) {
            throw new IllegalStateException("a sealing key on disk cannot be read", e);
        }
    }
}
