package dev.entente.service.directory;

import dev.entente.core.scope.GroupGraph;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SealingKey;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.wire.AdminApi;
import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.security.cert.CertificateException;
import java.security.cert.CertificateFactory;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Directories and who serves them. */
@Component
public class Directories {
    /** A steward that asked for work within this time counts as connected. */
    public static final Duration CONNECTED = Duration.ofSeconds(25);

    private static final Duration JOIN_CODE_LIFE = Duration.ofHours(1);
    private static final Set<String> KINDS = Set.of("active-directory", "ldap");

    private final Session database;
    private final EventLog events;
    private final KeyRing keys;
    private final InstantSource clock;

    Directories(Session database, EventLog events, KeyRing keys, InstantSource clock) {
        this.database = database;
        this.events = events;
        this.keys = keys;
        this.clock = clock;
    }

    /**
     * A directory as other features see it.
     *
     * @param roster signed, null before the first
     */
    public record Served(UUID id, String name, String title, String kind, EcKey operatorKey, String roster) {
        /** Who may open its seals and sign its receipts; nobody before the first roster. */
        public Optional<Roster> stewards() {
            return roster == null ? Optional.empty() : Optional.of(Roster.verify(roster, operatorKey, id));
        }
    }

    /** All directories by name. */
    @Transactional(readOnly = true)
    public List<Served> all() {
        return rows().stream().map(Directories::served).toList();
    }

    /** @throws Problem if there is none with this id */
    @Transactional(readOnly = true)
    public Served get(UUID id) {
        var row = database.find(DirectoryRow.class, id);
        if (row == null) {
            throw Problem.missing("directory with this id");
        }
        return served(row);
    }

    /** Signed sealing keys in force for the listed stewards of a directory, the freshest of each. */
    @Transactional(readOnly = true)
    public List<String> sealingKeys(UUID directory) {
        return database.createNativeQuery("""
                        SELECT DISTINCT ON (k.steward) k.statement FROM sealing_key k JOIN steward s ON s.id = k.steward
                        WHERE s.directory = :directory AND k.not_after > :now ORDER BY k.steward, k.not_after DESC""", String.class)
                .setParameter("directory", directory)
                .setParameter("now", clock.instant().plus(Duration.ofMinutes(15)))
                .getResultList();
    }

    /** Whether some steward of the directory asked for work lately. */
    @Transactional(readOnly = true)
    public boolean connected(UUID directory) {
        return !database.createQuery(
                        "SELECT id FROM StewardRow WHERE directory = :directory AND lastSeen > :since", UUID.class)
                .setParameter("directory", directory)
                .setParameter("since", clock.instant().minus(CONNECTED))
                .setMaxResults(1)
                .getResultList()
                .isEmpty();
    }

    List<DirectoryRow> rows() {
        return database.createQuery("FROM DirectoryRow ORDER BY name", DirectoryRow.class)
                .getResultList();
    }

    DirectoryRow named(String name) {
        return database.createQuery("FROM DirectoryRow WHERE name = :name", DirectoryRow.class)
                .setParameter("name", name)
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.missing("directory \"" + name + "\"; see entente directory list"));
    }

    List<StewardRow> stewards(UUID directory) {
        return database.createQuery("FROM StewardRow WHERE directory = :directory ORDER BY name", StewardRow.class)
                .setParameter("directory", directory)
                .getResultList();
    }

    @Transactional
    DirectoryRow add(AdminApi.NewDirectory wanted, String administrator) {
        if (wanted.name() == null || !wanted.name().matches("[a-z0-9][a-z0-9-]{0,62}")) {
            throw Problem.invalid("A directory's name is made of lower-case letters, digits and dashes, at most 63.");
        }
        if (!KINDS.contains(wanted.kind())) {
            throw Problem.invalid("The kind is active-directory or ldap.");
        }
        if (wanted.servers() == null
                || wanted.servers().isEmpty()
                || wanted.servers().size() > 8
                || !wanted.servers().stream().allMatch(s -> s.matches("ldaps://[^/\\s]+(:\\d+)?/?"))) {
            throw Problem.invalid("Servers are one to eight addresses of the form ldaps://host:port.");
        }
        if (wanted.operatorKey() == null
                || wanted.correlation() == null
                || wanted.correlation().isBlank()) {
            throw Problem.invalid("A directory has an operator key and a correlation attribute.");
        }
        distinguishedName("base", wanted.base());
        distinguishedName("service account", wanted.serviceAccount());
        certificate(wanted.caCertificate());
        if (rows().stream().anyMatch(row -> row.name.equals(wanted.name()))) {
            throw Problem.conflict("There is a directory \"" + wanted.name() + "\" already.");
        }
        var row = new DirectoryRow();
        row.id = UUID.randomUUID();
        row.name = wanted.name();
        row.title = wanted.title() == null || wanted.title().isBlank()
                ? wanted.name()
                : wanted.title().strip();
        row.kind = wanted.kind();
        row.servers = List.copyOf(wanted.servers());
        row.caCertificate = wanted.caCertificate();
        row.base = wanted.base();
        row.serviceAccount = wanted.serviceAccount();
        row.correlation = wanted.correlation();
        row.operatorKey = wanted.operatorKey();
        row.createdAt = clock.instant();
        database.persist(row);
        events.write(NewEvent.administration("directory.added", administrator).with("directory", row.name));
        return row;
    }

    @Transactional
    AdminApi.JoinCode admit(String name, String steward, String administrator) {
        var directory = named(name);
        if (steward == null || !steward.matches("[a-z0-9][a-z0-9-]{0,62}")) {
            throw Problem.invalid("A steward's name is made of lower-case letters, digits and dashes, at most 63.");
        }
        if (stewards(directory.id).stream().anyMatch(s -> s.name.equals(steward))) {
            throw Problem.conflict("There is a steward \"" + steward + "\" already; choose another name.");
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
        return new AdminApi.JoinCode(
                code, keys.serviceKey().publicKey().thumbprint(), directory.id, expires.toEpochMilli());
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
                    "This join code is unknown, was used, or is too old. Make a new one with entente steward admit.");
        }
        var row = new StewardRow();
        row.id = UUID.randomUUID();
        row.directory = (UUID) rows.get(0)[0];
        row.name = (String) rows.get(0)[1];
        row.identityKey = identityKey;
        row.version = StewardPresence.bounded(version);
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

    record Joining(StewardRow steward, DirectoryRow directory) {}

    @Transactional
    void putRoster(String name, String signed, String administrator) {
        var directory = named(name);
        var roster = Roster.verify(signed, directory.operatorKey, directory.id);
        if (roster.version() != directory.rosterVersion + 1) {
            throw Problem.conflict("The roster in force has version " + directory.rosterVersion + "; sign version "
                    + (directory.rosterVersion + 1) + ".");
        }
        var joined = stewards(directory.id);
        for (var member : roster.stewards()) {
            if (joined.stream().noneMatch(s -> s.id.equals(member.id()) && s.identityKey.equals(member.key()))) {
                throw Problem.invalid("The roster lists a steward that has not joined: " + member.name() + ".");
            }
        }
        directory.roster = signed;
        directory.rosterVersion = roster.version();
        events.write(NewEvent.administration("roster.signed", administrator)
                .with("directory", directory.name)
                .with("version", roster.version())
                .with("stewards", roster.stewards().size()));
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
        return new Served(row.id, row.name, row.title, row.kind, row.operatorKey, row.roster);
    }

    private static void distinguishedName(String what, String value) {
        try {
            if (value != null && !value.isBlank()) {
                GroupGraph.key(value);
                return;
            }
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("The " + what + " is not a distinguished name: " + value + ".");
        }
        throw Problem.invalid("The " + what + " is missing.");
    }

    private static void certificate(String pem) {
        try {
            if (pem == null
                    || CertificateFactory.getInstance("X.509")
                            .generateCertificates(new ByteArrayInputStream(pem.getBytes(StandardCharsets.US_ASCII)))
                            .isEmpty()) {
                throw Problem.invalid("The CA certificate is missing; give it in PEM form.");
            }
        } catch (CertificateException e) {
            throw Problem.invalid("The CA certificate cannot be read; give it in PEM form.");
        }
    }
}
