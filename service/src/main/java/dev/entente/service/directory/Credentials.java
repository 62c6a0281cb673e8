package dev.entente.service.directory;

import dev.entente.core.seal.CredentialStatement;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Roster;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.Standing;
import dev.entente.wire.StewardApi;
import java.time.InstantSource;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/**
 * What stewards demand besides a seal and its evidence, and which credentials they recognise. Statements about credentials are signed
 * by the operator or by stewards; they are kept and handed out here, and never written.
 */
@Component
@Transactional(readOnly = true)
public class Credentials {
    private final Session database;
    private final Directories directories;
    private final Standing standing;
    private final EventLog events;
    private final JsonMapper json;
    private final InstantSource clock;

    Credentials(
            Session database,
            Directories directories,
            Standing standing,
            EventLog events,
            JsonMapper json,
            InstantSource clock) {
        this.database = database;
        this.directories = directories;
        this.standing = standing;
        this.events = events;
        this.json = json;
        this.clock = clock;
    }

    /**
     * For whom the stewards of a directory want a proof that they check by themselves, all of them together.
     *
     * @param groups members, nested
     * @param bases entries below these
     * @param proof methods of which all of them take one
     * @param weaker names, by id, of stewards that demand less than all of them together
     * @param whole whether one of them demands it all
     */
    public record Demand(
            Set<String> groups, Set<String> bases, Set<String> proof, Map<UUID, String> weaker, boolean whole) {
        /** Whether anything is demanded of anybody. */
        public boolean any() {
            return !groups.isEmpty() || !bases.isEmpty();
        }
    }

    /** What the stewards on a directory's roster demand, as they last said. A steward that only joined has no say. */
    public Demand demand(UUID directory) {
        var roster = directories.get(directory).stewards();
        return standing.kept(
                Standing.Topic.STEWARD,
                List.of("demand", directory, roster.map(Roster::version).orElse(0)),
                Demand.class,
                () -> read(directory, roster));
    }

    private Demand read(UUID directory, Optional<Roster> roster) {
        var groups = new LinkedHashSet<String>();
        var bases = new LinkedHashSet<String>();
        Set<String> proof = null;
        var listed = Sql.rows(database, """
                        SELECT id, name, cast(demand AS text) AS demand FROM steward
                        WHERE directory = :directory AND retired_at IS NULL ORDER BY name""", Demanding.class)
                .setParameter("directory", directory)
                .getResultStream()
                .filter(steward -> roster.flatMap(r -> r.member(steward.id())).isPresent())
                .toList();
        var each = new LinkedHashMap<Demanding, StewardApi.Demand>();
        for (var steward : listed) {
            var one = steward.demand() == null
                    ? new StewardApi.Demand(List.of(), List.of(), List.of())
                    : json.readValue(steward.demand(), StewardApi.Demand.class);
            each.put(steward, one);
            groups.addAll(one.groups());
            bases.addAll(one.bases());
            if (!one.proof().isEmpty()) {
                if (proof == null) {
                    proof = new LinkedHashSet<>(one.proof());
                } else {
                    proof.retainAll(one.proof());
                }
            }
        }
        var weaker = new LinkedHashMap<UUID, String>();
        each.forEach((steward, one) -> {
            if (!one.groups().containsAll(groups) || !one.bases().containsAll(bases)) {
                weaker.put(steward.id(), steward.name());
            }
        });
        return new Demand(groups, bases, proof == null ? Set.of() : proof, weaker, weaker.size() < each.size());
    }

    private record Demanding(UUID id, String name, String demand) {}

    /**
     * Whether a steward gets orders: it is on the roster, and demands no less than another one there. Where each demands less than all
     * together, all of them do.
     */
    public boolean getsOrders(UUID directory, UUID steward) {
        var demand = demand(directory);
        return directories.lists(directory, steward)
                && !(demand.whole() && demand.weaker().containsKey(steward));
    }

    /** Signed statements about an account, those of what was removed first. */
    public List<String> statements(UUID directory, UUID account) {
        return Sql.values(
                        database,
                        "SELECT statement FROM credential_statement WHERE directory = :directory AND account = :account"
                                + " ORDER BY removed DESC, at LIMIT 40",
                        String.class)
                .setParameter("directory", directory)
                .setParameter("account", account)
                .getResultList();
    }

    /** Whether the stewards of a directory recognise an account by a credential. */
    public boolean knows(UUID directory, UUID account, String thumbprint) {
        return Sql.values(database, """
                        SELECT count(*) = 1 AND NOT bool_or(removed) FROM credential_statement
                        WHERE directory = :directory AND account = :account AND credential = :credential""", Boolean.class)
                .setParameter("directory", directory)
                .setParameter("account", account)
                .setParameter("credential", thumbprint)
                .getSingleResult();
    }

    private record Known(UUID account, String credential) {}

    /** Accounts of a directory, with the thumbprints of the credentials of these methods by which its stewards recognise somebody. */
    public Map<UUID, Set<String>> recognised(UUID directory, Collection<String> methods) {
        return Sql.rows(database, """
                        SELECT account, credential FROM credential_statement
                        WHERE directory = :directory AND method = ANY (:methods)
                        GROUP BY account, credential HAVING NOT bool_or(removed)""", Known.class)
                .setParameter("directory", directory)
                .setParameter("methods", methods.toArray(String[]::new))
                .getResultStream()
                .collect(Collectors.groupingBy(
                        Known::account, Collectors.mapping(Known::credential, Collectors.toSet())));
    }

    /** Takes a statement that the operator signed. */
    @Transactional(noRollbackFor = Problem.class)
    public void put(String name, String signed, String administrator) {
        var directory = directories.named(name);
        CredentialStatement statement;
        try {
            statement = CredentialStatement.verify(signed, List.of(directory.operatorKey), directory.id);
        } catch (InvalidDocument e) {
            events.write(NewEvent.administration("credential.refused", administrator)
                    .with("directory", directory.name)
                    .with("why", e.getMessage()));
            throw Problem.of("credential-refused").with("why", e.getMessage());
        }
        keep(statement, signed);
        events.write(NewEvent.administration(
                        statement.removed() ? "credential.withdrawn" : "credential.stated", administrator)
                .with("directory", directory.name)
                .with("account", statement.account().toString())
                .with("method", statement.credential().method())
                .with("credential", statement.credential().thumbprint()));
    }

    /** Takes what a steward recognises from now on; what it did not sign itself is left out. */
    @Transactional
    public void told(UUID directory, Roster.Member steward, Collection<String> statements) {
        for (var signed : statements) {
            try {
                var statement = CredentialStatement.verify(signed, List.of(steward.key()), directory);
                if (keep(statement, signed)) {
                    events.write(
                            NewEvent.operation(statement.removed() ? "credential.forgotten" : "credential.recognised")
                                    .with("directory", directories.name(directory))
                                    .with("steward", steward.name())
                                    .with("account", statement.account().toString())
                                    .with("method", statement.credential().method())
                                    .with("credential", statement.credential().thumbprint()));
                }
            } catch (InvalidDocument e) {
                events.write(NewEvent.operation("credential.refused")
                        .with("directory", directories.name(directory))
                        .with("steward", steward.name())
                        .with("why", e.getMessage()));
            }
        }
    }

    /** False if it was known already. */
    private boolean keep(CredentialStatement statement, String signed) {
        return Sql.change(database, """
                        INSERT INTO credential_statement (directory, account, credential, method, removed, statement, at)
                        VALUES (:directory, :account, :credential, :method, :removed, :statement, :at)
                        ON CONFLICT (directory, account, credential, removed) DO NOTHING""")
                        .setParameter("directory", statement.directory())
                        .setParameter("account", statement.account())
                        .setParameter("credential", statement.credential().thumbprint())
                        .setParameter("method", statement.credential().method())
                        .setParameter("removed", statement.removed())
                        .setParameter("statement", signed)
                        .setParameter("at", clock.instant())
                        .executeUpdate()
                == 1;
    }
}
