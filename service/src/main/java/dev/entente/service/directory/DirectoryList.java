package dev.entente.service.directory;

import dev.entente.core.notice.Finding;
import dev.entente.core.seal.Roster;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.wire.DirectoryApi;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Directories for administrators, with what needs attention. */
@Component
@Transactional(readOnly = true)
public class DirectoryList {
    private final Directories directories;
    private final Jobs jobs;
    private final Session database;
    private final ServiceSettings settings;
    private final InstantSource clock;
    private final Credentials credentials;

    DirectoryList(
            Directories directories,
            Jobs jobs,
            Session database,
            ServiceSettings settings,
            InstantSource clock,
            Credentials credentials) {
        this.credentials = credentials;
        this.directories = directories;
        this.jobs = jobs;
        this.database = database;
        this.settings = settings;
        this.clock = clock;
    }

    /** All of them by name. */
    public List<DirectoryApi.Directory> all() {
        var rows = directories.rows();
        var known = known(rows);
        return rows.stream().map(row -> shown(row, known)).toList();
    }

    /** All of them by name, with what needs attention; nobody is counted for it. */
    public List<Looked> looked() {
        var rows = directories.rows();
        var known = known(rows);
        return rows.stream()
                .map(row -> new Looked(row.name, row.title, attention(row, known)))
                .toList();
    }

    /** A directory and what needs attention about it. */
    public record Looked(String name, String title, List<Need> needs) {}

    /**
     * Something about a directory that needs attention.
     *
     * @param key tells it from others of the same finding; stays the same while numbers in its text change
     */
    public record Need(Finding what, String key, String text) {}

    DirectoryApi.Directory shown(DirectoryRow row) {
        return shown(row, known(List.of(row)));
    }

    /** What is known of some directories, asked for all of them together. */
    private record Known(
            Map<UUID, List<StewardRow>> stewards,
            Map<UUID, JobRow> preflights,
            Map<UUID, JobRow> syncs,
            Map<UUID, Integer> cases,
            Map<UUID, Integer> undialable,
            List<Carried> carried) {
        List<StewardRow> stewards(DirectoryRow row) {
            return stewards.getOrDefault(row.id, List.of());
        }

        int underWay(UUID directory) {
            return carried.stream()
                    .filter(c -> c.directory().equals(directory))
                    .mapToInt(Carried::underWay)
                    .sum();
        }

        int carriedBy(UUID steward) {
            return carried.stream()
                    .filter(c -> steward.equals(c.steward()))
                    .mapToInt(Carried::underWay)
                    .sum();
        }

        int waiting(UUID directory) {
            return carried.stream()
                    .filter(c -> c.directory().equals(directory))
                    .mapToInt(Carried::waiting)
                    .sum();
        }
    }

    /**
     * Deliveries of a directory that one steward has, or nobody.
     *
     * @param waiting those that wait for longer than they should
     */
    private record Carried(UUID directory, UUID steward, int underWay, int waiting) {}

    private record Counted(UUID directory, int many) {}

    private Known known(List<DirectoryRow> rows) {
        var ids = rows.stream().map(row -> row.id).toArray(UUID[]::new);
        return new Known(
                directories.stewards(ids),
                jobs.latest(ids, "preflight"),
                jobs.latest(ids, "sync"),
                counts(
                        "SELECT directory, count(*) AS many FROM open_case WHERE directory = ANY(:ids) GROUP BY directory",
                        ids),
                counts("""
                        SELECT directory, count(*) AS many FROM present_account WHERE directory = ANY(:ids) AND phone_undialable
                        AND EXISTS (SELECT FROM phone_set_up) GROUP BY directory""", ids),
                Sql.rows(database, """
                                SELECT directory, steward, count(*) AS under_way, count(*) FILTER (
                                    WHERE waits AND created_at < entente_now() - interval '15 seconds') AS waiting
                                FROM delivery_progress WHERE directory = ANY(:ids) AND on_its_way GROUP BY directory, steward""", Carried.class).setParameter("ids", ids).getResultList());
    }

    private Map<UUID, Integer> counts(String query, UUID[] ids) {
        return Sql.rows(database, query, Counted.class)
                .setParameter("ids", ids)
                .getResultStream()
                .collect(Collectors.toMap(Counted::directory, Counted::many));
    }

    private List<DirectoryApi.Steward> stewards(DirectoryRow row, Known known) {
        var listed = row.roster == null
                ? List.<UUID>of()
                : Roster.verify(row.roster, row.operatorKey, row.id).stewards().stream()
                        .map(Roster.Member::id)
                        .toList();
        var since = clock.instant().minus(settings.stewardMissedAfter());
        return known.stewards(row).stream()
                .map(s -> new DirectoryApi.Steward(
                        s.id,
                        s.name,
                        state(s, listed),
                        s.identityKey,
                        s.version,
                        s.lastSeen.equals(Instant.EPOCH) ? null : s.lastSeen,
                        s.lastSeen.isAfter(since) && s.retiredAt == null && s.copiedAt == null,
                        s.server,
                        s.certificateEnds,
                        s.latencyMillis,
                        known.carriedBy(s.id)))
                .toList();
    }

    private static DirectoryApi.Job shown(JobRow job) {
        return job == null ? null : job.shown();
    }

    private DirectoryApi.Directory shown(DirectoryRow row, Known known) {
        return new DirectoryApi.Directory(
                row.id,
                row.name,
                row.title,
                row.kind,
                row.servers,
                row.base,
                row.groupBase,
                row.serviceAccount,
                row.correlation,
                row.loginAttributes,
                row.attributes,
                row.protectedGroups,
                row.mailboxes,
                row.trust,
                row.lossShare,
                row.suspendedAt,
                row.operatorKey.thumbprint(),
                row.rosterVersion,
                row.syncedAt,
                row.syncCursor != null,
                count("SELECT count(*) FROM present_account WHERE directory = :directory", row.id),
                count("SELECT count(*) FROM known_group WHERE directory = :directory", row.id),
                stewards(row, known),
                shown(known.preflights().get(row.id)),
                shown(known.syncs().get(row.id)),
                known.underWay(row.id),
                known.cases().getOrDefault(row.id, 0),
                attention(row, known).stream().map(Need::text).toList());
    }

    private static String state(StewardRow steward, List<UUID> listed) {
        if (steward.retiredAt != null) {
            return "retired";
        }
        if (steward.copiedAt != null) {
            return "copied";
        }
        return listed.contains(steward.id) ? steward.replaced ? "replaced" : "listed" : "joined";
    }

    /** What removing it would do. */
    public DirectoryApi.Removal removal(String name, List<String> policies) {
        var row = directories.named(name);
        return new DirectoryApi.Removal(
                row.name,
                count("SELECT count(*) FROM present_account WHERE directory = :directory", row.id),
                count("""
                        SELECT count(DISTINCT a.person) FROM present_account a WHERE a.directory = :directory
                        AND NOT EXISTS (SELECT 1 FROM present_account o WHERE o.person = a.person
                            AND o.directory <> a.directory)""", row.id),
                count("SELECT count(*) FROM delivery_progress WHERE directory = :directory AND on_its_way", row.id),
                directories.stewards(row.id).size(),
                policies);
    }

    private List<Need> attention(DirectoryRow row, Known known) {
        var rows = known.stewards(row);
        var all = stewards(row, known);
        var preflight = shown(known.preflights().get(row.id));
        var sync = shown(known.syncs().get(row.id));
        int cases = known.cases().getOrDefault(row.id, 0);
        int undialable = known.undialable().getOrDefault(row.id, 0);
        var old = known.waiting(row.id);
        var attention = new ArrayList<Need>();
        if (row.suspendedAt != null) {
            attention.add(new Need(
                    Finding.DIRECTORY,
                    "suspended",
                    "It is suspended since " + row.suspendedAt.toString().substring(0, 16)
                            + " UTC: nothing is delivered. Resume it: entente directory resume " + row.name));
        }
        var stewards = all.stream().filter(s -> !s.state().equals("retired")).toList();
        var copied = stewards.stream().filter(s -> s.state().equals("copied")).toList();
        copied.forEach(s -> attention.add(new Need(
                Finding.STEWARD_IN_DOUBT,
                "copied " + s.name(),
                "Two processes use the key of steward " + s.name()
                        + ": one of them holds a copy. It gets no more work; replace it with entente steward admit --directory "
                        + row.name + " " + s.name() + ".")));
        rows.stream()
                .filter(s -> s.retiredAt == null && s.recordDoubt != null)
                .forEach(s -> attention.add(new Need(
                        Finding.STEWARD_IN_DOUBT,
                        "record " + s.name,
                        "Steward " + s.name + " says that the record is not what it was: "
                                + s.recordDoubt
                                + ". Prove it with entente event verify; if a backup was restored on purpose,"
                                + " remove record.seen in the steward's state folder and restart it.")));
        var unsigned = stewards.stream().filter(s -> s.state().equals("joined")).toList();
        if (!unsigned.isEmpty()) {
            attention.add(new Need(
                    Finding.STEWARD_AWAY,
                    "unsigned",
                    "Not on the roster yet: "
                            + unsigned.stream().map(DirectoryApi.Steward::name).collect(Collectors.joining(", "))
                            + ". Sign it in: entente steward sign-roster --directory " + row.name));
        }
        if (stewards.isEmpty()) {
            attention.add(new Need(
                    Finding.STEWARD_AWAY,
                    "none",
                    "No steward has joined yet. Admit one: entente steward admit --directory " + row.name + " NAME"));
        } else if (stewards.size() > unsigned.size()
                && stewards.stream().noneMatch(s -> s.state().equals("listed") && s.connected())) {
            attention.add(new Need(
                    Finding.STEWARD_AWAY,
                    "all",
                    "No steward of " + row.name + " is connected; nothing can be delivered."));
        } else if (stewards.size() > unsigned.size()
                && stewards.stream().noneMatch(s -> s.connected() && credentials.getsOrders(row.id, s.id()))) {
            attention.add(new Need(
                    Finding.STEWARD_AWAY,
                    "all",
                    "No steward of " + row.name
                            + " that gets orders is connected; nothing can be delivered. Those that are"
                            + " connected demand less than others: entente directory preflight " + row.name + "."));
        } else {
            stewards.stream()
                    .filter(s -> s.state().equals("listed") && !s.connected())
                    .forEach(s -> attention.add(new Need(
                            Finding.STEWARD_AWAY,
                            s.name(),
                            "Steward " + s.name() + " is not connected; the others carry its work.")));
        }
        var soon = clock.instant().plus(Duration.ofDays(30));
        stewards.stream()
                .filter(s -> s.connected()
                        && s.certificateEnds() != null
                        && s.certificateEnds().isBefore(soon))
                .findFirst()
                .ifPresent(s -> attention.add(new Need(
                        Finding.DIRECTORY,
                        "certificate",
                        "The certificate of " + s.server() + " ends in "
                                + Math.max(
                                        0,
                                        Duration.between(clock.instant(), s.certificateEnds())
                                                .toDays()) + " days.")));
        preflightAttention(preflight, attention);
        if (sync != null && sync.state().equals("held")) {
            attention.add(new Need(Finding.DIRECTORY, "held", sync.message()));
        } else if (sync != null && sync.state().equals("failed")) {
            attention.add(new Need(Finding.DIRECTORY, "sync", "The last sync failed: " + sync.message()));
        }
        if (row.syncedAt == null
                && (sync == null || sync.endedAt() != null && !sync.state().equals("failed"))) {
            attention.add(new Need(
                    Finding.DIRECTORY, "unread", "People have not been read yet: entente directory sync " + row.name));
        }
        if (cases > 0) {
            attention.add(new Need(
                    Finding.DIRECTORY,
                    "owners",
                    "It's unclear who owns " + cases + (cases == 1 ? " account" : " accounts")
                            + ". Settle it: entente person cases"));
        }
        if (undialable > 0) {
            attention.add(new Need(
                    Finding.DIRECTORY,
                    "numbers",
                    undialable
                            + (undialable == 1
                                    ? " telephone number can't be dialled."
                                    : " telephone numbers can't be dialled.")
                            + " Write them with a country code, such as +47, or set ENTENTE_COUNTRY."));
        }
        if (old > 0) {
            attention.add(new Need(
                    Finding.DELIVERIES_FAIL,
                    "backlog",
                    "The backlog grows: " + old + (old == 1 ? " delivery waits" : " deliveries wait")
                            + " for longer than 15 seconds."));
        }
        return attention;
    }

    private static void preflightAttention(DirectoryApi.Job preflight, List<Need> attention) {
        if (preflight == null) {
            attention.add(new Need(Finding.DIRECTORY, "preflight", "Preflight was never run."));
        } else if (preflight.state().equals("failed")) {
            attention.add(new Need(Finding.DIRECTORY, "preflight", preflight.message()));
        } else if (preflight.endedAt() != null) {
            preflight.findings().stream()
                    .filter(f -> f.severity().equals("error"))
                    .forEach(f -> attention.add(new Need(Finding.DIRECTORY, "preflight " + f.code(), f.cause())));
        }
    }

    private int count(String query, UUID directory) {
        return ((Number) Sql.values(database, query, Long.class)
                        .setParameter("directory", directory)
                        .getSingleResult())
                .intValue();
    }
}
