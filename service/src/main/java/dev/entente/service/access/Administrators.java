package dev.entente.service.access;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.AccessApi;
import jakarta.persistence.LockModeType;
import java.time.InstantSource;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Who administers. Passwords are kept as Argon2id. */
@Component
@Transactional
class Administrators {
    static final int LONGEST_PASSWORD = 200;
    private static final int SHORTEST_PASSWORD = 12;
    private static final int MOST_SCOPES = 50;

    private final Session database;
    private final PasswordHashing hashing;
    private final Sessions sessions;
    private final EventLog events;
    private final InstantSource clock;

    Administrators(Session database, PasswordHashing hashing, Sessions sessions, EventLog events, InstantSource clock) {
        this.database = database;
        this.hashing = hashing;
        this.sessions = sessions;
        this.events = events;
        this.clock = clock;
    }

    @Transactional(readOnly = true)
    public boolean none() {
        return count("true") == 0;
    }

    private long count(String which) {
        return database.createQuery("SELECT count(*) FROM AdministratorRow WHERE " + which, Long.class)
                .getSingleResult();
    }

    /** Makes the first one; refused as soon as there is one. */
    public AccessApi.Administrator first(AccessApi.FirstAdministrator wanted) {
        alone();
        if (!none()) {
            throw Problem.of("first-administrator-exists");
        }
        var made = make(new AccessApi.NewAdministrator(wanted.login(), wanted.name(), wanted.password()));
        events.write(NewEvent.administration("administrator.added", made.login()));
        return made;
    }

    /** Makes another one. */
    public AccessApi.Administrator add(AccessApi.NewAdministrator wanted, String by) {
        if (wanted.login() != null && find(wanted.login()).isPresent()) {
            throw Problem.of("administrator-exists").with("login", wanted.login());
        }
        var made = make(wanted);
        events.write(NewEvent.administration("administrator.made", by).withPersonal("login", made.login()));
        return made;
    }

    /** Everybody who administers. */
    @Transactional(readOnly = true)
    public List<AccessApi.Administrator> all() {
        return database.createQuery("FROM AdministratorRow ORDER BY login", AdministratorRow.class)
                .getResultStream()
                .map(this::shown)
                .toList();
    }

    AccessApi.Administrator shown(AdministratorRow row) {
        return new AccessApi.Administrator(
                row.login,
                row.name,
                row.role,
                List.of(row.scopes),
                row.ownLogin,
                row.hasSecondFactor(),
                row.suspendedAt,
                sessions.lastUsed(row.id));
    }

    private AccessApi.Administrator make(AccessApi.NewAdministrator wanted) {
        if (wanted.login() == null || !wanted.login().matches("[a-z0-9][a-z0-9._-]{1,62}")) {
            throw Problem.of("sign-in-name");
        }
        var row = new AdministratorRow();
        row.id = UUID.randomUUID();
        row.login = wanted.login();
        row.name = wanted.name() == null || wanted.name().isBlank()
                ? wanted.login()
                : wanted.name().strip();
        row.role = wanted.role() == null ? AccessApi.ADMINISTRATOR : wanted.role();
        row.scopes = wanted.scopes() == null ? new String[0] : wanted.scopes().toArray(String[]::new);
        row.ownLogin = wanted.ownLogin() == null || wanted.ownLogin().isBlank()
                ? null
                : wanted.ownLogin().strip();
        checkRole(row);
        row.passwordHash = hashing.hash(checked(wanted.password()));
        row.createdAt = clock.instant();
        database.persist(row);
        return shown(row);
    }

    private static void checkRole(AdministratorRow row) {
        var staff = AccessApi.STAFF.equals(row.role);
        if (!staff && !AccessApi.ADMINISTRATOR.equals(row.role)) {
            throw Problem.of("unknown-role");
        }
        if (!staff && row.scopes.length > 0) {
            throw Problem.of("scopes-for-staff");
        }
        if (staff && row.ownLogin == null) {
            throw Problem.of("own-login-missing");
        }
        if (row.scopes.length > MOST_SCOPES || Arrays.stream(row.scopes).anyMatch(s -> s == null || s.length() > 63)) {
            throw Problem.of("unknown-scopes").with("mostScopes", MOST_SCOPES);
        }
    }

    private static String checked(String password) {
        if (password == null || password.length() < SHORTEST_PASSWORD || password.length() > LONGEST_PASSWORD) {
            throw Problem.of("password-length")
                    .with("shortestPassword", SHORTEST_PASSWORD)
                    .with("longestPassword", LONGEST_PASSWORD);
        }
        return password;
    }

    /** Sets one's own password; every other session ends. */
    public void changePassword(UUID id, String before, String password, UUID session) {
        var row = database.find(AdministratorRow.class, id, LockModeType.PESSIMISTIC_WRITE);
        if (before == null || before.length() > LONGEST_PASSWORD || !hashing.matches(before, row.passwordHash)) {
            throw Problem.of("password-wrong");
        }
        row.passwordHash = hashing.hash(checked(password));
        sessions.endAll(id, session);
        events.write(NewEvent.administration("administrator.password-changed", row.login));
    }

    /** Ends everything that somebody may do, at once. */
    public void remove(String login, String by) {
        alone();
        var row = named(login);
        lastOne(row, "removed");
        sessions.endAll(row.id, null);
        database.remove(row);
        events.write(NewEvent.administration("administrator.removed", by).withPersonal("login", login));
    }

    /** Lets somebody do nothing until they are let in again. */
    public AccessApi.Administrator suspend(String login, boolean suspended, String by) {
        alone();
        var row = named(login);
        if (suspended) {
            lastOne(row, "suspended");
            sessions.endAll(row.id, null);
        }
        if (suspended != (row.suspendedAt != null)) {
            row.suspendedAt = suspended ? clock.instant() : null;
            events.write(NewEvent.administration(suspended ? "administrator.suspended" : "administrator.resumed", by)
                    .withPersonal("login", login));
        }
        return shown(row);
    }

    private void lastOne(AdministratorRow row, String what) {
        if (row.suspendedAt == null
                && AccessApi.ADMINISTRATOR.equals(row.role)
                && count("suspendedAt IS NULL AND role = 'administrator'") == 1) {
            throw Problem.of("last-administrator").with("login", row.login).with("what", what);
        }
    }

    /** Somebody's second factor was lost: it's set up anew at the next sign-in. Never one's own. */
    public void removeSecondFactor(String login, String by) {
        var row = named(login);
        if (login.equals(by)) {
            throw Problem.of("own-second-factor");
        }
        row.secondSecret = null;
        row.secondSince = null;
        sessions.endAll(row.id, null);
        events.write(NewEvent.administration("administrator.second-factor-removed", by)
                .withPersonal("login", login));
    }

    private void alone() {
        Sql.change(database, "LOCK TABLE administrator IN SHARE ROW EXCLUSIVE MODE")
                .executeUpdate();
    }

    AdministratorRow named(String login) {
        return find(login)
                .orElseThrow(() -> Problem.of("administrator-not-found").with("login", login));
    }

    Optional<AdministratorRow> find(String login) {
        return database.createQuery("FROM AdministratorRow WHERE login = :login", AdministratorRow.class)
                .setParameter("login", login.toLowerCase(Locale.ROOT))
                .getResultStream()
                .findFirst();
    }
}
