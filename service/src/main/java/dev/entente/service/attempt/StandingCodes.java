package dev.entente.service.attempt;

import dev.entente.core.verify.Method;
import dev.entente.core.verify.OneTimeCode;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Sql;
import java.security.SecureRandom;
import java.time.Instant;
import java.time.InstantSource;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * The last code that a person is sent in an hour is good for the whole of it and in any attempt of theirs, so that strangers
 * who ask for codes in their name take no code from them. Nobody guesses it, and it is good once.
 */
@Component
class StandingCodes {
    private final Session database;
    private final KeyRing keys;
    private final SecureRandom random;
    private final InstantSource clock;

    StandingCodes(Session database, KeyRing keys, SecureRandom random, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.random = random;
        this.clock = clock;
    }

    @Transactional(propagation = Propagation.MANDATORY)
    OneTimeCode make(UUID person, Method method, Instant until) {
        var code = OneTimeCode.beyondGuessing(random);
        Sql.change(database, """
                        INSERT INTO standing_code (id, person, code_hash, expires_at)
                        VALUES (:id, :person, :hash, :until)""")
                .setParameter("id", UUID.randomUUID())
                .setParameter("person", person)
                .setParameter("hash", hash(person, method, code))
                .setParameter("until", until)
                .executeUpdate();
        return code;
    }

    /** Uses what was typed up, if it is one of this person's. */
    @Transactional(propagation = Propagation.MANDATORY)
    boolean take(UUID person, Method method, String typed) {
        var code = OneTimeCode.parse(typed);
        // What is looked for is a keyed hash: how long the index takes tells nothing of any code.
        return code.isPresent()
                && Sql.change(database, """
                                UPDATE standing_code SET used_at = :now WHERE person = :person AND code_hash = :hash
                                AND used_at IS NULL AND expires_at > :now""")
                                .setParameter("now", clock.instant())
                                .setParameter("person", person)
                                .setParameter("hash", hash(person, method, code.get()))
                                .executeUpdate()
                        == 1;
    }

    /** What was mailed is no answer to what was sent to a telephone. */
    private byte[] hash(UUID person, Method method, OneTimeCode code) {
        return code.hash(keys.derived("standing codes by " + method), person);
    }

    @Scheduled(fixedDelay = 600_000)
    @Transactional
    void forget() {
        Sql.change(database, "DELETE FROM standing_code WHERE expires_at < :now")
                .setParameter("now", clock.instant())
                .executeUpdate();
    }
}
