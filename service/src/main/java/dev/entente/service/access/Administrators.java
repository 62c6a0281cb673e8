package dev.entente.service.access;

import dev.entente.core.seal.EcKey;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.Problem;
import dev.entente.wire.AdminApi;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.Semaphore;
import org.hibernate.Session;
import org.springframework.http.HttpStatus;
import org.springframework.security.crypto.argon2.Argon2PasswordEncoder;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/** Administrators and their tokens. Passwords are kept as Argon2id, tokens as SHA-256 of 32 random bytes. */
@Component
class Administrators {
    static final Duration TOKEN_LIFE = Duration.ofHours(12);
    private static final int SHORTEST_PASSWORD = 12;
    private static final int LONGEST_PASSWORD = 200;
    private static final Duration TRIES_WINDOW = Duration.ofMinutes(10);

    private final Session database;
    private final EventLog events;
    private final Limits limits;
    private final KeyRing keys;
    private final InstantSource clock;
    private final TransactionTemplate transaction;
    private final Argon2PasswordEncoder argon2 = Argon2PasswordEncoder.defaultsForSpringSecurity_v5_8();
    private final String nobody = argon2.encode("nobody has this password");
    // Each computation takes memory and a core for a while: a flood of sign-ins waits here instead of starving the
    // rest.
    private final Semaphore computing = new Semaphore(2);

    Administrators(
            Session database,
            EventLog events,
            Limits limits,
            KeyRing keys,
            InstantSource clock,
            TransactionTemplate transaction) {
        this.database = database;
        this.events = events;
        this.limits = limits;
        this.keys = keys;
        this.clock = clock;
        this.transaction = transaction;
    }

    @Transactional(readOnly = true)
    boolean none() {
        return database.createQuery("SELECT count(*) FROM AdministratorRow", Long.class)
                        .getSingleResult()
                == 0;
    }

    /** Makes the first one; refused as soon as there is one. */
    @Transactional
    public AdminApi.Administrator first(AdminApi.FirstAdministrator wanted) {
        database.createNativeMutationQuery("LOCK TABLE administrator IN EXCLUSIVE MODE")
                .executeUpdate();
        if (!none()) {
            throw Problem.conflict("There is an administrator already; sign in instead.");
        }
        var made = make(new AdminApi.NewAdministrator(wanted.login(), wanted.name(), wanted.password()));
        events.write(NewEvent.administration("administrator.added", made.login()));
        return made;
    }

    /** Makes another one. */
    @Transactional
    public AdminApi.Administrator add(AdminApi.NewAdministrator wanted, String by) {
        if (wanted.login() != null && find(wanted.login()).isPresent()) {
            throw Problem.conflict("There is an administrator " + wanted.login() + " already.");
        }
        var made = make(wanted);
        events.write(NewEvent.administration("administrator.made", by).with("login", made.login()));
        return made;
    }

    /** Everybody who administers. */
    @Transactional(readOnly = true)
    public List<AdminApi.Administrator> all() {
        return database.createQuery("FROM AdministratorRow ORDER BY login", AdministratorRow.class)
                .getResultStream()
                .map(r -> new AdminApi.Administrator(r.login, r.name))
                .toList();
    }

    private AdminApi.Administrator make(AdminApi.NewAdministrator wanted) {
        if (wanted.login() == null || !wanted.login().matches("[a-z0-9][a-z0-9._-]{1,62}")) {
            throw Problem.invalid(
                    "The sign-in name is made of lower-case letters, digits, dots and dashes, 2 to 63 of them.");
        }
        if (wanted.password() == null
                || wanted.password().length() < SHORTEST_PASSWORD
                || wanted.password().length() > LONGEST_PASSWORD) {
            throw Problem.invalid("The password has " + SHORTEST_PASSWORD + " to " + LONGEST_PASSWORD + " characters.");
        }
        var row = new AdministratorRow();
        row.id = UUID.randomUUID();
        row.login = wanted.login();
        row.name = wanted.name() == null || wanted.name().isBlank()
                ? wanted.login()
                : wanted.name().strip();
        row.passwordHash = argon2.encode(wanted.password());
        row.createdAt = clock.instant();
        database.persist(row);
        return new AdminApi.Administrator(row.login, row.name);
    }

    /**
     * Checks name and password; takes the same time for a name that does not exist.
     *
     * @param network where the request came from
     */
    AdminApi.Administrator signIn(AdminApi.SignIn signIn, String network) {
        if (signIn.login() == null
                || signIn.password() == null
                || signIn.password().length() > LONGEST_PASSWORD) {
            throw wrong();
        }
        var login = signIn.login().strip().toLowerCase(Locale.ROOT);
        // Somebody elsewhere who guesses keeps nobody out of their own network until it looks like many machines at
        // work.
        var from = login + "\n" + network;
        if (!limits.use("sign-in", from, 10, TRIES_WINDOW)
                || !limits.use("sign-in network", network, 60, TRIES_WINDOW)
                || !limits.use("sign-in name", login, 200, TRIES_WINDOW)) {
            throw Problem.of(
                    HttpStatus.TOO_MANY_REQUESTS,
                    "too-many-tries",
                    "Too many tries. Wait ten minutes, then try again.",
                    Map.of("retryAfter", 600));
        }
        var row = transaction.execute(status -> find(login));
        var right = compare(signIn.password(), row.map(r -> r.passwordHash).orElse(nobody));
        if (!right || row.isEmpty()) {
            transaction.executeWithoutResult(
                    status -> events.write(NewEvent.operation("administrator.sign-in-failed")));
            throw wrong();
        }
        limits.giveBack("sign-in", from, TRIES_WINDOW);
        limits.giveBack("sign-in network", network, TRIES_WINDOW);
        limits.giveBack("sign-in name", login, TRIES_WINDOW);
        transaction.executeWithoutResult(
                status -> events.write(NewEvent.administration("administrator.signed-in", login)));
        return new AdminApi.Administrator(row.get().login, row.get().name);
    }

    private boolean compare(String password, String hash) {
        try {
            computing.acquire();
            try {
                return argon2.matches(password, hash);
            } finally {
                computing.release();
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return false;
        }
    }

    /** Makes a token for the command line. */
    @Transactional
    public AdminApi.Token token(AdminApi.Administrator administrator) {
        var token = "ent_" + Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(32));
        var expires = clock.instant().plus(TOKEN_LIFE);
        database.createNativeMutationQuery("""
                        INSERT INTO api_token (token_hash, administrator, label, expires_at)
                        SELECT :hash, id, 'command line', :expires FROM administrator WHERE login = :login""")
                .setParameter("hash", hash(token))
                .setParameter("expires", expires)
                .setParameter("login", administrator.login())
                .executeUpdate();
        database.createNativeMutationQuery("DELETE FROM api_token WHERE expires_at < now()")
                .executeUpdate();
        events.write(NewEvent.administration("token.made", administrator.login()));
        return new AdminApi.Token(token, expires.toEpochMilli());
    }

    /** Whose token this is, if it is in force. */
    @Transactional(readOnly = true)
    public Optional<AdminApi.Administrator> bearer(String token) {
        List<Object[]> rows = database.createNativeQuery("""
                        SELECT a.login, a.name FROM api_token t JOIN administrator a ON a.id = t.administrator
                        WHERE t.token_hash = :hash AND t.expires_at > :now""", Object[].class)
                .setParameter("hash", hash(token))
                .setParameter("now", Instant.ofEpochMilli(clock.millis()))
                .getResultList();
        return rows.stream()
                .map(r -> new AdminApi.Administrator((String) r[0], (String) r[1]))
                .findFirst();
    }

    private Optional<AdministratorRow> find(String login) {
        return database.createQuery("FROM AdministratorRow WHERE login = :login", AdministratorRow.class)
                .setParameter("login", login)
                .getResultStream()
                .findFirst();
    }

    private static Problem wrong() {
        return Problem.of(HttpStatus.UNAUTHORIZED, "sign-in", "Name or password is wrong. Check both and try again.");
    }

    static byte[] hash(String token) {
        return EcKey.digest(token).getBytes(StandardCharsets.US_ASCII);
    }

    static boolean same(String a, String b) {
        return MessageDigest.isEqual(a.getBytes(StandardCharsets.UTF_8), b.getBytes(StandardCharsets.UTF_8));
    }
}
