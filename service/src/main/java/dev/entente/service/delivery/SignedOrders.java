package dev.entente.service.delivery;

import dev.entente.core.attempt.Reference;
import dev.entente.core.seal.Order;
import dev.entente.service.attempt.AttemptProofs;
import dev.entente.service.directory.Credentials;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.policy.Configurations;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;

/** Orders as stewards get them: what is to be written, with the seal and its evidence, signed by the service. */
@Component
class SignedOrders {
    private final Session database;
    private final Configurations configurations;
    private final Credentials credentials;
    private final AttemptProofs proofs;
    private final KeyRing keys;
    private final ServiceSettings settings;

    SignedOrders(
            Session database,
            Configurations configurations,
            Credentials credentials,
            AttemptProofs proofs,
            KeyRing keys,
            ServiceSettings settings) {
        this.database = database;
        this.configurations = configurations;
        this.credentials = credentials;
        this.proofs = proofs;
        this.keys = keys;
        this.settings = settings;
    }

    /** @param check whether stewards are only to look what became of them */
    List<String> of(List<DeliveryRow> leased, boolean check) {
        var kept =
                leased.stream().map(row -> row.sealed).filter(Objects::nonNull).collect(Collectors.toSet());
        var sealed = kept.isEmpty()
                ? Map.<UUID, SealedPasswordRow>of()
                : Sql.among(database, "FROM SealedPasswordRow WHERE id IN (:ids)", SealedPasswordRow.class, "ids", kept)
                        .getResultStream()
                        .collect(Collectors.toMap(row -> row.id, row -> row));
        return leased.stream()
                .map(row -> order(row, row.sealed == null ? null : sealed.get(row.sealed), check)
                        .sign(keys.serviceKey()))
                .toList();
    }

    private Order order(DeliveryRow row, SealedPasswordRow sealed, boolean check) {
        var policy = configurations.policy(row.revision, row.policy);
        var seal = sealed == null ? null : sealed.seal;
        // A steward that demands nothing may be of a version that does not know what is said of proofs.
        var demands = credentials.demand(row.directory).any();
        return new Order(
                1,
                row.id,
                row.epoch,
                row.attempt,
                new Reference(row.reference).toString(),
                row.directory,
                row.account,
                row.action,
                seal,
                sealed == null ? null : sealed.evidence,
                seal == null
                        ? null
                        : configurations
                                .revision(row.revision)
                                .passwords()
                                .get(policy.password().value()),
                policy.clearLockout().value(),
                policy.mustChange().value(),
                row.begunVersion == null ? null : new Order.Begun(row.begunServer, row.begunVersion),
                check,
                settings.lease().toMillis(),
                row.expiresAt.toEpochMilli(),
                demands ? proofs.of(row.attempt) : List.of(),
                demands ? credentials.statements(row.directory, row.account) : List.of());
    }
}
