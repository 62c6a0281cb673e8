package dev.entente.service.delivery;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.AttemptStep;
import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import dev.entente.core.seal.Evidence;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Order;
import dev.entente.core.seal.Receipt;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.Seal;
import dev.entente.service.attempt.Attempts;
import dev.entente.service.attempt.Attempts.Running;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.directory.Directories;
import dev.entente.service.people.People;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.policy.Configurations;
import dev.entente.wire.AdminApi;
import dev.entente.wire.PortalApi;
import jakarta.persistence.LockModeType;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.http.HttpStatus;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Carries sealed passwords.
 *
 * <pre>
 * waiting ─lease→ leased ─begin→ begun ─receipt→ done | refused | failed | unknown
 *    │              │ lease over   │ lease over
 *    │              └──────────────┴─→ leased again under the next epoch, two take-overs at most
 *    └ expired → failed                 begun and nobody left to take over → unknown
 * </pre>
 *
 * An order is held for its lease and for as long as a directory may take to answer; only then may another steward take
 * over, who first judges what the one before did. All times are the database's.
 */
@Component
public class Deliveries {
    private static final int MOST_EPOCHS = 3;
    // After this long the person is told that it takes longer than it should.
    private static final Duration PATIENCE = Duration.ofSeconds(6);

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

    Deliveries(
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

    /** What the browser needs to seal: rosters, keys and accounts that still need the password. */
    @Transactional(readOnly = true)
    public PortalApi.Sealing sealing(Running attempt) {
        var person = person(attempt);
        var policy = attempts.policy(attempt);
        var details = new ArrayList<String>();
        details.add(person.name());
        person.accounts().forEach(a -> {
            details.add(a.login());
            details.add(a.displayName());
        });
        var targets = new ArrayList<PortalApi.Target>();
        pending(attempt, person).forEach((directory, accounts) -> {
            var served = directories.get(directory);
            var listed = served.stewards()
                    .orElseThrow(() -> Problem.of(
                            HttpStatus.SERVICE_UNAVAILABLE,
                            "no-steward",
                            "The directory " + served.title() + " is not ready to take passwords. Reach the help desk: "
                                    + settings.helpDesk() + "."));
            targets.add(new PortalApi.Target(
                    directory,
                    served.name(),
                    served.title(),
                    served.operatorKey(),
                    served.roster(),
                    keysOf(directory, listed),
                    accounts.stream()
                            .map(a -> new PortalApi.TargetAccount(a.id(), a.login()))
                            .toList()));
        });
        return new PortalApi.Sealing(
                attempt.id(),
                attempt.action().label(),
                clock.instant().plus(settings.sealLife()).toEpochMilli(),
                configurations
                        .revision(attempt.revision())
                        .passwords()
                        .get(policy.password().value()),
                details.stream().distinct().toList(),
                targets);
    }

    private List<String> keysOf(UUID directory, Roster listed) {
        var statements = directories.sealingKeys(directory);
        if (statements.isEmpty()) {
            throw Problem.of(
                    HttpStatus.SERVICE_UNAVAILABLE,
                    "no-sealing-key",
                    "No steward is ready right now. Wait a moment and try again; if it lasts, reach the help desk: "
                            + settings.helpDesk() + ".",
                    Map.of("retryAfter", 5));
        }
        return statements.stream().limit(listed.stewards().size()).toList();
    }

    /** Accounts that the policy delivers to and that are not done yet, by directory. */
    private Map<UUID, List<People.Account>> pending(Running attempt, People.Person person) {
        var targets = attempts.policy(attempt).deliverTo().value();
        var done = rows(attempt.id()).stream()
                .filter(d -> d.state.equals("done"))
                .map(d -> d.account)
                .toList();
        var pending = new LinkedHashMap<UUID, List<People.Account>>();
        for (var account : person.accounts()) {
            if (targets.contains(account.directory()) && !account.disabled() && !done.contains(account.id())) {
                pending.computeIfAbsent(account.directoryId(), d -> new ArrayList<>())
                        .add(account);
            }
        }
        return pending;
    }

    /**
     * Takes sealed passwords, one for each directory, and wakes the stewards. Handing in the same again changes nothing.
     *
     * @throws InvalidDocument if one is bound otherwise than it should be
     */
    @Transactional
    public void accept(Running attempt, List<PortalApi.SealedPassword> passwords) {
        if (passwords == null || passwords.isEmpty() || passwords.size() > 16) {
            throw Problem.invalid("One to sixteen sealed passwords are expected.");
        }
        if (attempt.state() == AttemptState.DELIVERING && sameAgain(attempt, passwords)) {
            return;
        }
        if (attempt.state() != AttemptState.PROVED) {
            throw Problem.conflict("This attempt does not wait for a password.");
        }
        var now = clock.instant();
        var pending = pending(attempt, person(attempt));
        var seals = new LinkedHashMap<UUID, Seal>();
        var evidence = new LinkedHashMap<UUID, String>();
        var latest = now;
        for (var password : passwords) {
            var seal = Seal.parse(password.seal());
            var binding = seal.binding();
            var accounts = pending.getOrDefault(binding.directory(), List.of()).stream()
                    .map(People.Account::id)
                    .toList();
            var roster = directories.get(binding.directory()).roster();
            var expires = Instant.ofEpochMilli(binding.exp());
            require(binding.attempt().equals(attempt.id()), "the seal is bound to another attempt");
            require(binding.action().equals(attempt.action().label()), "the seal is bound to another action");
            require(
                    new HashSet<>(binding.accounts()).equals(new HashSet<>(accounts)),
                    "the seal is bound to other accounts");
            require(binding.roster().equals(Roster.digest(roster)), "the seal was made for another roster");
            require(binding.key().equals(attempt.key().thumbprint()), "the seal names another key than the attempt's");
            require(
                    expires.isAfter(now)
                            && !expires.isAfter(now.plus(settings.sealLife()).plusSeconds(60)),
                    "the seal's expiry is out of bounds");
            Evidence.verify(password.evidence(), seal, now);
            require(seals.put(binding.directory(), seal) == null, "a directory has two seals");
            evidence.put(binding.directory(), password.evidence());
            latest = expires.isAfter(latest) ? expires : latest;
        }
        require(seals.keySet().equals(pending.keySet()), "there is not one seal for each directory");
        var running = attempts.seal(attempt.id(), latest);
        seals.forEach((directory, seal) -> store(running, directory, seal, evidence.get(directory)));
    }

    private void store(Running attempt, UUID directory, Seal seal, String evidence) {
        var sealed = new SealedPasswordRow();
        sealed.id = UUID.randomUUID();
        sealed.attempt = attempt.id();
        sealed.seal = seal.text();
        sealed.evidence = evidence;
        sealed.expiresAt = Instant.ofEpochMilli(seal.binding().exp());
        database.persist(sealed);
        database.flush();
        for (var account : seal.binding().accounts()) {
            var row = new DeliveryRow();
            row.id = UUID.randomUUID();
            row.attempt = attempt.id();
            row.sealing = attempt.sealings();
            row.directory = directory;
            row.account = account;
            row.sealed = sealed.id;
            row.state = "waiting";
            row.createdAt = clock.instant();
            row.expiresAt = sealed.expiresAt;
            database.persist(row);
        }
        events.write(NewEvent.of("password.sealed", attempt.id(), attempt.revision())
                .with("directory", directories.get(directory).name())
                .with("seal", seal.digest())
                .with("accounts", seal.binding().accounts().size()));
        wakeUps.workFor(directory);
    }

    private boolean sameAgain(Running attempt, List<PortalApi.SealedPassword> passwords) {
        var kept = database.createQuery("SELECT seal FROM SealedPasswordRow WHERE attempt = :attempt", String.class)
                .setParameter("attempt", attempt.id())
                .getResultList();
        return passwords.stream().allMatch(p -> kept.contains(p.seal()));
    }

    /** Results for the person, the latest of each account. */
    @Transactional(readOnly = true)
    public List<PortalApi.AccountResult> results(UUID attempt) {
        return latest(attempt).stream()
                .map(d -> new PortalApi.AccountResult(
                        directories.get(d.directory).title(),
                        login(d),
                        switch (d.state) {
                            case "leased", "begun" -> "working";
                            default -> d.state;
                        },
                        d.cause == null ? null : d.cause.person(),
                        d.cause != null && d.cause.chooseAgain()))
                .toList();
    }

    /** Whether some delivery waits longer than it should, or no steward of its directory is there. */
    @Transactional(readOnly = true)
    public boolean waitsForSteward(UUID attempt) {
        return rows(attempt).stream()
                .anyMatch(d -> d.state.equals("waiting")
                        && (!directories.connected(d.directory)
                                || d.createdAt.isBefore(clock.instant().minus(PATIENCE))));
    }

    /** Deliveries for the administrator, oldest first. */
    @Transactional(readOnly = true)
    public List<AdminApi.Delivery> shown(UUID attempt) {
        return rows(attempt).stream().map(this::shown).toList();
    }

    private AdminApi.Delivery shown(DeliveryRow row) {
        var directory = directories.get(row.directory);
        var member = directory.stewards().flatMap(r -> r.member(row.steward));
        var receipt = row.receipt == null || member.isEmpty() ? null : Receipt.verify(row.receipt, member.get());
        return new AdminApi.Delivery(
                row.id,
                directory.name(),
                login(row),
                row.state,
                row.epoch,
                member.map(Roster.Member::name).orElse(null),
                row.cause == null ? null : row.cause.administrator(),
                row.cause == null ? null : row.cause.whatToDo(),
                receipt == null ? null : receipt.detail(),
                row.begunServer,
                receipt == null ? row.begunVersion : receipt.versionBefore(),
                receipt == null ? null : receipt.versionAfter(),
                receipt == null ? null : receipt.bindCode(),
                receipt == null ? Map.of() : receipt.phases());
    }

    /** Gives a steward the oldest order of its directory, under the next epoch. */
    @Transactional
    Optional<String> lease(UUID directory, UUID steward, String stewardName) {
        var served = directories.get(directory);
        if (served.stewards().flatMap(r -> r.member(steward)).isEmpty()) {
            return Optional.empty();
        }
        var ids = database.createNativeQuery("""
                        UPDATE delivery SET state = 'leased', epoch = epoch + 1, steward = :steward,
                            leased_until = clock_timestamp() + :lease * interval '1 ms',
                            held_until = clock_timestamp() + (:lease + :timeout) * interval '1 ms'
                        WHERE id = (SELECT d.id FROM delivery d WHERE d.directory = :directory AND d.ended_at IS NULL
                            AND d.expires_at > clock_timestamp() AND d.epoch < :epochs
                            AND (d.state = 'waiting' OR d.held_until < clock_timestamp())
                            AND NOT EXISTS (SELECT 1 FROM delivery o WHERE o.account = d.account AND o.id <> d.id
                                AND o.ended_at IS NULL AND (o.state <> 'waiting' OR o.created_at < d.created_at))
                            ORDER BY d.created_at FOR UPDATE SKIP LOCKED LIMIT 1) RETURNING id""", UUID.class)
                .setParameter("steward", steward)
                .setParameter("directory", directory)
                .setParameter("lease", settings.lease().toMillis())
                .setParameter("timeout", settings.directoryTimeout().toMillis())
                .setParameter("epochs", MOST_EPOCHS)
                .getResultList();
        return ids.stream().findFirst().map(id -> {
            var row = database.find(DeliveryRow.class, id);
            var attempt = attempts.get(row.attempt);
            events.write(event("order.leased", row, attempt)
                    .with("steward", stewardName)
                    .with("epoch", row.epoch)
                    .with("takeOver", row.epoch > 1));
            wakeUps.changed(row.attempt);
            return order(row, attempt).sign(keys.serviceKey());
        });
    }

    private Order order(DeliveryRow row, Running attempt) {
        var sealed = database.find(SealedPasswordRow.class, row.sealed);
        var policy = attempts.policy(attempt);
        return new Order(
                1,
                row.id,
                row.epoch,
                row.attempt,
                attempt.reference().toString(),
                row.directory,
                row.account,
                attempt.action().label(),
                sealed.seal,
                sealed.evidence,
                configurations
                        .revision(attempt.revision())
                        .passwords()
                        .get(policy.password().value()),
                policy.clearLockout().value(),
                policy.mustChange().value(),
                row.begunVersion == null ? null : new Order.Begun(row.begunServer, row.begunVersion),
                settings.lease().toMillis(),
                row.expiresAt.toEpochMilli());
    }

    /**
     * A compare-and-set on the epoch, before the write. The lease begins anew, so that the steward knows how long it may
     * still send the write, counted from when it asked.
     *
     * @return whether the steward may write
     */
    @Transactional
    boolean begin(UUID id, UUID steward, int epoch, String server, String version) {
        var begun = database.createNativeMutationQuery("""
                        UPDATE delivery SET state = 'begun', begun_server = :server, begun_version = :version,
                            leased_until = clock_timestamp() + :lease * interval '1 ms',
                            held_until = clock_timestamp() + (:lease + :timeout) * interval '1 ms'
                        WHERE id = :id AND steward = :steward AND epoch = :epoch AND state = 'leased'
                        AND leased_until > clock_timestamp()""")
                .setParameter("server", server)
                .setParameter("version", version)
                .setParameter("lease", settings.lease().toMillis())
                .setParameter("timeout", settings.directoryTimeout().toMillis())
                .setParameter("id", id)
                .setParameter("steward", steward)
                .setParameter("epoch", epoch)
                .executeUpdate();
        if (begun == 1) {
            var row = database.find(DeliveryRow.class, id);
            events.write(event("order.begun", row, attempts.get(row.attempt))
                    .with("server", server)
                    .with("version", version)
                    .with("epoch", epoch));
            wakeUps.changed(row.attempt);
        }
        return begun == 1;
    }

    /** Takes a receipt. One for an older epoch, or one that comes twice, changes nothing. */
    @Transactional
    void receive(UUID id, UUID steward, String signed) {
        var row = database.find(DeliveryRow.class, id, LockModeType.PESSIMISTIC_WRITE);
        if (row == null) {
            throw Problem.missing("order with this id");
        }
        var member = directories
                .get(row.directory)
                .stewards()
                .flatMap(r -> r.member(steward))
                .orElseThrow(() -> new InvalidDocument("roster", "this steward is not on the roster"));
        var receipt = Receipt.verify(signed, member);
        if (!receipt.order().equals(id)) {
            throw new InvalidDocument("receipt", "the receipt is about another order");
        }
        var attempt = attempts.get(row.attempt);
        if (row.endedAt != null || receipt.epoch() != row.epoch || !steward.equals(row.steward)) {
            if (!signed.equals(row.receipt)) {
                events.write(event("order.receipt-ignored", row, attempt).with("epoch", receipt.epoch()));
            }
            return;
        }
        row.receipt = signed;
        end(row, attempt, receipt.outcome(), receipt.cause(), receipt);
    }

    /** Ends what nobody can carry out any more: told as failed if nothing was begun, as unknown otherwise. */
    @Scheduled(fixedDelay = 1000)
    @Transactional
    void sweep() {
        var ids = database.createNativeQuery("""
                        SELECT id FROM delivery WHERE ended_at IS NULL AND (
                            state = 'waiting' AND expires_at < clock_timestamp()
                            OR state <> 'waiting' AND held_until < clock_timestamp()
                                AND (epoch >= :epochs OR expires_at < clock_timestamp()))
                        FOR UPDATE SKIP LOCKED LIMIT 100""", UUID.class)
                .setParameter("epochs", MOST_EPOCHS)
                .getResultList();
        for (var id : ids) {
            var row = database.find(DeliveryRow.class, id);
            var begun = row.begunVersion != null;
            end(
                    row,
                    attempts.get(row.attempt),
                    begun ? Outcome.UNKNOWN : Outcome.FAILED,
                    begun ? Cause.LOST_TRACK : Cause.EXPIRED,
                    null);
        }
        // A steward that waits learns of an order whose holder went away.
        for (var directory : database.createNativeQuery(
                        "SELECT DISTINCT directory FROM delivery WHERE ended_at IS NULL AND held_until < clock_timestamp()",
                        UUID.class)
                .getResultList()) {
            wakeUps.workFor(directory);
        }
    }

    private void end(DeliveryRow row, Running attempt, Outcome outcome, Cause cause, Receipt receipt) {
        row.state = outcome.name().toLowerCase(Locale.ROOT);
        row.cause = cause;
        row.endedAt = clock.instant();
        var event = event("order." + row.state, row, attempt).with("epoch", row.epoch);
        if (receipt != null) {
            event = event.with("versionBefore", receipt.versionBefore())
                    .with("versionAfter", receipt.versionAfter())
                    .with("bind", receipt.bindCode())
                    .with("detail", receipt.detail());
        }
        events.write(cause == null ? event : event.with("cause", cause.name()).with("says", cause.administrator()));
        forgetCiphertext(row);
        var all = latest(row.attempt);
        if (all.stream().allMatch(d -> d.endedAt != null)) {
            attempts.delivered(
                    row.attempt,
                    all.stream()
                            .map(d -> new AttemptStep.Ended(Outcome.valueOf(d.state.toUpperCase(Locale.ROOT)), d.cause))
                            .toList(),
                    all.stream()
                            .filter(d -> d.state.equals("done"))
                            .map(d -> directories.get(d.directory).title())
                            .distinct()
                            .toList());
        }
        wakeUps.changed(row.attempt);
    }

    private void forgetCiphertext(DeliveryRow row) {
        var sealed = row.sealed;
        database.flush();
        var open = database.createQuery(
                        "SELECT count(*) FROM DeliveryRow WHERE sealed = :sealed AND endedAt IS NULL", Long.class)
                .setParameter("sealed", sealed)
                .getSingleResult();
        if (open == 0) {
            database.createNativeMutationQuery("DELETE FROM sealed_password WHERE id = :id")
                    .setParameter("id", sealed)
                    .executeUpdate();
            row.sealed = null;
        }
    }

    private List<DeliveryRow> latest(UUID attempt) {
        var latest = new LinkedHashMap<UUID, DeliveryRow>();
        rows(attempt).forEach(row -> latest.put(row.account, row));
        return List.copyOf(latest.values());
    }

    private List<DeliveryRow> rows(UUID attempt) {
        return database.createQuery(
                        "FROM DeliveryRow WHERE attempt = :attempt ORDER BY sealing, createdAt", DeliveryRow.class)
                .setParameter("attempt", attempt)
                .getResultList();
    }

    private NewEvent event(String kind, DeliveryRow row, Running attempt) {
        return NewEvent.of(kind, row.attempt, attempt.revision())
                .with("directory", directories.get(row.directory).name())
                .with("order", row.id.toString())
                .withPersonal("login", login(row));
    }

    private String login(DeliveryRow row) {
        return attempts.get(row.attempt).person().flatMap(people::find).stream()
                .flatMap(p -> p.accounts().stream())
                .filter(a -> a.id().equals(row.account))
                .map(People.Account::login)
                .findFirst()
                .orElse("a removed account");
    }

    private People.Person person(Running attempt) {
        return attempt.person().flatMap(people::find).orElseThrow(() -> Problem.missing("person for this attempt"));
    }

    private static void require(boolean holds, String otherwise) {
        if (!holds) {
            throw new InvalidDocument("binding", otherwise);
        }
    }
}
