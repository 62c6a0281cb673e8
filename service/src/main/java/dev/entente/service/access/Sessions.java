package dev.entente.service.access;

import dev.entente.core.seal.EcKey;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.AccessApi;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Sessions of the console and tokens of the command line: rows of plain values, found by the SHA-256 of 32 random bytes. Each
 * ends when it is not used for a while, and in any case after twelve hours.
 */
@Component
@Transactional
class Sessions {
    /** However much it is used. */
    static final Duration LONGEST = Duration.ofHours(12);

    private static final Duration IDLE = Duration.ofHours(2);
    private static final int LONGEST_CLIENT = 120;

    private final org.hibernate.Session database;
    private final KeyRing keys;
    private final InstantSource clock;

    Sessions(Session database, KeyRing keys, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.clock = clock;
    }

    /** What a session is. */
    enum Kind {
        CONSOLE("console"),
        COMMAND_LINE("command-line");

        private final String label;

        Kind(String label) {
            this.label = label;
        }
    }

    /** A session and its secret, which is shown this once. */
    record Made(String token, Instant endsAt) {}

    /**
     * Who calls.
     *
     * @param setUpFirst whether nothing but setting up a second factor is permitted
     * @param confirmedAt when a second factor was asked for last
     */
    record SignedIn(
            UUID session,
            UUID administrator,
            String login,
            String name,
            String role,
            boolean secondFactor,
            boolean setUpFirst,
            Instant confirmedAt) {}

    Made make(UUID administrator, Kind kind, String network, String client) {
        var prefix = kind == Kind.COMMAND_LINE ? "ent_" : "";
        var token = prefix + Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(32));
        var now = clock.instant();
        Sql.change(database, """
                        INSERT INTO administrator_session (id, token_hash, administrator, kind, network, client, made_at,
                            last_used_at, ends_at, confirmed_at)
                        VALUES (:id, :hash, :administrator, :kind, :network, :client, :now, :now, :ends, :now)""")
                .setParameter("id", UUID.randomUUID())
                .setParameter("hash", hash(token))
                .setParameter("administrator", administrator)
                .setParameter("kind", kind.label)
                .setParameter("network", network)
                .setParameter(
                        "client", client == null ? "" : client.substring(0, Math.min(LONGEST_CLIENT, client.length())))
                .setParameter("now", now)
                .setParameter("ends", now.plus(LONGEST))
                .executeUpdate();
        return new Made(token, now.plus(LONGEST));
    }

    private record InForce(
            UUID id,
            UUID administrator,
            String login,
            String name,
            String role,
            boolean second,
            Instant confirmedAt,
            Instant lastUsedAt,
            boolean secondRequired) {}

    /** Whose session this is, if it is in force; it counts as used. */
    Optional<SignedIn> find(String token, Kind kind) {
        var now = clock.instant();
        return Sql.rows(database, """
                        SELECT s.id, a.id AS administrator, a.login, a.name, a.role, a.second_since IS NOT NULL AS second,
                            s.confirmed_at, s.last_used_at, EXISTS (SELECT FROM switched_on
                                WHERE name = 'second-factor-required') AS second_required
                        FROM administrator_session s JOIN administrator a ON a.id = s.administrator
                        WHERE s.token_hash = :hash AND s.kind = :kind AND s.ends_at > :now AND s.last_used_at > :idle
                        AND a.suspended_at IS NULL""", InForce.class)
                .setParameter("hash", hash(token))
                .setParameter("kind", kind.label)
                .setParameter("now", now)
                .setParameter("idle", now.minus(IDLE))
                .getResultStream()
                .findFirst()
                .map(found -> {
                    // Once a minute is exact enough, and writes little.
                    if (found.lastUsedAt().isBefore(now.minusSeconds(60))) {
                        Sql.change(database, "UPDATE administrator_session SET last_used_at = :now WHERE id = :id")
                                .setParameter("now", now)
                                .setParameter("id", found.id())
                                .executeUpdate();
                    }
                    return new SignedIn(
                            found.id(),
                            found.administrator(),
                            found.login(),
                            found.name(),
                            found.role(),
                            found.second(),
                            found.secondRequired() && !found.second(),
                            found.confirmedAt());
                });
    }

    /** A second factor was right just now. */
    void confirmed(UUID session) {
        Sql.change(database, "UPDATE administrator_session SET confirmed_at = :now WHERE id = :id")
                .setParameter("now", clock.instant())
                .setParameter("id", session)
                .executeUpdate();
    }

    /** Those of one administrator, the latest first. */
    @Transactional(readOnly = true)
    public List<AccessApi.OwnSession> of(UUID administrator, UUID here) {
        return Sql.rows(database, """
                        SELECT id, kind, network, client, made_at, last_used_at, ends_at, id = :here AS here
                        FROM administrator_session
                        WHERE administrator = :administrator AND ends_at > :now AND last_used_at > :idle
                        ORDER BY last_used_at DESC LIMIT 200""", AccessApi.OwnSession.class)
                .setParameter("here", here)
                .setParameter("administrator", administrator)
                .setParameter("now", clock.instant())
                .setParameter("idle", clock.instant().minus(IDLE))
                .getResultList();
    }

    /** When somebody was there last; null if never. */
    @Transactional(readOnly = true)
    public Instant lastUsed(UUID administrator) {
        return Sql.values(
                        database,
                        "SELECT max(last_used_at) FROM administrator_session WHERE administrator = :administrator",
                        Instant.class)
                .setParameter("administrator", administrator)
                .getResultStream()
                .filter(at -> at != null)
                .findFirst()
                .orElse(null);
    }

    /** Ends one of somebody's own. */
    void end(UUID administrator, UUID session) {
        var ended = Sql.change(
                        database, "DELETE FROM administrator_session WHERE id = :id AND administrator = :administrator")
                .setParameter("id", session)
                .setParameter("administrator", administrator)
                .executeUpdate();
        if (ended == 0) {
            throw Problem.of("session-not-found");
        }
    }

    /** @param but the one to be kept, or null */
    void endAll(UUID administrator, UUID but) {
        Sql.change(database, "DELETE FROM administrator_session WHERE administrator = :administrator AND id <> :but")
                .setParameter("administrator", administrator)
                .setParameter("but", but == null ? new UUID(0, 0) : but)
                .executeUpdate();
    }

    @Scheduled(fixedDelay = 600_000)
    void forget() {
        Sql.change(database, "DELETE FROM administrator_session WHERE ends_at < :now")
                .setParameter("now", clock.instant())
                .executeUpdate();
    }

    private static byte[] hash(String token) {
        return EcKey.digest(token).getBytes(StandardCharsets.US_ASCII);
    }
}
