package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.service.platform.KeyRing;
import jakarta.persistence.LockModeType;
import java.time.InstantSource;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import org.hibernate.Session;
import org.springframework.stereotype.Component;

/** The secrets by which a browser holds an attempt. Kept as HMAC only, under a key from outside the database. */
@Component
class AttemptCookies {
    private final Session database;
    private final KeyRing keys;
    private final InstantSource clock;

    AttemptCookies(Session database, KeyRing keys, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.clock = clock;
    }

    /** Gives the row another cookie; the one before opens nothing any more. */
    String renew(AttemptRow row) {
        var cookie = Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(32));
        row.cookieHash = hash(cookie);
        return cookie;
    }

    /** The attempt that a cookie holds, unless something was proved in it and it was left alone for too long since. */
    Optional<AttemptRow> row(String cookie, LockModeType lock) {
        return database.createQuery("""
                        FROM AttemptRow WHERE cookieHash = :hash
                        AND (idleAt IS NULL OR idleAt > :now OR state NOT IN (:idle))""", AttemptRow.class)
                .setParameter("hash", hash(cookie))
                .setParameter("now", clock.instant())
                .setParameter("idle", List.of(AttemptState.PROVING, AttemptState.PROVED))
                .setLockMode(lock)
                .getResultStream()
                .findFirst();
    }

    byte[] hash(String cookie) {
        return keys.blind("attempt cookie", cookie == null ? "" : cookie);
    }
}
