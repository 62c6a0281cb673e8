package dev.entente.service.attempt;

import dev.entente.service.platform.KeyRing;
import java.util.Base64;
import org.springframework.stereotype.Component;

/** The secrets by which a browser holds an attempt. Kept as HMAC only, under a key from outside the database. */
@Component
class AttemptCookies {
    private final KeyRing keys;

    AttemptCookies(KeyRing keys) {
        this.keys = keys;
    }

    /** Gives the row another cookie; the one before opens nothing any more. */
    String renew(AttemptRow row) {
        var cookie = Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(32));
        row.cookieHash = hash(cookie);
        return cookie;
    }

    byte[] hash(String cookie) {
        return keys.blind("attempt cookie", cookie == null ? "" : cookie);
    }
}
