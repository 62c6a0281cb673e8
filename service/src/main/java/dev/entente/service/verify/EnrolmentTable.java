package dev.entente.service.verify;

import dev.entente.core.verify.Method;
import dev.entente.service.platform.Sql;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** What methods ask of enrolments while they judge. */
@Component
@Transactional(propagation = Propagation.MANDATORY)
public class EnrolmentTable {
    private final Session database;
    private final InstantSource clock;

    EnrolmentTable(Session database, InstantSource clock) {
        this.database = database;
        this.clock = clock;
    }

    /** Those of one method that count for a person, oldest first. */
    public List<UUID> of(UUID person, Method method) {
        return Sql.values(database, """
                        SELECT id FROM enrolment WHERE person = :person AND method = :method
                        AND confirmed_at IS NOT NULL AND removed_at IS NULL ORDER BY confirmed_at""", UUID.class)
                .setParameter("person", person)
                .setParameter("method", method.label())
                .getResultList();
    }

    /** All that count for a person, whatever the method. */
    public List<UUID> of(UUID person) {
        return Sql.values(database, """
                        SELECT id FROM enrolment WHERE person = :person AND confirmed_at IS NOT NULL AND removed_at IS NULL""", UUID.class)
                .setParameter("person", person)
                .getResultList();
    }

    /** Whose one is; empty if it does not count. */
    public Optional<UUID> owner(UUID id, Method method) {
        return Sql.values(database, """
                        SELECT person FROM enrolment WHERE id = :id AND method = :method
                        AND confirmed_at IS NOT NULL AND removed_at IS NULL""", UUID.class)
                .setParameter("id", id)
                .setParameter("method", method.label())
                .getResultStream()
                .findFirst();
    }

    /**
     * Ends those that count, since a new one takes their place.
     *
     * @param by the new one
     * @return those that ended; their secrets are still there
     */
    public List<UUID> replace(UUID person, UUID by, Method method) {
        return Sql.values(database, """
                        UPDATE enrolment SET removed_at = :now, changed_in = this_transaction()
                        WHERE person = :person AND method = :method AND id <> :by
                        AND confirmed_at IS NOT NULL AND removed_at IS NULL RETURNING id""", UUID.class)
                .setParameter("now", clock.instant())
                .setParameter("person", person)
                .setParameter("method", method.label())
                .setParameter("by", by)
                .getResultList();
    }

    /** How its person calls it. */
    public String label(UUID id) {
        return Sql.values(database, "SELECT label FROM enrolment WHERE id = :id", String.class)
                .setParameter("id", id)
                .getSingleResult();
    }

    /** It counts no more. */
    public void end(UUID id) {
        Sql.change(database, "UPDATE enrolment SET removed_at = :now, changed_in = this_transaction() WHERE id = :id")
                .setParameter("now", clock.instant())
                .setParameter("id", id)
                .executeUpdate();
    }

    /** It recognised its person just now. */
    public void used(UUID id) {
        Sql.change(database, "UPDATE enrolment SET last_used_at = :now WHERE id = :id")
                .setParameter("now", clock.instant())
                .setParameter("id", id)
                .executeUpdate();
    }
}
