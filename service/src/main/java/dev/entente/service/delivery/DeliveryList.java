package dev.entente.service.delivery;

import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Reference;
import dev.entente.core.delivery.DeliveryState;
import dev.entente.core.seal.Receipt;
import dev.entente.core.seal.Roster;
import dev.entente.service.attempt.Attempts;
import dev.entente.service.directory.Directories;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.AttemptApi;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Deliveries for administrators. */
@Component
@Transactional(readOnly = true)
public class DeliveryList {
    private static final List<String> STATES =
            Arrays.stream(DeliveryState.values()).map(DeliveryState::label).toList();

    private final Session database;
    private final Attempts attempts;
    private final Directories directories;

    DeliveryList(Session database, Attempts attempts, Directories directories) {
        this.database = database;
        this.attempts = attempts;
        this.directories = directories;
    }

    /** What to show; null does not filter. */
    public record Filter(String state, String directory, String cause) {}

    /** Newest first; {@code after} is the id of the last of the page before. */
    public List<AttemptApi.Delivery> list(Filter filter, UUID after, int limit) {
        if (filter.state() != null && !STATES.contains(filter.state())) {
            throw Problem.of("unknown-state").with("name", filter.state()).with("list", String.join(", ", STATES));
        }
        var before = after == null ? Instant.ofEpochSecond(4_000_000_000L) : row(after).createdAt;
        var directory = filter.directory() == null
                ? null
                : directories
                        .find(filter.directory())
                        .orElseThrow(() -> Problem.of("directory-not-found").with("directory", filter.directory()))
                        .id();
        return database.createQuery("""
                        FROM DeliveryRow WHERE createdAt < :before AND (:state IS NULL OR state = :state)
                        AND (:directory IS NULL OR directory = :directory) AND (:cause IS NULL OR cause = :cause)
                        ORDER BY createdAt DESC, id""", DeliveryRow.class)
                .setParameter("before", before)
                .setParameter("state", filter.state())
                .setParameter("directory", directory)
                .setParameter("cause", cause(filter.cause()))
                .setMaxResults(limit)
                .getResultStream()
                .map(this::shown)
                .toList();
    }

    private static Cause cause(String code) {
        if (code == null || code.isBlank()) {
            return null;
        }
        return Arrays.stream(Cause.values())
                .filter(c -> label(c).equals(code))
                .findFirst()
                .orElseThrow(() -> Problem.of("unknown-cause")
                        .with("code", code)
                        .with(
                                "list",
                                String.join(
                                        ", ",
                                        Arrays.stream(Cause.values())
                                                .map(DeliveryList::label)
                                                .toList())));
    }

    private static String label(Cause cause) {
        return cause.name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    /** One by its id. */
    public AttemptApi.Delivery show(UUID id) {
        return shown(row(id));
    }

    /** All of one attempt, oldest first. */
    public List<AttemptApi.Delivery> ofAttempt(UUID attempt) {
        return database.createQuery(
                        "FROM DeliveryRow WHERE attempt = :attempt ORDER BY sealing, createdAt", DeliveryRow.class)
                .setParameter("attempt", attempt)
                .getResultStream()
                .map(this::shown)
                .toList();
    }

    /** @param failed those that did not end as done for a reason that another password can't mend */
    public record Failures(int ended, int failed) {}

    /** Deliveries that ended since a time. */
    public Failures failures(Instant since) {
        return Sql.rows(database, """
                        SELECT count(*) AS ended, count(*) FILTER (WHERE state IN ('failed', 'unknown')
                            OR cause IN ('NO_RIGHT', 'NO_ENTRY', 'GUARD_RAIL', 'BAD_SEAL', 'BAD_EVIDENCE')) AS failed
                        FROM delivery WHERE ended_at > :since""", Failures.class)
                .setParameter("since", since)
                .getSingleResult();
    }

    private DeliveryRow row(UUID id) {
        var row = database.find(DeliveryRow.class, id);
        if (row == null) {
            throw Problem.of("delivery-not-found");
        }
        return row;
    }

    private AttemptApi.Delivery shown(DeliveryRow row) {
        var directory = directories.get(row.directory);
        var member = directory.stewards().flatMap(r -> r.member(row.steward));
        var receipt = Optional.ofNullable(row.receipt).flatMap(signed -> member.map(m -> Receipt.verify(signed, m)));
        return new AttemptApi.Delivery(
                row.id,
                new Reference(attempts.get(row.attempt).reference().digits()).toString(),
                row.action,
                directory.name(),
                row.login,
                row.state,
                row.epoch,
                member.map(Roster.Member::name).orElse(null),
                row.cause == null ? null : label(row.cause),
                row.cause == null ? null : row.cause.administrator(),
                row.cause == null ? null : row.cause.whatToDo(),
                receipt.map(Receipt::detail).orElse(null),
                row.begunServer,
                receipt.map(Receipt::versionBefore).orElse(row.begunVersion),
                receipt.map(Receipt::versionAfter).orElse(null),
                receipt.map(Receipt::bindCode).orElse(null),
                row.createdAt,
                row.endedAt,
                phases(row, receipt));
    }

    private static Map<String, Long> phases(DeliveryRow row, Optional<Receipt> receipt) {
        var phases = new LinkedHashMap<String, Long>();
        if (row.leasedAt != null) {
            phases.put("wait", Duration.between(row.createdAt, row.leasedAt).toMillis());
        }
        receipt.ifPresent(r -> phases.putAll(r.phases()));
        return phases;
    }
}
