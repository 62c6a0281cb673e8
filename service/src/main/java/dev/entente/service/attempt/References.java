package dev.entente.service.attempt;

import dev.entente.core.attempt.Reference;
import dev.entente.service.platform.Sql;
import java.security.SecureRandom;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** Short names of attempts. One that was given to somebody's attempt is never given again, also when the attempt is purged. */
@Component
@Transactional(propagation = Propagation.MANDATORY)
class References {
    private final Session database;
    private final SecureRandom random;

    References(Session database, SecureRandom random) {
        this.database = database;
        this.random = random;
    }

    /** One that nobody has. */
    String free() {
        for (var round = 0; round < 20; round++) {
            var reference = Reference.random(random).digits();
            var taken = Sql.values(database, """
                            SELECT (SELECT count(*) FROM attempt WHERE reference = :r)
                                + (SELECT count(*) FROM kept_reference WHERE reference = :r)""", Long.class)
                    .setParameter("r", reference)
                    .getSingleResult();
            if (taken == 0) {
                return reference;
            }
        }
        throw new IllegalStateException("no free reference found");
    }
}
