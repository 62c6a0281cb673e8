package dev.entente.service.directory;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Roster;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.DirectoryApi;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Stewards that join a directory, and the signed rosters that make them serve it. */
@Component
class Rosters {
    private static final Duration JOIN_CODE_LIFE = Duration.ofHours(1);

    private final Session database;
    private final Directories directories;
    private final EventLog events;
    private final KeyRing keys;
    private final InstantSource clock;

    Rosters(Session database, Directories directories, EventLog events, KeyRing keys, InstantSource clock) {
        this.database = database;
        this.directories = directories;
        this.events = events;
        this.keys = keys;
        this.clock = clock;
    }

    @Transactional
    DirectoryApi.JoinCode admit(String name, String steward, String administrator) {
        var directory = directories.named(name);
        if (steward == null || !steward.matches("[a-z0-9][a-z0-9-]{0,62}")) {
            throw Problem.of("steward-name");
        }
        // A letter first: a code that began with a dash would look like an option where it is typed.
        var code = "J" + Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(20));
        var expires = clock.instant().plus(JOIN_CODE_LIFE);
        Sql.change(database, """
                        INSERT INTO join_code (code_hash, directory, steward, expires_at)
                        VALUES (:hash, :directory, :steward, :expires)""")
                .setParameter("hash", keys.blind("join code", code))
                .setParameter("directory", directory.id)
                .setParameter("steward", steward)
                .setParameter("expires", expires)
                .executeUpdate();
        events.write(NewEvent.administration("steward.admitted", administrator)
                .with("steward", steward)
                .with("directory", directory.name));
        return new DirectoryApi.JoinCode(code, keys.serviceKey().publicKey().thumbprint(), directory.id, expires);
    }

    private record Admitted(UUID directory, String steward) {}

    /** Takes a steward's public keys; it serves nobody until the operator key has signed it in. */
    @Transactional(noRollbackFor = Problem.class)
    Joining join(String code, EcKey identityKey, String version) {
        var admitted = Sql.rows(database, """
                        UPDATE join_code SET used_at = entente_now() WHERE code_hash = :hash AND used_at IS NULL AND expires_at > :now
                        RETURNING directory, steward""", Admitted.class)
                .setParameter("hash", keys.blind("join code", code == null ? "" : code))
                .setParameter("now", clock.instant())
                .getResultStream()
                .findFirst()
                .orElse(null);
        if (admitted == null) {
            events.write(NewEvent.operation("steward.join-refused").with("why", "unknown, used or too old"));
            throw Problem.of("join-code");
        }
        var row = new StewardRow();
        row.id = UUID.randomUUID();
        row.directory = admitted.directory();
        row.name = admitted.steward();
        replace(row.directory, row.name);
        row.identityKey = identityKey;
        row.version = version == null ? "?" : StewardPresence.bounded(version, 40);
        row.joinedAt = clock.instant();
        row.lastSeen = Instant.EPOCH;
        database.persist(row);
        var directory = database.find(DirectoryRow.class, row.directory);
        events.write(NewEvent.operation("steward.joined")
                .with("steward", row.name)
                .with("directory", directory.name)
                .with("key", identityKey.thumbprint()));
        return new Joining(row, directory);
    }

    /** A steward that joins under a name in use replaces the one before, which serves until the next roster is signed. */
    private void replace(UUID directory, String name) {
        directories.stewards(directory).stream()
                .filter(s -> s.name.equals(name))
                .findFirst()
                .ifPresent(before -> {
                    before.replaced = true;
                    before.name = name + " until " + clock.instant().toString().substring(0, 16);
                    database.flush();
                    events.write(NewEvent.operation("steward.replaced").with("steward", name));
                });
    }

    record Joining(StewardRow steward, DirectoryRow directory) {}

    @Transactional(noRollbackFor = Problem.class)
    void put(String name, String signed, String administrator) {
        var directory = directories.named(name);
        Roster roster;
        try {
            roster = Roster.verify(signed, directory.operatorKey, directory.id);
        } catch (InvalidDocument e) {
            events.write(NewEvent.administration("roster.refused", administrator)
                    .with("directory", directory.name)
                    .with("why", e.getMessage()));
            throw Problem.of("roster-refused").with("why", e.getMessage());
        }
        if (roster.version() != directory.rosterVersion + 1) {
            throw Problem.of("roster-version")
                    .with("rosterVersion", directory.rosterVersion)
                    .with("what", (directory.rosterVersion + 1));
        }
        var joined = directories.stewards(directory.id);
        for (var member : roster.stewards()) {
            if (joined.stream().noneMatch(s -> s.id.equals(member.id()) && s.identityKey.equals(member.key()))) {
                throw Problem.of("roster-unknown-steward").with("name", member.name());
            }
        }
        for (var steward : joined) {
            var was = directory.roster != null
                    && Directories.served(directory)
                            .stewards()
                            .flatMap(r -> r.member(steward.id))
                            .isPresent();
            if (was && roster.member(steward.id).isEmpty()) {
                retire(steward, directory, administrator);
            }
        }
        var first = directory.roster == null;
        if (first) {
            directory.preflightDueAt = clock.instant();
            directory.syncDueAt = clock.instant();
        }
        directory.roster = signed;
        directory.rosterVersion = roster.version();
        events.write(NewEvent.administration("roster.signed", administrator)
                .with("directory", directory.name)
                .with("version", roster.version())
                .with("stewards", roster.stewards().size()));
    }

    private void retire(StewardRow steward, DirectoryRow directory, String administrator) {
        steward.retiredAt = clock.instant();
        Sql.change(database, "DELETE FROM sealing_key WHERE steward = :steward")
                .setParameter("steward", steward.id)
                .executeUpdate();
        events.write(NewEvent.administration("steward.retired", administrator)
                .with("steward", steward.name)
                .with("directory", directory.name));
    }
}
