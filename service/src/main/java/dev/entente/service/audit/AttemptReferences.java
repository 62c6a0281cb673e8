package dev.entente.service.audit;

import dev.entente.core.attempt.Reference;
import dev.entente.service.platform.Sql;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** Which attempt a reference meant, for as long as the record tells of it: longer than attempts are kept. */
@Component
@Transactional(propagation = Propagation.MANDATORY)
public class AttemptReferences {
    private final Session database;

    AttemptReferences(Session database) {
        this.database = database;
    }

    /** Keeps it for good. */
    public void keep(UUID attempt, Reference reference) {
        Sql.change(database, "INSERT INTO attempt_reference (attempt, reference) VALUES (:attempt, :reference)")
                .setParameter("attempt", attempt)
                .setParameter("reference", reference.digits())
                .executeUpdate();
    }

    /** The attempt, purged or not; empty if none was ever kept. */
    public Optional<UUID> attempt(Reference reference) {
        return Sql.values(database, "SELECT attempt FROM attempt_reference WHERE reference = :reference", UUID.class)
                .setParameter("reference", reference.digits())
                .getResultStream()
                .findFirst();
    }
}
