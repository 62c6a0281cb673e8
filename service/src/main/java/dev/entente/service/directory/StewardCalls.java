package dev.entente.service.directory;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.service.platform.Problem;
import dev.entente.wire.StewardCall;
import jakarta.servlet.http.HttpServletRequest;
import java.time.InstantSource;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Checks that a call was signed by a steward, about this very call, just now and only once. */
@Component
public class StewardCalls {
    private static final String SCHEME = "Steward ";

    private final Session database;
    private final InstantSource clock;

    StewardCalls(Session database, InstantSource clock) {
        this.database = database;
        this.clock = clock;
    }

    /** Who calls. */
    public record Caller(UUID steward, String name, UUID directory) {}

    /**
     * @param body exactly as received
     * @throws Problem 401 if the call is not signed as it should be
     */
    @Transactional
    public Caller check(HttpServletRequest request, String body) {
        // Not waited for on disk: a call that came again after a crash would find its order in another state.
        database.createNativeQuery("SELECT set_config('synchronous_commit', 'off', true)", String.class)
                .getSingleResult();
        var row = row(request);
        if (row.retiredAt != null) {
            throw Problem.of(
                    HttpStatus.UNAUTHORIZED, "steward-retired", "This steward was retired and serves nobody any more.");
        }
        try {
            var header = request.getHeader(HttpHeaders.AUTHORIZATION).split(" ", -1);
            var call = StewardCall.verify(
                    header[2], row.identityKey, request.getMethod(), request.getRequestURI(), body, clock.instant());
            if (!call.iss().equals(row.id)) {
                throw new InvalidDocument("call", "the signature is another steward's");
            }
            var taken = database.createNativeMutationQuery("""
                            INSERT INTO steward_call (jti, expires_at) VALUES (:jti, :expires)
                            ON CONFLICT DO NOTHING""")
                    .setParameter("jti", call.jti())
                    .setParameter("expires", clock.instant().plus(StewardCall.MAX_AGE.multipliedBy(3)))
                    .executeUpdate();
            if (taken == 0) {
                throw new InvalidDocument("call", "this call was made before");
            }
        } catch (InvalidDocument e) {
            throw Problem.of(
                    HttpStatus.UNAUTHORIZED, "steward-" + e.reason(), "The call is refused: " + e.getMessage() + ".");
        }
        return new Caller(row.id, row.name, row.directory);
    }

    StewardRow row(HttpServletRequest request) {
        var header = request.getHeader(HttpHeaders.AUTHORIZATION);
        if (header != null && header.startsWith(SCHEME)) {
            var parts = header.split(" ", -1);
            try {
                var row = parts.length == 3 ? database.find(StewardRow.class, UUID.fromString(parts[1])) : null;
                if (row != null) {
                    return row;
                }
            } catch (IllegalArgumentException e) {
                // Falls through to the same answer as an unknown steward.
            }
        }
        throw Problem.of(HttpStatus.UNAUTHORIZED, "steward-unknown", "This steward is not known here.");
    }

    @Scheduled(fixedDelay = 60_000)
    @Transactional
    void forget() {
        database.createNativeMutationQuery("DELETE FROM steward_call WHERE expires_at < now()")
                .executeUpdate();
    }
}
