package dev.entente.service.attempt;

import dev.entente.core.seal.Proof;
import dev.entente.service.platform.Sql;
import java.util.List;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** What people's own credentials signed in attempts, for stewards that judge it again. */
@Component
public class AttemptProofs {
    private static final JsonMapper JSON = JsonMapper.shared();

    private final Session database;

    AttemptProofs(Session database) {
        this.database = database;
    }

    @Transactional(propagation = Propagation.MANDATORY)
    void keep(Proof proof, UUID challenge, UUID attempt) {
        Sql.change(database, """
                        INSERT INTO attempt_proof (challenge, attempt, document)
                        VALUES (:challenge, :attempt, cast(:document AS jsonb))""")
                .setParameter("challenge", challenge)
                .setParameter("attempt", attempt)
                .setParameter("document", JSON.writeValueAsString(proof))
                .executeUpdate();
    }

    /** The attempt goes on for something else: what was signed for one thing shows nothing for another. */
    @Transactional(propagation = Propagation.MANDATORY)
    void forget(UUID attempt) {
        Sql.change(database, "DELETE FROM attempt_proof WHERE attempt = :attempt")
                .setParameter("attempt", attempt)
                .executeUpdate();
    }

    /** Those of an attempt, at most ten. */
    @Transactional(readOnly = true)
    public List<Proof> of(UUID attempt) {
        return Sql.values(
                        database,
                        "SELECT cast(document AS text) FROM attempt_proof WHERE attempt = :attempt LIMIT 10",
                        String.class)
                .setParameter("attempt", attempt)
                .getResultStream()
                .map(text -> JSON.readValue(text, Proof.class))
                .toList();
    }
}
