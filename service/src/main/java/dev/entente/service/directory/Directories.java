package dev.entente.service.directory;

import dev.entente.core.scope.GroupGraph;
import dev.entente.core.scope.ReadableAttributes;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SealingKey;
import dev.entente.service.approval.Approvals;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Standing;
import dev.entente.wire.AdminApi;
import dev.entente.wire.StewardApi;
import jakarta.persistence.LockModeType;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.event.EventListener;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** Directories and who serves them. */
@Component
public class Directories {
    private static final String KIND = "directory";
    private static final Duration JOIN_CODE_LIFE = Duration.ofHours(1);
    private static final Map<String, String> ADDRESSES = Map.of(
            "active-directory", "ldaps?://[^/\\s]+",
            "ldap", "ldaps?://[^/\\s]+",
            "scim", "https?://[^\\s]+",
            "local", "");
    // Verified rosters by their text: a text that was right once stays right.
    /** A steward that was there a moment ago is not looked for again. */
    private static final Duration SEEN_LATELY = Duration.ofSeconds(2);

    private final Map<UUID, Instant> seenConnected = new ConcurrentHashMap<>();

    private static final Map<String, Roster> VERIFIED = new ConcurrentHashMap<>();
    private static final int MOST_VERIFIED = 500;

    /** What scopes may ask about unless the administrator says otherwise. */
    private static final List<String> FOR_SCOPES = List.of(
            "department", "departmentNumber", "title", "employeeType", "company", "physicalDeliveryOfficeName", "l");

    private final Session database;
    private final EventLog events;
    private final KeyRing keys;
    private final ApplicationEventPublisher publisher;
    private final Approvals approvals;
    private final Standing standing;
    private final JsonMapper json;
    private final ServiceSettings settings;
    private final InstantSource clock;

    Directories(
            Session database,
            EventLog events,
            KeyRing keys,
            ApplicationEventPublisher publisher,
            Approvals approvals,
            Standing standing,
            JsonMapper json,
            ServiceSettings settings,
            InstantSource clock) {
        this.database = database;
        this.events = events;
        this.keys = keys;
        this.publisher = publisher;
        this.approvals = approvals;
        this.standing = standing;
        this.json = json;
        this.settings = settings;
        this.clock = clock;
    }

    /**
     * A directory as other features see it.
     *
     * @param roster signed, null before the first
     */
    public record Served(
            UUID id,
            String name,
            String title,
            String kind,
            EcKey operatorKey,
            String roster,
            boolean suspended,
            int trust) {
        /** Who may open its seals and sign its receipts; nobody before the first roster. */
        public Optional<Roster> stewards() {
            if (roster == null) {
                return Optional.empty();
            }
            if (VERIFIED.size() > MOST_VERIFIED) {
                VERIFIED.clear();
            }
            return Optional.of(VERIFIED.computeIfAbsent(roster, text -> Roster.verify(text, operatorKey, id)));
        }
    }

    /** Every directory there ever was; those that were removed are served to nobody, but named where something is told of them. */
    private record Known(List<Served> served, Map<UUID, Served> byId) {}

    private Known known() {
        return standing.kept(Standing.Topic.DIRECTORY, "all", Known.class, () -> {
            var rows = database.createQuery("FROM DirectoryRow ORDER BY name", DirectoryRow.class)
                    .getResultList();
            return new Known(
                    rows.stream()
                            .filter(row -> row.removedAt == null)
                            .map(Directories::served)
                            .toList(),
                    rows.stream().collect(Collectors.toMap(row -> row.id, Directories::served)));
        });
    }

    /** All directories by name. */
    @Transactional(readOnly = true)
    public List<Served> all() {
        return known().served();
    }

    /** @throws Problem if there is none with this id */
    @Transactional(readOnly = true)
    public Served get(UUID id) {
        var served = known().byId().get(id);
        if (served == null) {
            throw Problem.missing("directory", "with this id");
        }
        return served;
    }

    /** What people call it; as it was last known here, since nothing is decided by it. */
    public String title(UUID id) {
        return standing.lastKnown(Standing.Topic.DIRECTORY, "all", Known.class)
                .map(known -> known.byId().get(id))
                .orElseGet(() -> get(id))
                .title();
    }

    /** By name, if there is one. */
    @Transactional(readOnly = true)
    public Optional<Served> find(String name) {
        return all().stream().filter(d -> d.name().equals(name)).findFirst();
    }

    /** Whether the operator key has signed a steward in. */
    @Transactional(readOnly = true)
    public boolean lists(UUID directory, UUID steward) {
        return get(directory).stewards().flatMap(r -> r.member(steward)).isPresent();
    }

    /** Signed sealing keys in force for the listed stewards of a directory, the freshest of each. */
    @Transactional(readOnly = true)
    public List<String> sealingKeys(UUID directory) {
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
        return new Keys(database.createNativeQuery("""
                        SELECT DISTINCT ON (k.steward) k.statement, k.not_after FROM sealing_key k
                        JOIN steward s ON s.id = k.steward WHERE s.directory = :directory
                        ORDER BY k.steward, k.not_after DESC""", Object[].class)
                .setParameter("directory", directory)
                .getResultStream()
                .map(r -> new Key((String) r[0], (Instant) r[1]))
                .toList());
    }

    /** Whether some steward of the directory asked for work lately. */
    @Transactional(readOnly = true)
    public boolean connected(UUID directory) {
        return !database.createQuery(
                        "SELECT id FROM StewardRow WHERE directory = :directory AND lastSeen > :since AND retiredAt IS NULL",
                        UUID.class)
                .setParameter("directory", directory)
                .setParameter("since", clock.instant().minus(settings.stewardMissedAfter()))
                .setMaxResults(1)
                .getResultList()
                .isEmpty();
    }

    /** Whether some steward of each of these directories asked for work lately. */
    @Transactional(readOnly = true)
    public boolean connected(Set<UUID> those) {
        var now = clock.instant();
        var late = now.minus(SEEN_LATELY);
        if (those.stream().allMatch(id -> late.isBefore(seenConnected.getOrDefault(id, Instant.EPOCH)))) {
            return true;
        }
        var connected = database.createQuery(
                                "SELECT count(DISTINCT directory) FROM StewardRow WHERE directory IN (:those)"
                                        + " AND lastSeen > :since AND retiredAt IS NULL",
                                Long.class)
                        .setParameter("those", those)
                        .setParameter("since", now.minus(settings.stewardMissedAfter()))
                        .getSingleResult()
                == those.size();
        if (connected) {
            those.forEach(id -> seenConnected.put(id, now));
        }
        return connected;
    }

    List<DirectoryRow> rows() {
        return database.createQuery("FROM DirectoryRow WHERE removedAt IS NULL ORDER BY name", DirectoryRow.class)
                .getResultList();
    }

    DirectoryRow named(String name) {
        return database.createQuery("FROM DirectoryRow WHERE name = :name AND removedAt IS NULL", DirectoryRow.class)
                .setParameter("name", name)
                .getResultStream()
                .findFirst()
                .orElseThrow(
                        () -> Problem.missing("directory", "\"" + name + "\". To see all: entente directory list"));
    }

    List<StewardRow> stewards(UUID directory) {
        return database.createQuery("FROM StewardRow WHERE directory = :directory ORDER BY name", StewardRow.class)
                .setParameter("directory", directory)
                .getResultList();
    }

    @Transactional
    DirectoryRow add(AdminApi.NewDirectory wanted, String administrator) {
        if (wanted.name() == null || !wanted.name().matches("[a-z0-9][a-z0-9-]{0,62}")) {
            throw Problem.invalid(
                    "directory-name", "A directory's name has at most 63 lower-case letters, digits and dashes.");
        }
        if (wanted.kind() == null || !ADDRESSES.containsKey(wanted.kind())) {
            throw Problem.invalid("directory-kind", "The kind must be active-directory, ldap, scim or local.");
        }
        if (wanted.operatorKey() == null) {
            throw Problem.invalid(
                    "operator-key-missing",
                    "The directory's operator key is missing. Add it with entente directory add.");
        }
        if (rows().stream().anyMatch(row -> row.name.equals(wanted.name()))) {
            throw Problem.conflict(
                    "directory-exists", "There already is a directory \"" + wanted.name() + "\". Choose another name.");
        }
        var row = new DirectoryRow();
        row.id = UUID.randomUUID();
        row.name = wanted.name();
        row.title = wanted.title() == null || wanted.title().isBlank()
                ? wanted.name()
                : wanted.title().strip();
        row.kind = wanted.kind();
        row.base = wanted.base();
        row.groupBase = wanted.groupBase();
        row.serviceAccount = wanted.serviceAccount();
        row.correlation = wanted.correlation();
        row.servers = listed(wanted.servers());
        row.loginAttributes = listed(wanted.loginAttributes());
        row.attributes = wanted.attributes() == null ? FOR_SCOPES : listed(wanted.attributes());
        row.protectedGroups = listed(wanted.protectedGroups());
        // Two that are added side by side must not take the same one.
        database.createNativeQuery("SELECT cast(pg_advisory_xact_lock(4712) AS text)", String.class)
                .getSingleResult();
        row.trust = wanted.trust() == null
                ? rows().stream().mapToInt(r -> r.trust).max().orElse(0) + 1
                : wanted.trust();
        valid(row);
        trustAlone(row);
        row.operatorKey = wanted.operatorKey();
        row.createdAt = clock.instant();
        row.changedAt = row.createdAt;
        database.persist(row);
        events.write(NewEvent.administration("directory.added", administrator).with("directory", row.name));
        return row;
    }

    @Transactional
    AdminApi.JoinCode admit(String name, String steward, String administrator) {
        var directory = named(name);
        if (steward == null || !steward.matches("[a-z0-9][a-z0-9-]{0,62}")) {
            throw Problem.invalid(
                    "steward-name", "A steward's name has at most 63 lower-case letters, digits and dashes.");
        }
        // A letter first: a code that began with a dash would look like an option where it is typed.
        var code = "J" + Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(20));
        var expires = clock.instant().plus(JOIN_CODE_LIFE);
        database.createNativeMutationQuery("""
                        INSERT INTO join_code (code_hash, directory, steward, expires_at)
                        VALUES (:hash, :directory, :steward, :expires)""")
                .setParameter("hash", keys.blind("join code", code))
                .setParameter("directory", directory.id)
                .setParameter("steward", steward)
                .setParameter("expires", expires)
                .executeUpdate();
        events.write(NewEvent.administration("steward.admitted", administrator)
                .with("steward", steward)
                .with("directory", directory.name));
        return new AdminApi.JoinCode(code, keys.serviceKey().publicKey().thumbprint(), directory.id, expires);
    }

    /** Takes a steward's public keys; it serves nobody until the operator key has signed it in. */
    @Transactional(noRollbackFor = Problem.class)
    Joining join(String code, EcKey identityKey, String version) {
        var rows = database.createNativeQuery("""
                        UPDATE join_code SET used_at = now() WHERE code_hash = :hash AND used_at IS NULL AND expires_at > :now
                        RETURNING directory, steward""", Object[].class)
                .setParameter("hash", keys.blind("join code", code == null ? "" : code))
                .setParameter("now", clock.instant())
                .getResultList();
        if (rows.isEmpty()) {
            events.write(NewEvent.operation("steward.join-refused").with("why", "unknown, used or too old"));
            throw Problem.of(
                    HttpStatus.FORBIDDEN,
                    "join-code",
                    "This join code is wrong, was already used, or has expired. Get a new one with entente steward admit.");
        }
        var row = new StewardRow();
        row.id = UUID.randomUUID();
        row.directory = (UUID) rows.get(0)[0];
        row.name = (String) rows.get(0)[1];
        replace(row.directory, row.name);
        row.identityKey = identityKey;
        row.version = version == null ? "?" : StewardPresence.bounded(version, 40);
        row.joinedAt = clock.instant();
        row.lastSeen = Instant.EPOCH;
        database.persist(row);
        var directory = database.find(DirectoryRow.class, row.directory);
        events.write(NewEvent.operation("steward.joined")
                .with("steward", row.name)
                .with("directory", directory.name)
                .with("key", identityKey.thumbprint()));
        return new Joining(row, directory);
    }

    /** A steward that joins under a name in use replaces the one before, which serves until the next roster is signed. */
    private void replace(UUID directory, String name) {
        stewards(directory).stream()
                .filter(s -> s.name.equals(name))
                .findFirst()
                .ifPresent(before -> {
                    before.replaced = true;
                    before.name = name + " until " + clock.instant().toString().substring(0, 16);
                    database.flush();
                    events.write(NewEvent.operation("steward.replaced").with("steward", name));
                });
    }

    record Joining(StewardRow steward, DirectoryRow directory) {}

    @Transactional(noRollbackFor = Problem.class)
    void putRoster(String name, String signed, String administrator) {
        var directory = named(name);
        Roster roster;
        try {
            roster = Roster.verify(signed, directory.operatorKey, directory.id);
        } catch (InvalidDocument e) {
            events.write(NewEvent.administration("roster.refused", administrator)
                    .with("directory", directory.name)
                    .with("why", e.getMessage()));
            throw Problem.invalid("roster-refused", "The roster was refused: " + e.getMessage() + ".");
        }
        if (roster.version() != directory.rosterVersion + 1) {
            throw Problem.conflict(
                    "roster-version",
                    "The roster in force has version " + directory.rosterVersion + "; sign version "
                            + (directory.rosterVersion + 1) + ".");
        }
        var joined = stewards(directory.id);
        for (var member : roster.stewards()) {
            if (joined.stream().noneMatch(s -> s.id.equals(member.id()) && s.identityKey.equals(member.key()))) {
                throw Problem.invalid(
                        "roster-unknown-steward",
                        "The roster lists a steward that hasn't joined: " + member.name() + ".");
            }
        }
        for (var steward : joined) {
            var was = directory.roster != null
                    && served(directory)
                            .stewards()
                            .flatMap(r -> r.member(steward.id))
                            .isPresent();
            if (was && roster.member(steward.id).isEmpty()) {
                retire(steward, directory, administrator);
            }
        }
        var first = directory.roster == null;
        if (first) {
            directory.preflightDueAt = clock.instant();
            directory.syncDueAt = clock.instant();
        }
        directory.roster = signed;
        directory.rosterVersion = roster.version();
        events.write(NewEvent.administration("roster.signed", administrator)
                .with("directory", directory.name)
                .with("version", roster.version())
                .with("stewards", roster.stewards().size()));
    }

    private void retire(StewardRow steward, DirectoryRow directory, String administrator) {
        steward.retiredAt = clock.instant();
        database.createNativeMutationQuery("DELETE FROM sealing_key WHERE steward = :steward")
                .setParameter("steward", steward.id)
                .executeUpdate();
        events.write(NewEvent.administration("steward.retired", administrator)
                .with("steward", steward.name)
                .with("directory", directory.name));
    }

    /**
     * Changes what is named, or proposes it where it decides who gets codes.
     *
     * @return whether it was changed
     */
    @Transactional
    boolean change(String name, AdminApi.DirectoryChange wanted, String administrator) {
        var row = named(name);
        var after = new DirectoryRow();
        after.id = row.id;
        after.kind = row.kind;
        take(row, after);
        take(wanted, after);
        valid(after);
        trustAlone(after);
        var says = new ArrayList<String>();
        difference(says, name, "protected groups", row.protectedGroups, after.protectedGroups);
        difference(says, name, "trust", row.trust, after.trust);
        difference(says, name, "correlation attribute", row.correlation, after.correlation);
        difference(says, name, "log-in attributes", row.loginAttributes, after.loginAttributes);
        return approvals.make(KIND, name, says, wanted, administrator);
    }

    private static void take(DirectoryRow from, DirectoryRow row) {
        row.title = from.title;
        row.servers = from.servers;
        row.base = from.base;
        row.groupBase = from.groupBase;
        row.serviceAccount = from.serviceAccount;
        row.correlation = from.correlation;
        row.loginAttributes = from.loginAttributes;
        row.attributes = from.attributes;
        row.protectedGroups = from.protectedGroups;
        row.trust = from.trust;
        row.lossShare = from.lossShare;
    }

    /** What is named; what is left out stays. */
    private static void take(AdminApi.DirectoryChange wanted, DirectoryRow row) {
        row.title = otherwise(wanted.title(), row.title).strip();
        row.servers = wanted.servers() == null ? row.servers : listed(wanted.servers());
        row.base = otherwise(wanted.base(), row.base);
        row.groupBase = otherwise(wanted.groupBase(), row.groupBase);
        row.serviceAccount = otherwise(wanted.serviceAccount(), row.serviceAccount);
        row.correlation = otherwise(wanted.correlation(), row.correlation);
        row.loginAttributes = wanted.loginAttributes() == null ? row.loginAttributes : listed(wanted.loginAttributes());
        row.attributes = wanted.attributes() == null ? row.attributes : listed(wanted.attributes());
        row.protectedGroups = wanted.protectedGroups() == null ? row.protectedGroups : listed(wanted.protectedGroups());
        row.trust = otherwise(wanted.trust(), row.trust);
        row.lossShare = otherwise(wanted.lossShare(), row.lossShare);
    }

    private static void difference(List<String> says, String name, String what, Object before, Object after) {
        if (!before.equals(after)) {
            says.add("The " + what + " of " + name + ": " + said(before) + " before, " + said(after) + " after.");
        }
    }

    private static String said(Object value) {
        return value instanceof List<?> list
                ? list.isEmpty()
                        ? "none"
                        : String.join("; ", list.stream().map(String::valueOf).toList())
                : String.valueOf(value);
    }

    /** Of two directories that are believed alike, which one's address gets the codes would be chance. */
    private void trustAlone(DirectoryRow row) {
        rows().stream()
                .filter(other -> !other.id.equals(row.id) && other.trust == row.trust)
                .findFirst()
                .ifPresent(other -> {
                    throw Problem.conflict(
                            "trust-taken",
                            "The directory " + other.name + " has the trust " + row.trust
                                    + " already. Codes go to the address of the most trusted directory, so each needs a trust of its"
                                    + " own.");
                });
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void make(Approvals.Approved change) {
        if (!change.kind().equals(KIND)) {
            return;
        }
        change.handled().set(true);
        var wanted = json.readValue(change.wanted(), AdminApi.DirectoryChange.class);
        var row = named(change.subject());
        var before = List.of(
                String.valueOf(row.base),
                String.valueOf(row.groupBase),
                row.correlation,
                row.loginAttributes.toString(),
                row.attributes.toString());
        take(wanted, row);
        valid(row);
        trustAlone(row);
        row.changedAt = clock.instant();
        row.preflightDueAt = clock.instant();
        var after = List.of(
                String.valueOf(row.base),
                String.valueOf(row.groupBase),
                row.correlation,
                row.loginAttributes.toString(),
                row.attributes.toString());
        if (!before.equals(after)) {
            // What is read is another thing now, so it is read whole.
            row.syncCursor = null;
            row.syncDueAt = clock.instant();
        }
        events.write(
                NewEvent.administration("directory.changed", change.author()).with("directory", row.name));
    }

    /** A directory goes on; published in the transaction that lets it. */
    public record Resumed(String name, String administrator) {}

    /**
     * Stops its deliveries at once, or lets them go on.
     *
     * @param administrator whose doing it is put on record as; null where a stop ended by itself and says so
     */
    @Transactional
    public void suspend(String name, boolean suspended, String administrator) {
        var row = named(name);
        if (!suspended) {
            publisher.publishEvent(new Resumed(name, administrator));
        }
        if (suspended != (row.suspendedAt != null)) {
            row.suspendedAt = suspended ? clock.instant() : null;
            if (administrator != null) {
                events.write(
                        NewEvent.administration(suspended ? "directory.suspended" : "directory.resumed", administrator)
                                .with("directory", row.name));
            }
        }
    }

    /** A directory goes: whoever keeps what was read from it lets go of that in this transaction. */
    public record Removed(UUID directory) {}

    /** Removes a directory with everything read from it. Attempts, deliveries and the record stay. */
    @Transactional
    public void remove(String name, String administrator) {
        var row = named(name);
        database.lock(row, LockModeType.PESSIMISTIC_WRITE);
        publisher.publishEvent(new Resumed(name, administrator));
        // First, so that a batch on its way either ends before everybody is removed, or finds no job to belong to.
        database.createNativeMutationQuery("DELETE FROM job WHERE directory = :directory")
                .setParameter("directory", row.id)
                .executeUpdate();
        publisher.publishEvent(new Removed(row.id));
        for (var statement : List.of(
                "DELETE FROM join_code WHERE directory = :directory",
                "DELETE FROM sealing_key WHERE steward IN (SELECT id FROM steward WHERE directory = :directory)",
                "UPDATE steward SET retired_at = coalesce(retired_at, now()) WHERE directory = :directory")) {
            database.createNativeMutationQuery(statement)
                    .setParameter("directory", row.id)
                    .executeUpdate();
        }
        row.removedAt = clock.instant();
        row.name = name + " removed " + row.id;
        row.roster = null;
        row.syncCursor = null;
        row.syncDueAt = null;
        row.preflightDueAt = null;
        events.write(NewEvent.administration("directory.removed", administrator).with("directory", name));
    }

    /** Moves of work between servers, as a steward reports them. */
    @Transactional
    public void moved(StewardCalls.Caller caller, List<StewardApi.Move> moves) {
        for (var move : moves) {
            events.write(NewEvent.operation("directory.server-moved")
                    .with("directory", get(caller.directory()).name())
                    .with("steward", caller.name())
                    .with("from", String.valueOf(move.from()))
                    .with("to", String.valueOf(move.to()))
                    .with("why", String.valueOf(move.why())));
        }
    }

    @Transactional
    void addSealingKey(StewardRow steward, String statement) {
        var directory = database.find(DirectoryRow.class, steward.directory);
        var member = served(directory)
                .stewards()
                .flatMap(r -> r.member(steward.id))
                .orElseThrow(() -> new InvalidDocument("roster", "this steward is not on the roster"));
        var key = SealingKey.verify(statement, member, steward.directory, clock.instant());
        database.createNativeMutationQuery("""
                        INSERT INTO sealing_key (thumbprint, steward, statement, not_after)
                        VALUES (:thumbprint, :steward, :statement, :notAfter) ON CONFLICT DO NOTHING""")
                .setParameter("thumbprint", key.key().thumbprint())
                .setParameter("steward", steward.id)
                .setParameter("statement", statement)
                .setParameter("notAfter", Instant.ofEpochMilli(key.notAfter()))
                .executeUpdate();
        database.createNativeMutationQuery("DELETE FROM sealing_key WHERE not_after < now() - interval '1 hour'")
                .executeUpdate();
    }

    private static Served served(DirectoryRow row) {
        return new Served(
                row.id, row.name, row.title, row.kind, row.operatorKey, row.roster, row.suspendedAt != null, row.trust);
    }

    private static <T> T otherwise(T wanted, T before) {
        return wanted == null ? before : wanted;
    }

    private static List<String> listed(List<String> wanted) {
        return wanted == null
                ? List.of()
                : wanted.stream()
                        .map(String::strip)
                        .filter(t -> !t.isEmpty())
                        .distinct()
                        .toList();
    }

    private static void valid(DirectoryRow row) {
        var local = row.kind.equals("local");
        if (local != row.servers.isEmpty()
                || row.servers.size() > 8
                || !row.servers.stream().allMatch(s -> s.matches(ADDRESSES.get(row.kind)))) {
            throw Problem.invalid(
                    "directory-servers",
                    switch (row.kind) {
                        case "local" -> "A local command has no servers.";
                        case "scim" -> "Servers are one to eight addresses of the form https://host/path.";
                        default ->
                            "Servers are one to eight addresses of the form ldaps://host:port, or ldap://host:port for"
                                    + " StartTLS.";
                    });
        }
        if (row.correlation == null || row.correlation.isBlank()) {
            throw Problem.invalid(
                    "correlation-missing",
                    "Name the correlation attribute, which tells which accounts belong to one person.");
        }
        if (row.trust < 1 || row.trust > 100 || row.lossShare < 1 || row.lossShare > 100) {
            throw Problem.invalid(
                    "directory-numbers",
                    "Trust and the share of people a sync may lose must be numbers from 1 to 100.");
        }
        if (row.loginAttributes.size() > 8) {
            throw Problem.invalid("too-many-attributes", "There can be at most eight attributes for log-in names.");
        }
        if (row.attributes.size() > 30) {
            throw Problem.invalid("too-many-attributes", "There can be at most thirty attributes for scopes.");
        }
        var named = new ArrayList<>(row.attributes);
        named.addAll(row.loginAttributes);
        named.add(row.correlation);
        ReadableAttributes.refused(named).ifPresent(why -> {
            throw Problem.invalid("attribute-refused", why);
        });
        if (row.kind.equals("ldap") || row.kind.equals("active-directory")) {
            distinguishedName("base", row.base);
            distinguishedName("group base", otherwise(row.groupBase, row.base));
            row.protectedGroups.forEach(g -> distinguishedName("protected group", g));
        }
    }

    private static void distinguishedName(String what, String value) {
        try {
            if (value != null && !value.isBlank()) {
                GroupGraph.key(value);
                return;
            }
        } catch (IllegalArgumentException e) {
            throw Problem.invalid(
                    "not-a-distinguished-name", "The " + what + " isn't a distinguished name: " + value + ".");
        }
        throw Problem.invalid("distinguished-name-missing", "The " + what + " is missing.");
    }
}
