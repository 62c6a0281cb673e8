package dev.entente.service.directory;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.StewardCall;
import jakarta.servlet.http.HttpServletRequest;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;
import org.hibernate.Session;
import org.springframework.http.HttpHeaders;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/**
 * Checks that a call was signed by a steward, about this very call, just now and only once. Nodes remember stewards and their
 * keys; what is remembered is believed only as far as the statement that takes the call finds the same in the database.
 */
@Component
public class StewardCalls {
    private static final String SCHEME = "Steward ";
    private static final int MOST_REMEMBERED = 10_000;

    private final Session database;
    private final Directories directories;
    private final JsonMapper json;
    private final InstantSource clock;
    private final Map<UUID, RememberedSteward> known = new ConcurrentHashMap<>();

    StewardCalls(Session database, Directories directories, JsonMapper json, InstantSource clock) {
        this.database = database;
        this.directories = directories;
        this.json = json;
        this.clock = clock;
    }

    /** Who calls. */
    public record Caller(UUID steward, String name, UUID directory, String directoryName) {}

    /**
     * A call that a steward signed, as far as this node remembers it; whether the steward is still what it was, and whether the
     * call was made before, is for the statement that takes it to find out.
     *
     * @param key as the database has it, to be compared with what is there now
     */
    record Signed(Caller caller, String key, String jti, Instant expires) {}

    /** Takes a signed call with one statement; empty if it was made before or the steward is not what it was. */
    interface Taking<T> {
        Optional<T> take(Signed signed);
    }

    /**
     * Takes a call within the transaction of what it asks for.
     *
     * @param body exactly as received
     * @throws Problem 401 if the call is not signed as it should be, or was made before
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public Caller check(HttpServletRequest request, String body) {
        return take(
                request,
                body,
                signed -> Sql.change(database, """
                        INSERT INTO steward_call (jti, expires_at) SELECT :jti, :expires FROM steward s
                        WHERE s.id = :id AND s.retired_at IS NULL AND s.identity_key = cast(:key AS jsonb)
                        ON CONFLICT DO NOTHING""")
                                        .setParameter("jti", signed.jti())
                                        .setParameter("expires", signed.expires())
                                        .setParameter("id", signed.caller().steward())
                                        .setParameter("key", signed.key())
                                        .executeUpdate()
                                == 0
                        ? Optional.empty()
                        : Optional.of(signed.caller()));
    }

    /** Takes a call by a statement of the caller's. */
    @Transactional(propagation = Propagation.MANDATORY)
    <T> T take(HttpServletRequest request, String body, Taking<T> taking) {
        var id = id(request);
        var remembered = known.get(id);
        Supplier<Problem> refused = StewardCalls::madeBefore;
        if (remembered != null) {
            try {
                var taken = taking.take(signed(remembered, request, body));
                if (taken.isPresent()) {
                    return taken.get();
                }
            } catch (Problem problem) {
                // It may have joined anew with another key.
                refused = () -> problem;
            }
        }
        var now = read(id);
        if (now.equals(remembered)) {
            throw refused.get();
        }
        remember(id, now);
        return taking.take(signed(now, request, body)).orElseThrow(StewardCalls::madeBefore);
    }

    /** What is remembered of a steward that serves. */
    private record RememberedSteward(Caller caller, EcKey key, String keyText) {}

    private RememberedSteward read(UUID id) {
        var row = Optional.ofNullable(database.find(StewardRow.class, id)).orElseThrow(StewardCalls::unknown);
        database.refresh(row);
        if (row.retiredAt != null) {
            throw Problem.of("steward-retired");
        }
        return new RememberedSteward(
                new Caller(
                        row.id,
                        row.name,
                        row.directory,
                        directories.get(row.directory).name()),
                row.identityKey,
                json.writeValueAsString(row.identityKey));
    }

    private void remember(UUID id, RememberedSteward now) {
        if (known.size() > MOST_REMEMBERED) {
            known.clear();
        }
        known.put(id, now);
    }

    private Signed signed(RememberedSteward by, HttpServletRequest request, String body) {
        try {
            var header = request.getHeader(HttpHeaders.AUTHORIZATION).split(" ", -1);
            var call = StewardCall.verify(
                    header[2], by.key(), request.getMethod(), request.getRequestURI(), body, clock.instant());
            if (!call.iss().equals(by.caller().steward())) {
                throw new InvalidDocument("call", "the signature is another steward's");
            }
            return new Signed(
                    by.caller(), by.keyText(), call.jti(), clock.instant().plus(StewardCall.MAX_AGE.multipliedBy(3)));
        } catch (InvalidDocument e) {
            throw refused(e.reason(), e.getMessage());
        }
    }

    static Problem madeBefore() {
        return refused("call", "this call was made before");
    }

    private static Problem refused(String reason, String why) {
        return Problem.named("steward-" + reason, "steward-format").with("why", why);
    }

    /** The row of the steward that calls, to be changed. */
    StewardRow row(HttpServletRequest request) {
        return Optional.ofNullable(database.find(StewardRow.class, id(request))).orElseThrow(StewardCalls::unknown);
    }

    private static UUID id(HttpServletRequest request) {
        var header = request.getHeader(HttpHeaders.AUTHORIZATION);
        if (header != null && header.startsWith(SCHEME)) {
            var parts = header.split(" ", -1);
            try {
                if (parts.length == 3) {
                    return UUID.fromString(parts[1]);
                }
            } catch (IllegalArgumentException e) {
                // Falls through to the same answer as an unknown steward.
            }
        }
        throw unknown();
    }

    private static Problem unknown() {
        return Problem.of("steward-unknown");
    }

    @Scheduled(fixedDelay = 60_000)
    @Transactional
    void forget() {
        Sql.change(database, "DELETE FROM steward_call WHERE expires_at < entente_now()")
                .executeUpdate();
    }
}
