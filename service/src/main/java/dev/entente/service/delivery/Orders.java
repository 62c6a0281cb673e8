package dev.entente.service.delivery;

import dev.entente.core.attempt.AttemptStep;
import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import dev.entente.core.attempt.Reference;
import dev.entente.core.delivery.Delivery;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Order;
import dev.entente.core.seal.Receipt;
import dev.entente.service.attempt.Attempts;
import dev.entente.service.attempt.Attempts.Running;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.directory.Directories;
import dev.entente.service.directory.StewardCalls.Caller;
import dev.entente.service.directory.StewardPresence;
import dev.entente.service.people.People;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.platform.WhenDue;
import dev.entente.service.policy.Configurations;
import dev.entente.service.policy.Stops;
import dev.entente.wire.StewardApi;
import jakarta.persistence.LockModeType;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * Carries deliveries to stewards.
 *
 * <pre>
 * waiting ─lease→ leased ─begin→ begun ─receipt→ done | refused | failed | unknown
 *    │              │ lease over   │ lease over                                │ a later look
 *    │              └──────────────┴─→ leased again under the next epoch,      └→ done | failed
 *    │                                 two take-overs at most
 *    └ expired, or the directory suspended → failed
 *                                      begun and nobody left to take over → unknown
 * </pre>
 *
 * An order is held for its lease and for as long as a directory may take to answer; only then may another steward take
 * over, who first judges what the one before did. All times are the database's.
 */
@Component
class Orders {
    private static final int MOST_AT_ONCE = 64;
    private static final Duration RETIRE_AFTER = Duration.ofDays(1);

    /** Deliveries that nobody can carry out any more. */
    private static final String OVER =
            """
            FROM delivery d JOIN directory r ON r.id = d.directory WHERE d.ended_at IS NULL AND (
                d.state = 'waiting' AND d.expires_at < entente_time()
                OR d.begun_at IS NULL AND (r.suspended_at IS NOT NULL OR """ + Stops.OF_DELIVERY + """
)
                OR d.state <> 'waiting' AND d.held_until < entente_time()
                    AND (d.epoch >= """ + Delivery.MOST_EPOCHS + " OR d.expires_at < entente_time()))";

    /** What was told as unknown and can still be settled. */
    private static final String LOOK_AGAIN = """

            state = 'unknown' AND sealed IS NOT NULL AND begun_version IS NOT NULL AND expires_at > entente_time()
            AND coalesce(checked_at, ended_at) < entente_time() - :lease * interval '1 ms'
            """;

    private static final String FORGOTTEN = """
            s.expires_at < entente_time() AND NOT EXISTS (
                SELECT FROM delivery d WHERE d.sealed = s.id AND d.ended_at IS NULL)""";

    private final Session database;
    private final Attempts attempts;
    private final Configurations configurations;
    private final Directories directories;
    private final People people;
    private final EventLog events;
    private final KeyRing keys;
    private final WakeUps wakeUps;
    private final ServiceSettings settings;
    private final InstantSource clock;

    Orders(
            Session database,
            Attempts attempts,
            Configurations configurations,
            Directories directories,
            People people,
            EventLog events,
            KeyRing keys,
            WakeUps wakeUps,
            ServiceSettings settings,
            InstantSource clock) {
        this.database = database;
        this.attempts = attempts;
        this.configurations = configurations;
        this.directories = directories;
        this.people = people;
        this.events = events;
        this.keys = keys;
        this.wakeUps = wakeUps;
        this.settings = settings;
        this.clock = clock;
    }

    /** For which of these directories there is something to lease, or to look at again. */
    @Transactional(readOnly = true)
    public List<UUID> wanted(Set<UUID> of) {
        return database.createNativeQuery("""
                        SELECT DISTINCT directory FROM delivery WHERE directory IN (:of) AND (ended_at IS NULL
                            AND expires_at > entente_time() AND epoch < :epochs
                            AND (state = 'waiting' OR held_until < entente_time()) OR """ + LOOK_AGAIN + ")", UUID.class)
                .setParameter("of", of)
                .setParameter("epochs", Delivery.MOST_EPOCHS)
                .setParameter("lease", settings.lease().toMillis())
                .getResultList();
    }

    /** Gives a steward the oldest orders of its directory, each under its next epoch; for one account one at a time. */
    @Transactional
    List<String> lease(Caller caller, int room) {
        var served = directories.get(caller.directory());
        if (served.stewards().flatMap(r -> r.member(caller.steward())).isEmpty()) {
            return List.of();
        }
        var rows = new ArrayList<DeliveryRow>();
        if (!served.suspended()) {
            rows.addAll(database.createNativeQuery("""
                            UPDATE delivery SET state = 'leased', epoch = epoch + 1, steward = :steward,
                                leased_at = entente_time(),
                                leased_until = entente_time() + :lease * interval '1 ms',
                                held_until = entente_time() + (:lease + :timeout) * interval '1 ms'
                            WHERE id IN (SELECT d.id FROM delivery d WHERE d.directory = :directory AND d.ended_at IS NULL
                                AND d.expires_at > entente_time() AND d.epoch < :epochs
                                AND (d.state = 'waiting' OR d.held_until < entente_time())
                                AND NOT EXISTS (SELECT 1 FROM delivery o WHERE o.account = d.account AND o.id <> d.id
                                    AND o.ended_at IS NULL AND (o.state <> 'waiting' OR o.created_at < d.created_at))
                                ORDER BY d.created_at FOR UPDATE SKIP LOCKED LIMIT :room) RETURNING *""", DeliveryRow.class)
                    .setParameter("steward", caller.steward())
                    .setParameter("directory", caller.directory())
                    .setParameter("lease", settings.lease().toMillis())
                    .setParameter("timeout", settings.directoryTimeout().toMillis())
                    .setParameter("epochs", Delivery.MOST_EPOCHS)
                    .setParameter("room", Math.max(1, Math.min(MOST_AT_ONCE, room)))
                    .getResultList());
        }
        if (rows.isEmpty()) {
            return leaseCheck(caller);
        }
        rows.sort(Comparator.comparing(row -> row.createdAt));
        var leased = known(rows, Map.of());
        // That somebody works on it the page sees with its next look.
        for (var row : leased.rows()) {
            events.write(leased.event("order.leased", row)
                    .with("steward", caller.name())
                    .with("epoch", row.epoch)
                    .with("takeOver", row.epoch > 1));
        }
        return signed(rows, false);
    }

    /**
     * What was told as unknown is looked at again while its seal is kept, so that it can be settled; not before the time of a
     * lease has passed, when nothing that was on its way can land any more.
     */
    private List<String> leaseCheck(Caller caller) {
        var ids = database.createNativeQuery("""
                        UPDATE delivery SET epoch = epoch + 1, steward = :steward, checked_at = entente_time()
                        WHERE id = (SELECT id FROM delivery WHERE directory = :directory AND """ + LOOK_AGAIN + """
                            ORDER BY ended_at FOR UPDATE SKIP LOCKED LIMIT 1) RETURNING id""", UUID.class)
                .setParameter("steward", caller.steward())
                .setParameter("directory", caller.directory())
                .setParameter("lease", settings.lease().toMillis())
                .getResultList();
        return signed(loaded(ids), true);
    }

    private List<DeliveryRow> loaded(List<UUID> ids) {
        if (ids.isEmpty()) {
            return List.of();
        }
        return database.createQuery("FROM DeliveryRow WHERE id IN (:ids) ORDER BY createdAt", DeliveryRow.class)
                .setParameter("ids", ids)
                .getResultList();
    }

    private List<String> signed(List<DeliveryRow> leased, boolean check) {
        var kept =
                leased.stream().map(row -> row.sealed).filter(Objects::nonNull).collect(Collectors.toSet());
        var sealed = kept.isEmpty()
                ? Map.<UUID, SealedPasswordRow>of()
                : database.createQuery("FROM SealedPasswordRow WHERE id IN (:ids)", SealedPasswordRow.class)
                        .setParameter("ids", kept)
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
                row.expiresAt.toEpochMilli());
    }

    /**
     * A compare-and-set on the epoch, before the write, for several orders at once. The lease begins anew, so that the steward
     * knows how long it may still send the write, counted from when it asked.
     *
     * @return the orders that may be written
     */
    @Transactional
    List<UUID> begin(Caller caller, List<StewardApi.Begin> begins) {
        // Locked in the order in which receipts lock, so that two calls never wait in a circle.
        var begun = database.createNativeQuery("""
                        WITH held AS (SELECT id FROM delivery d WHERE id = ANY(:ids) AND NOT """ + Stops.OF_DELIVERY + """
                            AND NOT EXISTS (SELECT FROM directory r WHERE r.id = d.directory AND r.suspended_at IS NOT NULL)
                            ORDER BY attempt, sealing, created_at, id FOR UPDATE)
                        UPDATE delivery d SET state = 'begun', begun_server = b.server, begun_version = b.version,
                            begun_at = entente_time(), leased_until = entente_time() + :lease * interval '1 ms',
                            held_until = entente_time() + (:lease + :timeout) * interval '1 ms'
                        FROM held JOIN unnest(:ids, :epochs, :servers, :versions) AS b(id, epoch, server, version)
                            ON b.id = held.id
                        WHERE d.id = b.id AND d.steward = :steward AND d.epoch = b.epoch AND d.state = 'leased'
                            AND d.leased_until > entente_time() RETURNING d.*""", DeliveryRow.class)
                .setParameter(
                        "ids", begins.stream().map(StewardApi.Begin::order).toArray(UUID[]::new))
                .setParameter(
                        "epochs", begins.stream().map(StewardApi.Begin::epoch).toArray(Integer[]::new))
                .setParameter(
                        "servers", begins.stream().map(StewardApi.Begin::server).toArray(String[]::new))
                .setParameter(
                        "versions",
                        begins.stream().map(StewardApi.Begin::version).toArray(String[]::new))
                .setParameter("lease", settings.lease().toMillis())
                .setParameter("timeout", settings.directoryTimeout().toMillis())
                .setParameter("steward", caller.steward())
                .getResultList();
        // The page says the same of an order that was handed out and of one that was begun.
        var known = new Known(begun, Map.of(), Map.of(caller.directory(), caller.directoryName()));
        for (var row : known.rows()) {
            events.write(known.event("order.begun", row)
                    .with("server", row.begunServer)
                    .with("version", row.begunVersion)
                    .with("epoch", row.epoch));
        }
        return begun.stream().map(row -> row.id).toList();
    }

    /**
     * Takes receipts. One for an older epoch, or one that comes twice, changes nothing and counts as taken.
     *
     * @return the orders whose receipts were taken; those of others are not what they should be
     */
    @Transactional
    List<UUID> receive(Caller caller, List<StewardApi.ReceiptStatement> statements) {
        var member = directories
                .get(caller.directory())
                .stewards()
                .flatMap(r -> r.member(caller.steward()))
                .orElseThrow(() -> new InvalidDocument("roster", "this steward is not on the roster"));
        var receipts = new LinkedHashMap<StewardApi.ReceiptStatement, Receipt>();
        for (var statement : statements) {
            try {
                var receipt = Receipt.verify(statement.receipt(), member);
                if (receipt.order().equals(statement.order())) {
                    receipts.put(statement, receipt);
                }
            } catch (InvalidDocument e) {
                events.write(NewEvent.operation("steward.receipt-refused")
                        .with("steward", caller.name())
                        .with("why", e.getMessage()));
            }
        }
        var held = hold(receipts.values().stream().map(Receipt::order).toList());
        var taken = new ArrayList<UUID>();
        receipts.forEach((statement, receipt) -> {
            var row = held.row(receipt.order());
            if (row != null && row.directory.equals(caller.directory())) {
                receive(held, row, caller, statement.receipt(), receipt);
                taken.add(row.id);
            }
        });
        conclude(held);
        return taken;
    }

    private void receive(Held held, DeliveryRow row, Caller caller, String signed, Receipt receipt) {
        var received = row.machine()
                .receive(caller.steward(), receipt.epoch(), receipt.outcome(), receipt.cause(), signed, held.now());
        switch (received.effect()) {
            case ENDED -> end(held, row, received.delivery(), receipt);
            case SETTLED -> {
                row.take(received.delivery());
                events.write(ended(held.known().event("order.settled", row), row, receipt)
                        .with("state", row.state));
                held.settled().add(row);
            }
            case IGNORED ->
                events.write(held.known().event("order.receipt-ignored", row).with("epoch", receipt.epoch()));
            case REPEATED, STILL_UNKNOWN -> {}
        }
    }

    /** Deliveries with what is told about them, and their attempts where those are needed. */
    private record Known(List<DeliveryRow> rows, Map<UUID, Running> attempts, Map<UUID, String> names) {
        Running attempt(DeliveryRow row) {
            return attempts.get(row.attempt);
        }

        NewEvent event(String kind, DeliveryRow row) {
            return NewEvent.of(kind, row.attempt, row.revision)
                    .with("directory", names.get(row.directory))
                    .with("action", row.action)
                    .with("order", row.id.toString())
                    .withPersonal("login", row.login);
        }
    }

    private Known known(List<DeliveryRow> rows, Map<UUID, Running> of) {
        return new Known(
                rows,
                of,
                rows.stream()
                        .map(row -> row.directory)
                        .distinct()
                        .collect(Collectors.toMap(
                                id -> id, id -> directories.get(id).name())));
    }

    /** Attempts with all their deliveries, locked for change; and what was changed. */
    private record Held(Known known, Instant now, List<DeliveryRow> ended, List<DeliveryRow> settled) {
        DeliveryRow row(UUID id) {
            return known.rows().stream()
                    .filter(row -> row.id.equals(id))
                    .findFirst()
                    .orElse(null);
        }

        /** The latest delivery to each account for what the attempt wants. */
        List<DeliveryRow> latest(UUID attempt, String action) {
            return DeliveryRow.latest(known.rows().stream()
                    .filter(row -> row.attempt.equals(attempt) && row.action.equals(action))
                    .toList());
        }
    }

    /**
     * Locks attempts first and their deliveries then, both in one order: two stewards never wait in a circle, and whoever ends
     * one delivery sees how the others of its attempt stand.
     */
    private Held hold(List<UUID> deliveries) {
        var found = deliveries.isEmpty()
                ? List.<Object[]>of()
                : database.createNativeQuery(
                                "SELECT DISTINCT attempt, entente_time() FROM delivery WHERE id IN (:ids)",
                                Object[].class)
                        .setParameter("ids", deliveries)
                        .getResultList();
        var of = found.stream().map(r -> (UUID) r[0]).distinct().toList();
        var now = found.isEmpty() ? Instant.EPOCH : (Instant) found.get(0)[1];
        var locked = attempts.lock(of);
        var rows = of.isEmpty()
                ? List.<DeliveryRow>of()
                : database.createQuery(
                                "FROM DeliveryRow WHERE attempt IN (:attempts) ORDER BY attempt, sealing, createdAt, id",
                                DeliveryRow.class)
                        .setParameter("attempts", of)
                        .setLockMode(LockModeType.PESSIMISTIC_WRITE)
                        .getResultList();
        return new Held(known(rows, locked), now, new ArrayList<>(), new ArrayList<>());
    }

    /** What a process held that is gone now, and had not begun, need not wait for its lease; a late begin of it fails. */
    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void free(StewardPresence.Restarted restarted) {
        database.createNativeMutationQuery("""
                        UPDATE delivery SET leased_until = entente_time(), held_until = entente_time()
                        WHERE steward = :steward AND state = 'leased'""")
                .setParameter("steward", restarted.steward())
                .executeUpdate();
    }

    /** Ends what nobody can carry out any more: told as failed if nothing was begun, as unknown otherwise. */
    @WhenDue("SELECT d.id " + OVER)
    @Transactional
    void sweep() {
        var candidates = over();
        if (!candidates.isEmpty()) {
            var held = hold(List.copyOf(candidates.keySet()));
            // Once more, now that nobody else can change them: the machine has the last word, with what stood in the
            // way.
            var hindrances = over();
            for (var row : held.known().rows()) {
                if (hindrances.containsKey(row.id)) {
                    row.machine()
                            .giveUp(hindrances.get(row.id).orElse(null), held.now())
                            .ifPresent(after -> end(held, row, after, null));
                }
            }
            conclude(held);
        }
    }

    /** A seal whose time is over is of use to nobody. */
    @WhenDue("SELECT FROM sealed_password s WHERE " + FORGOTTEN)
    @Transactional
    void forgetSeals() {
        database.createNativeMutationQuery("DELETE FROM sealed_password s WHERE " + FORGOTTEN)
                .executeUpdate();
    }

    /** A steward that waits learns of an order whose holder went away, and of what is to be looked at. */
    @WhenDue("SELECT FROM delivery WHERE ended_at IS NULL AND held_until < entente_time()")
    @Transactional
    void offerAgain() {
        for (var directory : database.createNativeQuery("""
                        SELECT DISTINCT directory FROM delivery
                        WHERE ended_at IS NULL AND held_until < entente_time()""", UUID.class).getResultList()) {
            wakeUps.workFor(directory);
        }
    }

    /** Each with what keeps it from being written, if anything does. */
    private Map<UUID, Optional<Cause>> over() {
        var over = new LinkedHashMap<UUID, Optional<Cause>>();
        database.createNativeQuery(
                        "SELECT d.id, CASE WHEN " + Stops.OF_DELIVERY + "\n THEN 'STOPPED'"
                                + " WHEN r.suspended_at IS NOT NULL THEN 'SUSPENDED' END " + OVER
                                + " ORDER BY d.created_at LIMIT 100",
                        Object[].class)
                .getResultStream()
                .forEach(r ->
                        over.put((UUID) r[0], Optional.ofNullable((String) r[1]).map(Cause::valueOf)));
        return over;
    }

    /** Temporary passwords that nobody used within a day are replaced by ones that nobody knows. */
    @WhenDue("SELECT FROM delivery WHERE retire_at < entente_time()")
    @Transactional
    void retire() {
        var ids = database.createNativeQuery("""
                        UPDATE delivery SET retire_at = NULL WHERE id IN (SELECT id FROM delivery
                            WHERE retire_at < entente_time() FOR UPDATE SKIP LOCKED LIMIT 100) RETURNING id""", UUID.class).getResultList();
        for (var given : loaded(ids)) {
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
            row.expiresAt = row.createdAt.plus(RETIRE_AFTER);
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

    /** @param receipt what its steward told; null if nobody did */
    private void end(Held held, DeliveryRow row, Delivery after, Receipt receipt) {
        row.take(after);
        row.retryAt = receipt == null || receipt.retryAt() == null ? null : Instant.ofEpochMilli(receipt.retryAt());
        events.write(ended(held.known().event("order." + row.state, row), row, receipt));
        held.ended().add(row);
    }

    /** What follows once several have ended: what took effect, ciphertexts that nobody needs, and how their attempts end. */
    private void conclude(Held held) {
        var changed =
                Stream.concat(held.ended().stream(), held.settled().stream()).toList();
        if (changed.isEmpty()) {
            return;
        }
        tookEffect(
                held, changed.stream().filter(row -> row.state.equals("done")).toList());
        forgetCiphertexts(changed.stream()
                .filter(row -> !row.state.equals("unknown") || row.begunVersion == null)
                .toList());
        var told = new HashSet<UUID>();
        for (var row : changed) {
            if (row.action.equals("retire") || !told.add(row.attempt)) {
                continue;
            }
            var all = held.latest(row.attempt, row.action);
            if (held.settled().contains(row)) {
                attempts.settled(row.attempt, outcomes(all), doneIn(all));
            } else if (all.stream().allMatch(d -> d.endedAt != null)) {
                attempts.delivered(row.attempt, outcomes(all), doneIn(all));
            }
            wakeUps.changed(row.attempt);
        }
    }

    /** What the next sync would tell is known already. */
    private void tookEffect(Held held, List<DeliveryRow> done) {
        var set = new ArrayList<People.PasswordSet>();
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
                set.add(new People.PasswordSet(row.account, mustChange, row.endedAt));
            }
            if (row.action.equals("temporary")) {
                row.retireAt = row.endedAt.plus(RETIRE_AFTER);
            }
        }
        if (!set.isEmpty()) {
            people.passwordsSet(set);
        }
        if (!unlocked.isEmpty()) {
            people.unlocked(unlocked);
        }
    }

    private void forgetCiphertexts(List<DeliveryRow> rows) {
        var sealed =
                rows.stream().map(row -> row.sealed).filter(Objects::nonNull).collect(Collectors.toSet());
        if (sealed.isEmpty()) {
            return;
        }
        rows.forEach(row -> row.sealed = null);
        database.createMutationQuery("""
                        DELETE FROM SealedPasswordRow s WHERE s.id IN (:ids) AND NOT EXISTS (
                            SELECT 1 FROM DeliveryRow d WHERE d.sealed = s.id)""").setParameter("ids", sealed).executeUpdate();
    }

    private static NewEvent ended(NewEvent event, DeliveryRow row, Receipt receipt) {
        var told = event.with("epoch", row.epoch);
        if (receipt != null) {
            told = told.with("versionBefore", receipt.versionBefore())
                    .with("versionAfter", receipt.versionAfter())
                    .with("bind", receipt.bindCode())
                    .with("detail", receipt.detail());
        }
        return row.cause == null ? told : told.with("cause", row.cause.name()).with("says", row.cause.administrator());
    }

    private static List<AttemptStep.Ended> outcomes(List<DeliveryRow> all) {
        return all.stream()
                .map(d -> new AttemptStep.Ended(Outcome.valueOf(d.state.toUpperCase(Locale.ROOT)), d.cause))
                .toList();
    }

    private List<String> doneIn(List<DeliveryRow> all) {
        return all.stream()
                .filter(d -> d.state.equals("done"))
                .map(d -> directories.get(d.directory).title())
                .distinct()
                .toList();
    }
}
