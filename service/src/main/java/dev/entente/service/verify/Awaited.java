package dev.entente.service.verify;

import dev.entente.core.verify.AnsweredElsewhere;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Sql;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** What waits to be agreed to elsewhere: on a device, in a mailbox, by the staff. Each is answered once and counts once. */
@Component
@Transactional(propagation = Propagation.MANDATORY)
public class Awaited implements AnsweredElsewhere.Store {
    /** Where so many wrong numbers were typed, nothing is asked any more. */
    private static final int WRONG = 3;

    private static final int MOST_SHOWN = 5;
    private static final int TOKEN = 24;
    private static final Duration KEPT = Duration.ofDays(1);
    private static final String COLUMNS =
            "challenge, method, person, attempt, shown, attempt_key, action, network, policy, revision, created_at,"
                    + " expires_at, wrong, first_by, first_person";

    private final Session database;
    private final KeyRing keys;
    private final ApplicationEventPublisher publisher;
    private final InstantSource clock;

    Awaited(Session database, KeyRing keys, ApplicationEventPublisher publisher, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.publisher = publisher;
        this.clock = clock;
    }

    /**
     * What waits.
     *
     * @param shown the number on the page that asked
     * @param attemptKey thumbprint of the attempt's key (RFC 7638)
     * @param firstBy who of two agreed already; null if nobody did
     * @param firstPerson the same as a person
     */
    public record Request(
            UUID challenge,
            String method,
            UUID person,
            UUID attempt,
            String shown,
            String attemptKey,
            String action,
            String network,
            String policy,
            Integer revision,
            Instant createdAt,
            Instant expiresAt,
            int wrong,
            String firstBy,
            UUID firstPerson) {
        /** Whether this is the number on the page that asked. */
        public boolean shows(String number) {
            return number != null
                    && MessageDigest.isEqual(
                            shown.getBytes(StandardCharsets.US_ASCII),
                            number.strip().getBytes(StandardCharsets.UTF_8));
        }
    }

    @Override
    public Optional<String> ask(Verifier.Ring ring, Method method, String number) {
        // What the staff are asked can reach a manager by a link as well.
        var token = method.sent() || method.facts().source() == Method.Source.STAFF
                ? Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(TOKEN))
                : null;
        Sql.change(database, """
                        INSERT INTO awaited (challenge, method, person, attempt, shown, attempt_key, action, network, policy,
                            revision, token_hash, created_at, expires_at)
                        VALUES (:challenge, :method, :person, :attempt, :number, :key, :action, :network, :policy,
                            :revision, cast(:token AS bytea), :now, :expires)""")
                .setParameter("challenge", ring.challenge())
                .setParameter("method", method.label())
                .setParameter("person", ring.person())
                .setParameter("attempt", ring.attempt())
                .setParameter("number", number)
                .setParameter("key", ring.key())
                .setParameter("action", ring.action())
                .setParameter("network", ring.network())
                .setParameter("policy", ring.policy())
                .setParameter("revision", ring.revision())
                .setParameter("token", token == null ? null : keys.blind("link", token))
                .setParameter("now", clock.instant())
                .setParameter("expires", ring.expires())
                .executeUpdate();
        return Optional.ofNullable(token);
    }

    /** What waits for a person, the oldest first; at most five. */
    public List<Request> of(UUID person, Method method) {
        return Sql.rows(
                        database,
                        "SELECT " + COLUMNS + " FROM awaited WHERE person = :person AND method = :method"
                                + " AND verdict IS NULL AND expires_at > :now ORDER BY created_at LIMIT " + MOST_SHOWN,
                        Request.class)
                .setParameter("person", person)
                .setParameter("method", method.label())
                .setParameter("now", clock.instant())
                .getResultList();
    }

    /** One that waits, locked until the transaction ends; empty if it was answered or is over. */
    public Optional<Request> find(UUID challenge, Method method) {
        return Sql.rows(
                        database,
                        "SELECT " + COLUMNS + " FROM awaited WHERE challenge = :id AND method = :method"
                                + " AND verdict IS NULL AND expires_at > :now FOR UPDATE",
                        Request.class)
                .setParameter("id", challenge)
                .setParameter("method", method.label())
                .setParameter("now", clock.instant())
                .getResultStream()
                .findFirst();
    }

    /** The one that a method's link leads to, locked until the transaction ends; empty if it was answered or is over. */
    public Optional<Request> linked(String token, Method method) {
        return Sql.rows(
                        database,
                        "SELECT " + COLUMNS + " FROM awaited WHERE token_hash = :hash AND method = :method"
                                + " AND verdict IS NULL AND expires_at > :now FOR UPDATE",
                        Request.class)
                .setParameter("hash", keys.blind("link", token == null ? "" : token))
                .setParameter("method", method.label())
                .setParameter("now", clock.instant())
                .getResultStream()
                .findFirst();
    }

    /**
     * It was agreed to.
     *
     * @param by who or what did
     * @param signed what they signed; null if nothing was
     */
    public void agree(Request request, String by, String signed) {
        end(request, "approved", by, signed);
    }

    /** It was denied; the person and administrators are told. */
    public void deny(Request request, String by, String signed, String why) {
        end(request, "denied", by, signed);
        publisher.publishEvent(new Enrolments.DeniedElsewhere(request.challenge(), request.person(), why));
    }

    /** A wrong number was typed; after three nothing is asked any more, and the person and administrators are told. */
    public void wrong(Request request, String by, String signed) {
        Sql.change(database, "UPDATE awaited SET wrong = wrong + 1 WHERE challenge = :id")
                .setParameter("id", request.challenge())
                .executeUpdate();
        if (request.wrong() + 1 >= WRONG) {
            end(request, "wrong-number", by, signed);
            publisher.publishEvent(new Enrolments.DeniedElsewhere(
                    request.challenge(), request.person(), "answered with wrong numbers"));
        }
    }

    /** The first of two agreed. */
    public void first(Request request, String by, UUID person) {
        Sql.change(database, "UPDATE awaited SET first_by = :by, first_person = :person WHERE challenge = :id")
                .setParameter("person", person)
                .setParameter("by", by)
                .setParameter("id", request.challenge())
                .executeUpdate();
    }

    /** Attempts that ended: nothing that they wait for can be agreed to any more. */
    public void over(Collection<UUID> attempts) {
        if (!attempts.isEmpty()) {
            Sql.change(database, """
                            UPDATE awaited SET expires_at = :now WHERE attempt = ANY (:attempts) AND verdict IS NULL
                            AND expires_at > :now""")
                    .setParameter("now", clock.instant())
                    .setParameter("attempts", attempts.toArray(UUID[]::new))
                    .executeUpdate();
        }
    }

    private void end(Request request, String verdict, String by, String signed) {
        Sql.change(database, """
                        UPDATE awaited SET verdict = :verdict, answered_by = :by, signed = :signed
                        WHERE challenge = :id""")
                .setParameter("verdict", verdict)
                .setParameter("by", by)
                .setParameter("signed", signed)
                .setParameter("id", request.challenge())
                .executeUpdate();
    }

    @Override
    public boolean approved(UUID challenge) {
        return !Sql.values(
                        database,
                        "SELECT 1 FROM awaited WHERE challenge = :id AND verdict = 'approved' AND NOT used",
                        Integer.class)
                .setParameter("id", challenge)
                .getResultList()
                .isEmpty();
    }

    @Override
    public boolean take(UUID challenge, UUID person) {
        return Sql.change(database, """
                                UPDATE awaited SET used = true WHERE challenge = :id AND person = :person
                                AND verdict = 'approved' AND NOT used""")
                        .setParameter("id", challenge)
                        .setParameter("person", person)
                        .executeUpdate()
                == 1;
    }

    @Scheduled(fixedDelay = 600_000)
    @Transactional
    void purge() {
        Sql.change(database, "DELETE FROM awaited WHERE expires_at < :before")
                .setParameter("before", clock.instant().minus(KEPT))
                .executeUpdate();
    }
}
