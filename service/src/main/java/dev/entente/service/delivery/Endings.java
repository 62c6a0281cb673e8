package dev.entente.service.delivery;

import dev.entente.core.attempt.AttemptStep;
import dev.entente.core.attempt.Outcome;
import dev.entente.core.delivery.Delivery;
import dev.entente.core.seal.Receipt;
import dev.entente.service.attempt.Attempts;
import dev.entente.service.attempt.Conclusion;
import dev.entente.service.audit.EventLog;
import dev.entente.service.directory.Directories;
import dev.entente.service.people.AccountPasswords;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.policy.Configurations;
import jakarta.persistence.LockModeType;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.UUID;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.hibernate.Session;
import org.springframework.stereotype.Component;

/** How deliveries end, and what follows: accounts that are in step, ciphertexts that go, attempts that end with them. */
@Component
class Endings {
    /** How long a temporary password may go unused. */
    static final Duration RETIRE_AFTER = Duration.ofDays(1);

    private final Session database;
    private final Attempts attempts;
    private final Configurations configurations;
    private final Directories directories;
    private final AccountPasswords passwords;
    private final EventLog events;
    private final DeliveryEvents deliveryEvents;
    private final WakeUps wakeUps;
    private final Conclusion conclusion;

    Endings(
            Session database,
            Attempts attempts,
            Configurations configurations,
            Directories directories,
            AccountPasswords passwords,
            EventLog events,
            DeliveryEvents deliveryEvents,
            WakeUps wakeUps,
            Conclusion conclusion) {
        this.database = database;
        this.attempts = attempts;
        this.configurations = configurations;
        this.directories = directories;
        this.passwords = passwords;
        this.events = events;
        this.deliveryEvents = deliveryEvents;
        this.wakeUps = wakeUps;
        this.conclusion = conclusion;
    }

    /** Attempts with all their deliveries, locked for change; and what was changed. */
    record Locked(List<DeliveryRow> rows, Instant now, List<DeliveryRow> ended, List<DeliveryRow> settled) {
        DeliveryRow row(UUID id) {
            return rows.stream().filter(row -> row.id.equals(id)).findFirst().orElse(null);
        }

        /** The latest delivery to each account for what the attempt wants. */
        List<DeliveryRow> latest(UUID attempt, String action) {
            return DeliveryRow.latest(rows.stream()
                    .filter(row -> row.attempt.equals(attempt) && row.action.equals(action))
                    .toList());
        }
    }

    private record Of(UUID attempt, Instant now) {}

    /**
     * Locks attempts first and their deliveries then, both in one order: two stewards never wait in a circle, and whoever ends
     * one delivery sees how the others of its attempt stand.
     */
    Locked lock(List<UUID> deliveries) {
        var found = deliveries.isEmpty()
                ? List.<Of>of()
                : Sql.rows(
                                database,
                                "SELECT DISTINCT attempt, entente_time() AS now FROM delivery WHERE id IN (:ids)",
                                Of.class)
                        .setParameter("ids", deliveries)
                        .getResultList();
        var of = found.stream().map(Of::attempt).toList();
        var now = found.isEmpty() ? Instant.EPOCH : found.get(0).now();
        attempts.lock(of);
        var rows = of.isEmpty()
                ? List.<DeliveryRow>of()
                : Sql.among(
                                database,
                                "FROM DeliveryRow WHERE attempt IN (:attempts) ORDER BY attempt, sealing, createdAt, id",
                                DeliveryRow.class,
                                "attempts",
                                of)
                        .setLockMode(LockModeType.PESSIMISTIC_WRITE)
                        .getResultList();
        return new Locked(rows, now, new ArrayList<>(), new ArrayList<>());
    }

    /** @param receipt what its steward told; null if nobody did */
    void end(Locked locked, DeliveryRow row, Delivery after, Receipt receipt) {
        row.take(after);
        row.retryAt = receipt == null || receipt.retryAt() == null ? null : Instant.ofEpochMilli(receipt.retryAt());
        events.write(deliveryEvents.ended("order." + row.state, row, receipt));
        locked.ended().add(row);
    }

    /** What was told as unknown is known now. */
    void settle(Locked locked, DeliveryRow row, Delivery after, Receipt receipt) {
        row.take(after);
        events.write(deliveryEvents.ended("order.settled", row, receipt).with("state", row.state));
        locked.settled().add(row);
    }

    /** What follows once several have ended: what took effect, ciphertexts that nobody needs, and how their attempts end. */
    void conclude(Locked locked) {
        var changed = Stream.concat(locked.ended().stream(), locked.settled().stream())
                .toList();
        if (changed.isEmpty()) {
            return;
        }
        tookEffect(changed.stream().filter(row -> row.state.equals("done")).toList());
        forgetCiphertexts(changed.stream()
                .filter(row -> !row.state.equals("unknown") || row.begunVersion == null)
                .toList());
        var told = new HashSet<UUID>();
        for (var row : changed) {
            if (row.action.equals("retire") || !told.add(row.attempt)) {
                continue;
            }
            var all = locked.latest(row.attempt, row.action);
            if (locked.settled().contains(row)) {
                conclusion.settled(row.attempt, outcomes(all), news(all));
            } else if (all.stream().allMatch(d -> d.endedAt != null)) {
                conclusion.delivered(row.attempt, outcomes(all), news(all));
            } else {
                wakeUps.progressed(row.attempt);
            }
        }
    }

    /** Where it was done, if the person doesn't know all of that yet; from now on they do. */
    private List<String> news(List<DeliveryRow> all) {
        var done = all.stream().filter(d -> d.state.equals("done")).toList();
        if (done.stream().allMatch(d -> d.told)) {
            return List.of();
        }
        done.forEach(d -> d.told = true);
        return done.stream()
                .map(d -> directories.get(d.directory).title())
                .distinct()
                .toList();
    }

    /** What the next sync would tell is known already. */
    private void tookEffect(List<DeliveryRow> done) {
        var set = new ArrayList<AccountPasswords.PasswordSet>();
        var unlocked = new HashSet<UUID>();
        for (var row : done) {
            var mustChange = switch (row.action) {
                case "temporary", "retire" -> true;
                case "reset" ->
                    configurations.policy(row.revision, row.policy).mustChange().value();
                default -> false;
            };
            if (row.action.equals("unlock")) {
                unlocked.add(row.account);
            } else {
                set.add(new AccountPasswords.PasswordSet(row.account, mustChange, row.endedAt));
            }
            if (row.action.equals("temporary")) {
                row.retireAt = row.endedAt.plus(RETIRE_AFTER);
            }
        }
        if (!set.isEmpty()) {
            passwords.set(set);
        }
        if (!unlocked.isEmpty()) {
            passwords.unlocked(unlocked);
        }
    }

    private void forgetCiphertexts(List<DeliveryRow> rows) {
        var sealed =
                rows.stream().map(row -> row.sealed).filter(Objects::nonNull).collect(Collectors.toSet());
        if (sealed.isEmpty()) {
            return;
        }
        rows.forEach(row -> row.sealed = null);
        Sql.change(database, """
                        DELETE FROM sealed_password s WHERE s.id IN (:ids)
                            AND NOT EXISTS (SELECT FROM delivery d WHERE d.sealed = s.id)""").setParameter("ids", sealed).executeUpdate();
    }

    private static List<AttemptStep.Ended> outcomes(List<DeliveryRow> all) {
        return all.stream()
                .map(d -> new AttemptStep.Ended(Outcome.valueOf(d.state.toUpperCase(Locale.ROOT)), d.cause))
                .toList();
    }
}
