package dev.entente.service.delivery;

import dev.entente.core.seal.Receipt;
import dev.entente.service.directory.Directories;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.platform.WhenDue;
import java.time.InstantSource;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Temporary passwords that nobody used in time are replaced by ones that nobody knows. */
@Component
class Retirements {
    private final Session database;
    private final Directories directories;
    private final WakeUps wakeUps;
    private final InstantSource clock;

    Retirements(Session database, Directories directories, WakeUps wakeUps, InstantSource clock) {
        this.database = database;
        this.directories = directories;
        this.wakeUps = wakeUps;
        this.clock = clock;
    }

    @WhenDue("SELECT FROM delivery WHERE retire_at < entente_time()")
    @Transactional
    void retire() {
        var due = database.createNativeQuery("""
                        UPDATE delivery SET retire_at = NULL WHERE id IN (SELECT id FROM delivery
                            WHERE retire_at < entente_time() FOR UPDATE SKIP LOCKED LIMIT 100) RETURNING *""", DeliveryRow.class).getResultList();
        for (var given : due) {
            var receipt = verified(given);
            if (receipt.isEmpty()) {
                continue;
            }
            var row = new DeliveryRow();
            row.id = UUID.randomUUID();
            row.attempt = given.attempt;
            row.action = "retire";
            row.sealing = given.sealing;
            row.directory = given.directory;
            row.account = given.account;
            row.login = given.login;
            row.revision = given.revision;
            row.policy = given.policy;
            row.reference = given.reference;
            row.state = "waiting";
            row.begunServer = receipt.get().server();
            row.begunVersion = receipt.get().versionAfter();
            row.createdAt = clock.instant();
            row.expiresAt = row.createdAt.plus(Endings.RETIRE_AFTER);
            database.persist(row);
            wakeUps.workFor(row.directory);
        }
    }

    /** The receipt as its steward signed it, if that steward is still known. */
    private Optional<Receipt> verified(DeliveryRow row) {
        return row.receipt == null
                ? Optional.empty()
                : directories
                        .get(row.directory)
                        .stewards()
                        .flatMap(r -> r.member(row.steward))
                        .map(member -> Receipt.verify(row.receipt, member));
    }
}
