package dev.entente.service.delivery;

import dev.entente.core.seal.Receipt;
import dev.entente.core.seal.Roster;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.directory.Directories;
import org.springframework.stereotype.Component;

/** What happens to a delivery, as events say it. */
@Component
class DeliveryEvents {
    private final Directories directories;

    DeliveryEvents(Directories directories) {
        this.directories = directories;
    }

    /** One that says which delivery it is about. */
    NewEvent about(String kind, DeliveryRow row) {
        return NewEvent.of(kind, row.attempt, row.revision)
                .with("directory", directories.name(row.directory))
                .with("action", row.action)
                .with("order", row.id.toString())
                .withPersonal("login", row.login);
    }

    /** How a delivery ended, or was settled later; {@code receipt} is what its steward told, null if nobody did. */
    NewEvent ended(String kind, DeliveryRow row, Receipt receipt) {
        var told = about(kind, row).with("epoch", row.epoch).with("steward", steward(row));
        if (receipt != null) {
            told = told.with("versionBefore", receipt.versionBefore())
                    .with("versionAfter", receipt.versionAfter())
                    .with("bind", receipt.bindCode())
                    .with("detail", receipt.detail());
        }
        return row.cause == null ? told : told.with("cause", row.cause.name()).with("says", row.cause.administrator());
    }

    /** The one that held it last, if it is still listed. */
    private String steward(DeliveryRow row) {
        return row.steward == null
                ? null
                : directories
                        .get(row.directory)
                        .stewards()
                        .flatMap(roster -> roster.member(row.steward))
                        .map(Roster.Member::name)
                        .orElse(null);
    }
}
