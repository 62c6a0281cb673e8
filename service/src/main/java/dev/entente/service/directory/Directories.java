package dev.entente.service.directory;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Roster;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.Standing;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** Directories and who serves them. */
@Component
public class Directories {
    // Verified rosters by their text: a text that was right once stays right.
    private static final Map<String, Roster> VERIFIED = new ConcurrentHashMap<>();
    private static final int MOST_VERIFIED = 500;

    private final Session database;
    private final Standing standing;

    Directories(Session database, Standing standing) {
        this.database = database;
        this.standing = standing;
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
    private record AllDirectories(List<Served> served, Map<UUID, Served> byId) {}

    private AllDirectories known() {
        return standing.kept(Standing.Topic.DIRECTORY, "all", AllDirectories.class, () -> {
            // Not as entities: of those the session would give what it read before, perhaps before the stamp.
            var rows = Sql.rows(database, """
                            SELECT id, name, title, kind, cast(operator_key AS text) AS operator_key, roster,
                                suspended_at IS NOT NULL AS suspended, trust, removed_at IS NOT NULL AS removed
                            FROM directory ORDER BY name""", Stored.class).getResultList();
            return new AllDirectories(
                    rows.stream()
                            .filter(row -> !row.removed())
                            .map(Stored::served)
                            .toList(),
                    rows.stream().collect(Collectors.toMap(Stored::id, Stored::served)));
        });
    }

    private record Stored(
            UUID id,
            String name,
            String title,
            String kind,
            String operatorKey,
            String roster,
            boolean suspended,
            int trust,
            boolean removed) {
        Served served() {
            return new Served(
                    id,
                    name,
                    title,
                    kind,
                    JsonMapper.shared().readValue(operatorKey, EcKey.class),
                    roster,
                    suspended,
                    trust);
        }
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
            throw Problem.of("directory-not-found/id");
        }
        return served;
    }

    /** What people call it; as it was last known here, since nothing is decided by it. */
    public String title(UUID id) {
        return lastKnown(id).title();
    }

    /** What administrators call it; as it was last known here, since nothing is decided by it. */
    public String name(UUID id) {
        return lastKnown(id).name();
    }

    private Served lastKnown(UUID id) {
        return standing.lastKnown(Standing.Topic.DIRECTORY, "all", AllDirectories.class)
                .map(known -> known.byId().get(id))
                .orElseGet(() -> get(id));
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

    List<DirectoryRow> rows() {
        return database.createQuery("FROM DirectoryRow WHERE removedAt IS NULL ORDER BY name", DirectoryRow.class)
                .getResultList();
    }

    DirectoryRow named(String name) {
        return database.createQuery("FROM DirectoryRow WHERE name = :name AND removedAt IS NULL", DirectoryRow.class)
                .setParameter("name", name)
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.of("directory-not-found/name").with("name", name));
    }

    /** Those of each of these directories, by name. */
    Map<UUID, List<StewardRow>> stewards(UUID[] of) {
        return database.createQuery("FROM StewardRow WHERE directory IN (:of) ORDER BY name", StewardRow.class)
                .setParameter("of", List.of(of))
                .getResultStream()
                .collect(Collectors.groupingBy(steward -> steward.directory));
    }

    List<StewardRow> stewards(UUID directory) {
        return database.createQuery("FROM StewardRow WHERE directory = :directory ORDER BY name", StewardRow.class)
                .setParameter("directory", directory)
                .getResultList();
    }

    /** A directory goes on; published in the transaction that lets it. */
    public record Resumed(String name, String administrator) {}

    /** A directory goes: whoever keeps what was read from it lets go of that in this transaction. */
    public record Removed(UUID directory) {}

    static Served served(DirectoryRow row) {
        return new Served(
                row.id, row.name, row.title, row.kind, row.operatorKey, row.roster, row.suspendedAt != null, row.trust);
    }
}
