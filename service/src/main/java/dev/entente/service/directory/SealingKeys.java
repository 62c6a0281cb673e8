package dev.entente.service.directory;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.SealingKey;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.Standing;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Keys that passwords are sealed to, as stewards signed them. Their private halves never leave the stewards. */
@Component
public class SealingKeys {
    private final Session database;
    private final Standing standing;
    private final InstantSource clock;

    SealingKeys(Session database, Standing standing, InstantSource clock) {
        this.database = database;
        this.standing = standing;
        this.clock = clock;
    }

    /** Signed sealing keys in force for the listed stewards of a directory, the freshest of each. */
    @Transactional(readOnly = true)
    public List<String> inForce(UUID directory) {
        var enough = clock.instant().plus(Duration.ofMinutes(15));
        return standing
                .kept(Standing.Topic.STEWARD, List.of("keys", directory), Keys.class, () -> keys(directory))
                .freshest()
                .stream()
                .filter(key -> key.notAfter().isAfter(enough))
                .map(Key::statement)
                .toList();
    }

    private record Key(String statement, Instant notAfter) {}

    private record Keys(List<Key> freshest) {}

    private Keys keys(UUID directory) {
        return new Keys(Sql.rows(database, """
                        SELECT DISTINCT ON (k.steward) k.statement, k.not_after FROM sealing_key k
                        JOIN steward s ON s.id = k.steward WHERE s.directory = :directory
                        ORDER BY k.steward, k.not_after DESC""", Key.class)
                .setParameter("directory", directory)
                .getResultList());
    }

    @Transactional
    void add(StewardRow steward, String statement) {
        var directory = database.find(DirectoryRow.class, steward.directory);
        var member = Directories.served(directory)
                .stewards()
                .flatMap(r -> r.member(steward.id))
                .orElseThrow(() -> new InvalidDocument("roster", "this steward is not on the roster"));
        var key = SealingKey.verify(statement, member, steward.directory, clock.instant());
        Sql.change(database, """
                        INSERT INTO sealing_key (thumbprint, steward, statement, not_after)
                        VALUES (:thumbprint, :steward, :statement, :notAfter) ON CONFLICT DO NOTHING""")
                .setParameter("thumbprint", key.key().thumbprint())
                .setParameter("steward", steward.id)
                .setParameter("statement", statement)
                .setParameter("notAfter", Instant.ofEpochMilli(key.notAfter()))
                .executeUpdate();
        Sql.change(database, "DELETE FROM sealing_key WHERE not_after < entente_now() - interval '1 hour'")
                .executeUpdate();
    }
}
