package dev.entente.service.directory;

import dev.entente.core.scope.GroupGraph;
import dev.entente.core.scope.ReadableAttributes;
import dev.entente.service.approval.Approvals;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.DirectoryApi;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.UUID;
import java.util.regex.Pattern;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** What administrators say about directories: adds them, and changes what was said. */
@Component
class DirectorySettings {
    private static final String KIND = "directory";
    private static final String ADDED = "directory added";
    private static final Map<String, String> ADDRESSES = Map.of(
            "active-directory", "ldaps?://[^/\\s]+",
            "ldap", "ldaps?://[^/\\s]+",
            "scim", "https?://[^\\s]+",
            "local", "");
    /** What scopes may ask about unless the administrator says otherwise. */
    private static final List<String> FOR_SCOPES = List.of(
            "department", "departmentNumber", "title", "employeeType", "company", "physicalDeliveryOfficeName", "l");

    private static final Pattern DOMAIN = Pattern.compile("[\\p{L}\\p{N}][\\p{L}\\p{N}.-]{0,252}");

    private final Session database;
    private final Directories directories;
    private final EventLog events;
    private final Approvals approvals;
    private final JsonMapper json;
    private final InstantSource clock;

    DirectorySettings(
            Session database,
            Directories directories,
            EventLog events,
            Approvals approvals,
            JsonMapper json,
            InstantSource clock) {
        this.database = database;
        this.directories = directories;
        this.events = events;
        this.approvals = approvals;
        this.json = json;
        this.clock = clock;
    }

    /**
     * Adds one, or proposes it: its people may come to sign in here, and its mailboxes to get codes.
     *
     * @return whether it was added
     */
    @Transactional
    boolean add(DirectoryApi.NewDirectory wanted, String administrator) {
        var row = row(wanted);
        return approvals.make(
                ADDED,
                row.name,
                List.of("The directory " + row.name + " (" + row.kind + ") is added: servers " + said(row.servers)
                        + "; base " + row.base + "; account " + row.serviceAccount + "; correlation attribute "
                        + row.correlation + "; log-in attributes " + said(row.loginAttributes) + "; protected groups "
                        + said(row.protectedGroups) + "; trust " + row.trust + "; operator key "
                        + row.operatorKey.thumbprint() + "."),
                wanted,
                administrator);
    }

    /** As it would be added. */
    private DirectoryRow row(DirectoryApi.NewDirectory wanted) {
        if (wanted.name() == null || !wanted.name().matches("[a-z0-9][a-z0-9-]{0,62}")) {
            throw Problem.of("directory-name");
        }
        if (wanted.kind() == null || !ADDRESSES.containsKey(wanted.kind())) {
            throw Problem.of("directory-kind");
        }
        if (wanted.operatorKey() == null) {
            throw Problem.of("operator-key-missing");
        }
        if (directories.rows().stream().anyMatch(row -> row.name.equals(wanted.name()))) {
            throw Problem.of("directory-exists").with("name", wanted.name());
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
        row.mailboxes = domains(wanted.mailboxes());
        // Two that are added side by side must not take the same one.
        Sql.values(database, "SELECT cast(pg_advisory_xact_lock(4712) AS text)", String.class)
                .getSingleResult();
        row.trust = wanted.trust() == null
                ? directories.rows().stream().mapToInt(r -> r.trust).max().orElse(0) + 1
                : wanted.trust();
        valid(row);
        trustAlone(row);
        row.operatorKey = wanted.operatorKey();
        row.createdAt = clock.instant();
        row.changedAt = row.createdAt;
        return row;
    }

    /**
     * Changes what is named, or proposes it where it decides who gets codes.
     *
     * @return whether it was changed
     */
    @Transactional
    boolean change(String name, DirectoryApi.DirectoryChange wanted, String administrator) {
        var row = directories.named(name);
        var after = new DirectoryRow();
        after.id = row.id;
        after.kind = row.kind;
        take(row, after);
        take(wanted, after);
        valid(after);
        trustAlone(after);
        var says = new ArrayList<String>();
        difference(says, name, "protected groups", row.protectedGroups, after.protectedGroups);
        difference(says, name, "domains whose mailboxes open with its passwords", row.mailboxes, after.mailboxes);
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
        row.mailboxes = from.mailboxes;
        row.trust = from.trust;
        row.lossShare = from.lossShare;
    }

    /** What is named; what is left out stays. */
    private static void take(DirectoryApi.DirectoryChange wanted, DirectoryRow row) {
        row.title = otherwise(wanted.title(), row.title).strip();
        row.servers = wanted.servers() == null ? row.servers : listed(wanted.servers());
        row.base = otherwise(wanted.base(), row.base);
        row.groupBase = otherwise(wanted.groupBase(), row.groupBase);
        row.serviceAccount = otherwise(wanted.serviceAccount(), row.serviceAccount);
        row.correlation = otherwise(wanted.correlation(), row.correlation);
        row.loginAttributes = wanted.loginAttributes() == null ? row.loginAttributes : listed(wanted.loginAttributes());
        row.attributes = wanted.attributes() == null ? row.attributes : listed(wanted.attributes());
        row.protectedGroups = wanted.protectedGroups() == null ? row.protectedGroups : listed(wanted.protectedGroups());
        row.mailboxes = wanted.mailboxes() == null ? row.mailboxes : domains(wanted.mailboxes());
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
        directories.rows().stream()
                .filter(other -> !other.id.equals(row.id) && other.trust == row.trust)
                .findFirst()
                .ifPresent(other -> {
                    throw Problem.of("trust-taken").with("name", other.name).with("trust", row.trust);
                });
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void make(Approvals.Approved change) {
        if (change.kind().equals(ADDED)) {
            change.handled().set(true);
            // Looked at anew: another one may have its name or its trust by now.
            var row = row(json.readValue(change.wanted(), DirectoryApi.NewDirectory.class));
            database.persist(row);
            events.write(
                    NewEvent.administration("directory.added", change.author()).with("directory", row.name));
            return;
        }
        if (!change.kind().equals(KIND)) {
            return;
        }
        change.handled().set(true);
        var wanted = json.readValue(change.wanted(), DirectoryApi.DirectoryChange.class);
        var row = directories.named(change.subject());
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

    /** Compared with domains of addresses, which are in lower case. */
    private static List<String> domains(List<String> wanted) {
        return listed(wanted).stream()
                .map(d -> d.toLowerCase(Locale.ROOT))
                .distinct()
                .toList();
    }

    private static void valid(DirectoryRow row) {
        var local = row.kind.equals("local");
        if (local != row.servers.isEmpty()
                || row.servers.size() > 8
                || !row.servers.stream().allMatch(s -> s.matches(ADDRESSES.get(row.kind)))) {
            throw Problem.of("directory-servers")
                    .with(
                            "says",
                            switch (row.kind) {
                                case "local" -> "A local command has no servers.";
                                case "scim" -> "Servers are one to eight addresses of the form https://host/path.";
                                default ->
                                    "Servers are one to eight addresses of the form ldaps://host:port, or ldap://host:port for"
                                            + " StartTLS.";
                            });
        }
        if (row.correlation == null || row.correlation.isBlank()) {
            throw Problem.of("correlation-missing");
        }
        if (row.trust < 1 || row.trust > 100 || row.lossShare < 1 || row.lossShare > 100) {
            throw Problem.of("directory-numbers");
        }
        if (row.mailboxes.size() > 20
                || !row.mailboxes.stream().allMatch(d -> DOMAIN.matcher(d).matches())) {
            throw Problem.of("mail-domains");
        }
        if (row.loginAttributes.size() > 8) {
            throw Problem.of("too-many-attributes");
        }
        if (row.attributes.size() > 30) {
            throw Problem.of("too-many-attributes/scopes");
        }
        var named = new ArrayList<>(row.attributes);
        named.addAll(row.loginAttributes);
        named.add(row.correlation);
        ReadableAttributes.refused(named).ifPresent(why -> {
            throw Problem.of("attribute-refused").with("says", why);
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
            throw Problem.of("not-a-distinguished-name").with("what", what).with("value", value);
        }
        throw Problem.of("distinguished-name-missing").with("what", what);
    }
}
