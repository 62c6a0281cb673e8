package dev.entente.service.attempt;

import dev.entente.service.platform.KeyRing;
import jakarta.persistence.LockModeType;
import java.util.Base64;
import java.util.Optional;
import org.hibernate.Session;
import org.springframework.stereotype.Component;

/** The secrets by which a browser holds an attempt. Kept as HMAC only, under a key from outside the database. */
@Component
class AttemptCookies {
    private final Session database;
    private final KeyRing keys;

    AttemptCookies(Session database, KeyRing keys) {
        this.database = database;
        this.keys = keys;
    }

    /** Gives the row another cookie; the one before opens nothing any more. */
    String renew(AttemptRow row) {
        var cookie = Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(32));
        row.cookieHash = hash(cookie);
        return cookie;
    }

    /** The attempt that a cookie holds. */
    Optional<AttemptRow> row(String cookie, LockModeType lock) {
        return database.createQuery("FROM AttemptRow WHERE cookieHash = :hash", AttemptRow.class)
                .setParameter("hash", hash(cookie))
                .setLockMode(lock)
                .getResultStream()
                .findFirst();
    }

    byte[] hash(String cookie) {
        return keys.blind("attempt cookie", cookie == null ? "" : cookie);
    }
}
