package dev.entente.service.delivery;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.Cause;
import dev.entente.core.policy.Action;
import dev.entente.core.seal.Credential;
import dev.entente.core.seal.Evidence;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.Seal;
import dev.entente.service.attempt.Attempts;
import dev.entente.service.attempt.Attempts.Attempt;
import dev.entente.service.attempt.Conclusion;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.directory.ConnectedStewards;
import dev.entente.service.directory.Credentials;
import dev.entente.service.directory.Directories;
import dev.entente.service.directory.SealingKeys;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.people.Person.Account;
import dev.entente.service.platform.AttemptsPurged;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.policy.Configurations;
import dev.entente.service.policy.Stops;
import dev.entente.wire.PortalApi;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** Sealed passwords and unlocks as they come in, and how each account's delivery stands. {@link Leases} hands them out. */
@Component
public class Deliveries {
    // After this long the person is told that it takes longer than it should.
    private static final Duration PATIENCE = Duration.ofSeconds(6);

    private final Session database;
    private final Attempts attempts;
    private final Configurations configurations;
    private final Stops stops;
    private final Directories directories;
    private final People people;
    private final EventLog events;
    private final WakeUps wakeUps;
    private final ServiceSettings settings;
    private final InstantSource clock;
    private final Conclusion conclusion;
    private final SealingKeys sealingKeys;
    private final Credentials credentials;
    private final ConnectedStewards stewards;

    Deliveries(
            Session database,
            Attempts attempts,
            Configurations configurations,
            Stops stops,
            Directories directories,
            People people,
            EventLog events,
            WakeUps wakeUps,
            ServiceSettings settings,
            InstantSource clock,
            Conclusion conclusion,
            SealingKeys sealingKeys,
            Credentials credentials,
            ConnectedStewards stewards) {
        this.database = database;
        this.attempts = attempts;
        this.configurations = configurations;
        this.stops = stops;
        this.directories = directories;
        this.people = people;
        this.events = events;
        this.wakeUps = wakeUps;
        this.settings = settings;
        this.clock = clock;
        this.conclusion = conclusion;
        this.sealingKeys = sealingKeys;
        this.credentials = credentials;
        this.stewards = stewards;
    }

    /** Titles of the directories that a person's policy delivers to, whose stewards keep credentials and do not know this one. */
    @Transactional(readOnly = true)
    public List<String> unknownTo(Attempt attempt, Credential credential) {
        var targets = attempts.policy(attempt).deliverTo().value();
        return person(attempt).accounts().stream()
                .filter(a -> targets.contains(a.directory()))
                .filter(a -> credentials.demand(a.directoryId()).proof().contains(credential.method()))
                .filter(a -> !credentials.knows(a.directoryId(), a.id(), credential.thumbprint()))
                .map(Account::directoryTitle)
                .distinct()
                .toList();
    }

    /** What the browser needs to seal: rosters, keys and accounts that still need it. */
    @Transactional(readOnly = true)
    public PortalApi.Sealing sealing(Attempt attempt) {
        stops.check(attempt.action(), attempt.policy());
        if (attempt.action() == Action.DETAILS) {
            throw Problem.of("nothing-to-seal");
        }
        if (attempts.terms(attempt).isPresent()) {
            throw Problem.of("terms-not-accepted");
        }
        var person = person(attempt);
        var policy = attempts.policy(attempt);
        var details = new ArrayList<String>();
        details.add(person.name());
        person.accounts().forEach(a -> {
            details.add(a.login());
            details.add(a.displayName());
        });
        var targets = new ArrayList<PortalApi.Target>();
        var pending = pending(attempt, person);
        pending.forEach((directory, accounts) -> {
            var served = directories.get(directory);
            if (!served.suspended()) {
                targets.add(target(served, accounts, attempt.action() == Action.UNLOCK));
            }
        });
        if (targets.isEmpty() && !pending.isEmpty()) {
            throw Problem.of("suspended").with("helpDesk", settings.helpDesk());
        }
        return new PortalApi.Sealing(
                attempt.id(),
                attempt.action().label(),
                clock.instant().plus(settings.sealLife()).truncatedTo(ChronoUnit.MILLIS),
                configurations
                        .revision(attempt.revision())
                        .passwords()
                        .get(policy.password().value()),
                details.stream().distinct().toList(),
                targets);
    }

    private PortalApi.Target target(Directories.Served served, List<Account> accounts, boolean unlock) {
        var listed = served.stewards()
                .orElseThrow(() -> Problem.of("no-steward-yet")
                        .with("title", served.title())
                        .with("helpDesk", settings.helpDesk()));
        return new PortalApi.Target(
                served.id(),
                served.name(),
                served.title(),
                served.operatorKey(),
                served.roster(),
                unlock ? List.of() : keysOf(served.id(), listed),
                accounts.stream()
                        .map(a -> new PortalApi.TargetAccount(a.id(), a.login()))
                        .toList(),
                credentials.demand(served.id()).any());
    }

    private List<String> keysOf(UUID directory, Roster listed) {
        var statements = sealingKeys.inForce(directory);
        if (statements.isEmpty()) {
            throw Problem.of("no-sealing-key")
                    .with("helpDesk", settings.helpDesk())
                    .with("retryAfter", 5);
        }
        return statements.stream().limit(listed.stewards().size()).toList();
    }

    /** Accounts that the policy delivers to and that are not done yet, by directory. */
    private Map<UUID, List<Account>> pending(Attempt attempt, Person person) {
        var targets = attempts.policy(attempt).deliverTo().value();
        // Nothing was handed in before the first sealing.
        var done = attempt.sealings() == 0
                ? List.of()
                : rows(attempt).stream()
                        .filter(d -> d.state.equals("done"))
                        .map(d -> d.account)
                        .toList();
        var pending = new LinkedHashMap<UUID, List<Account>>();
        for (var account : person.accounts()) {
            if (targets.contains(account.directory())
                    && !account.disabled()
                    && !account.quarantined()
                    && !done.contains(account.id())) {
                pending.computeIfAbsent(account.directoryId(), d -> new ArrayList<>())
                        .add(account);
            }
        }
        return pending;
    }

    /**
     * Takes sealed passwords, one for each directory, or the agreement to an unlock, and wakes the stewards. Handing in the
     * same again changes nothing.
     *
     * @return the attempt as it is then
     * @throws InvalidDocument if one is bound otherwise than it should be
     */
    @Transactional
    public Attempt accept(Attempt attempt, List<PortalApi.SealedPassword> passwords) {
        if (passwords == null || passwords.isEmpty() || passwords.size() > 16) {
            throw Problem.of("wrong-number-of-seals");
        }
        if (attempt.state() == AttemptState.DELIVERING && sameAgain(attempt, passwords)) {
            return attempt;
        }
        if (attempt.state() != AttemptState.PROVED || attempt.action() == Action.DETAILS) {
            throw Problem.of("no-password-wanted");
        }
        var pending = pending(attempt, person(attempt));
        var suspended = new LinkedHashMap<UUID, List<Account>>();
        for (var directory : List.copyOf(pending.keySet())) {
            if (directories.get(directory).suspended()) {
                suspended.put(directory, pending.remove(directory));
            }
        }
        var accepted = new LinkedHashMap<UUID, Accepted>();
        for (var password : passwords) {
            var one = attempt.action() == Action.UNLOCK
                    ? unlock(attempt, pending, password)
                    : sealed(attempt, pending, password);
            require(accepted.put(one.directory(), one) == null, "a directory has two seals");
        }
        require(accepted.keySet().equals(pending.keySet()), "there is not one seal for each directory");
        var latest = accepted.values().stream().map(Accepted::expires).max(Instant::compareTo);
        var running = conclusion.seal(attempt.id(), latest.orElseThrow());
        accepted.values().forEach(one -> {
            var sealed = new SealedPasswordRow();
            sealed.id = UUID.randomUUID();
            sealed.attempt = running.id();
            sealed.seal = one.seal() == null ? null : one.seal().text();
            sealed.evidence = one.evidence();
            sealed.expiresAt = one.expires();
            database.persist(sealed);
            store(running, one, sealed.id, pending.get(one.directory()));
        });
        suspended.forEach((directory, accounts) -> accounts.forEach(account -> {
            var row = row(running, directory, account, clock.instant());
            row.state = "failed";
            row.cause = Cause.SUSPENDED;
            row.endedAt = clock.instant();
            database.persist(row);
        }));
        return running;
    }

    /** @param seal null for an unlock */
    private record Accepted(UUID directory, List<UUID> accounts, Seal seal, String evidence, Instant expires) {}

    private Accepted sealed(Attempt attempt, Map<UUID, List<Account>> pending, PortalApi.SealedPassword password) {
        var now = clock.instant();
        var seal = Seal.parse(password.seal());
        var binding = seal.binding();
        var accounts = ids(pending, binding.directory());
        var roster = directories.get(binding.directory()).roster();
        require(binding.attempt().equals(attempt.id()), "the seal is bound to another attempt");
        require(binding.action().equals(attempt.action().label()), "the seal is bound to another action");
        require(
                new HashSet<>(binding.accounts()).equals(new HashSet<>(accounts)),
                "the seal is bound to other accounts");
        require(binding.roster().equals(Roster.digest(roster)), "the seal was made for another roster");
        require(binding.key().equals(attempt.key().thumbprint()), "the seal names another key than the attempt's");
        var expires = expires(binding.exp(), now);
        Evidence.verify(password.evidence(), seal, now);
        return new Accepted(binding.directory(), binding.accounts(), seal, password.evidence(), expires);
    }

    private Accepted unlock(Attempt attempt, Map<UUID, List<Account>> pending, PortalApi.SealedPassword agreed) {
        require(agreed.seal() == null, "an unlock carries no password");
        var evidence = Evidence.read(agreed.evidence(), attempt.key().thumbprint());
        require(evidence.action().equals("unlock"), "the evidence agrees to another action");
        require(evidence.attempt().equals(attempt.id()), "the evidence agrees to another attempt");
        var accounts = ids(pending, evidence.directory());
        require(
                new HashSet<>(evidence.accounts()).equals(new HashSet<>(accounts)),
                "the evidence agrees to other accounts");
        return new Accepted(
                evidence.directory(), accounts, null, agreed.evidence(), expires(evidence.exp(), clock.instant()));
    }

    private Instant expires(long exp, Instant now) {
        var expires = Instant.ofEpochMilli(exp);
        require(
                expires.isAfter(now)
                        && !expires.isAfter(now.plus(settings.sealLife()).plusSeconds(60)),
                "the expiry is out of bounds");
        return expires;
    }

    private static List<UUID> ids(Map<UUID, List<Account>> pending, UUID directory) {
        return pending.getOrDefault(directory, List.of()).stream()
                .map(Account::id)
                .toList();
    }

    private void store(Attempt attempt, Accepted accepted, UUID sealed, List<Account> accounts) {
        for (var account : accounts) {
            var row = row(attempt, accepted.directory(), account, accepted.expires());
            row.sealed = sealed;
            row.state = "waiting";
            database.persist(row);
        }
        var event = NewEvent.of(
                        accepted.seal() == null ? "unlock.agreed" : "password.sealed", attempt.id(), attempt.revision())
                .with("directory", directories.get(accepted.directory()).name())
                .with("accounts", accepted.accounts().size());
        events.write(
                accepted.seal() == null
                        ? event
                        : event.with("seal", accepted.seal().digest()));
        wakeUps.workFor(accepted.directory());
    }

    private DeliveryRow row(Attempt attempt, UUID directory, Account account, Instant expires) {
        var row = new DeliveryRow();
        row.id = UUID.randomUUID();
        row.attempt = attempt.id();
        row.action = attempt.action().label();
        row.sealing = attempt.sealings();
        row.directory = directory;
        row.account = account.id();
        row.login = account.login();
        row.revision = attempt.revision();
        row.policy = attempt.policy();
        row.reference = attempt.reference().digits();
        row.createdAt = clock.instant();
        row.expiresAt = expires;
        return row;
    }

    private boolean sameAgain(Attempt attempt, List<PortalApi.SealedPassword> passwords) {
        var kept = database.createQuery("SELECT evidence FROM SealedPasswordRow WHERE attempt = :attempt", String.class)
                .setParameter("attempt", attempt.id())
                .getResultList();
        return passwords.stream().allMatch(p -> kept.contains(p.evidence()));
    }

    /**
     * How an attempt's deliveries stand.
     *
     * @param results for the person, the latest of each account; none before anything was handed in for what is wanted now
     * @param waitsForSteward whether one waits longer than it should, or no steward of its directory is there
     */
    public record Standing(List<PortalApi.AccountResult> results, boolean waitsForSteward) {}

    /** How the deliveries of what is wanted now stand. */
    @Transactional(readOnly = true)
    public Standing standing(Attempt attempt) {
        var rows = rows(attempt);
        var late = clock.instant().minus(PATIENCE);
        var waiting = rows.stream().filter(d -> d.state.equals("waiting")).toList();
        return new Standing(
                DeliveryRow.latest(rows).stream()
                        .map(d -> new PortalApi.AccountResult(
                                directories.title(d.directory),
                                d.login,
                                switch (d.state) {
                                    case "leased", "begun" -> "working";
                                    default -> d.state;
                                },
                                d.cause == null ? null : d.cause.person(),
                                d.cause != null && d.cause.chooseAgain(),
                                d.retryAt))
                        .toList(),
                waiting.stream().anyMatch(d -> d.createdAt.isBefore(late))
                        || !stewards.connected(
                                waiting.stream().map(d -> d.directory).collect(Collectors.toSet())));
    }

    /** Differs when how the deliveries of an attempt stand may be told otherwise; by attempt, for those that have any. */
    @Transactional(readOnly = true)
    public Map<UUID, String> stamps(Collection<UUID> attempts) {
        return attempts.isEmpty()
                ? Map.of()
                : Sql.rows(database, """
                                SELECT attempt, string_agg(concat_ws(' ', id, xmin), ',' ORDER BY id) AS stamp
                                FROM delivery WHERE attempt IN (:ids) GROUP BY attempt""", Stamp.class)
                        .setParameter("ids", attempts)
                        .getResultStream()
                        .collect(Collectors.toMap(Stamp::attempt, Stamp::stamp));
    }

    private record Stamp(UUID attempt, String stamp) {}

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void purged(AttemptsPurged purged) {
        for (var table : List.of("delivery", "sealed_password")) {
            Sql.change(database, "DELETE FROM " + table + " WHERE attempt IN (:ids)")
                    .setParameter("ids", purged.attempts())
                    .executeUpdate();
        }
    }

    private List<DeliveryRow> rows(Attempt attempt) {
        return database.createQuery(
                        "FROM DeliveryRow WHERE attempt = :attempt AND action = :action ORDER BY sealing, createdAt",
                        DeliveryRow.class)
                .setParameter("attempt", attempt.id())
                .setParameter("action", attempt.action().label())
                .getResultList();
    }

    private Person person(Attempt attempt) {
        return attempt.person().flatMap(people::find).orElseThrow(() -> Problem.of("person-not-found/of-attempt"));
    }

    private static void require(boolean holds, String otherwise) {
        if (!holds) {
            throw new InvalidDocument("binding", otherwise);
        }
    }
}
