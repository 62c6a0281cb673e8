package dev.entente.service.access;

import dev.entente.core.guess.Charge;
import dev.entente.service.access.Sessions.Kind;
import dev.entente.service.access.Sessions.Made;
import dev.entente.service.access.Sessions.SignedIn;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.ClientNetwork;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.AccessApi;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Signing in. Takes the same time and says the same for a name that does not exist. What strangers use up is theirs: from a
 * browser, a command line or a network where an administrator signed in before they get in all the same.
 */
@Component
class SignIns {
    private static final Duration TEN_MINUTES = Duration.ofMinutes(10);
    private static final Duration DAY = Duration.ofDays(1);
    private static final int FROM_KNOWN_BROWSER = 10;
    private static final int FROM_KNOWN_NETWORK = 20;
    private static final int FROM_UNKNOWN_NETWORK = 5;
    private static final int ALL_NAMES_FROM_NETWORK = 60;
    /** Failures in a row from unknown places; those from known ones come on top (NIST SP 800-63B-4 section 3.2.2). */
    private static final int UNKNOWN_IN_A_ROW = 70;

    private static final String KNOWN_BROWSER = "sign-in-browser";

    private final Session database;
    private final Administrators administrators;
    private final PasswordHashing hashing;
    private final SecondFactors seconds;
    private final Sessions sessions;
    private final EventLog events;
    private final Limits limits;
    private final KeyRing keys;
    private final InstantSource clock;
    private final TransactionTemplate transaction;

    SignIns(
            Session database,
            Administrators administrators,
            PasswordHashing hashing,
            SecondFactors seconds,
            Sessions sessions,
            EventLog events,
            Limits limits,
            KeyRing keys,
            InstantSource clock,
            TransactionTemplate transaction) {
        this.database = database;
        this.administrators = administrators;
        this.hashing = hashing;
        this.seconds = seconds;
        this.sessions = sessions;
        this.events = events;
        this.limits = limits;
        this.keys = keys;
        this.clock = clock;
        this.transaction = transaction;
    }

    /**
     * Where a sign-in comes from.
     *
     * @param device what the browser or the command line is known by, as it keeps it; null for none
     */
    record From(String address, String device, String client) {}

    /** A session, and what it is to be known by from now on. */
    record Entered(AccessApi.Administrator administrator, Made session, String device) {}

    /**
     * A sign-in that may be looked at: its try is taken.
     *
     * @param row null if the name doesn't exist
     * @param known whether it comes from a browser that is known for this name
     */
    record Admitted(
            AccessApi.SignIn signIn,
            From from,
            String network,
            AdministratorRow row,
            List<Charge> charges,
            boolean known) {}

    /**
     * Counts the try before anything is hashed, so that a sign-in over its limit takes no time in the queue.
     *
     * @throws Problem 401 if it can't be right, 429 if it was tried too often
     */
    Admitted admit(AccessApi.SignIn signIn, From from) {
        if (signIn.login() == null
                || signIn.password() == null
                || signIn.password().length() > Administrators.LONGEST_PASSWORD
                || signIn.login().length() > 100) {
            throw wrong();
        }
        var login = signIn.login().strip().toLowerCase(Locale.ROOT);
        var row = transaction.execute(status -> administrators.find(login).orElse(null));
        var network = ClientNetwork.oneNetwork(from.address());
        var charges = charges(login, row == null ? null : row.id, network, from.device());
        if (!limits.charge(charges).taken()) {
            throw Problem.of("too-many-tries").with("retryAfter", 600);
        }
        return new Admitted(
                signIn, from, network, row, charges, charges.get(0).limit().equals(KNOWN_BROWSER));
    }

    /** It wasn't looked at after all. */
    void giveBack(Admitted admitted) {
        limits.giveBack(admitted.charges());
    }

    /** @throws Problem 401 if password or code is wrong or the code is missing */
    Entered signIn(Admitted admitted, Kind kind) {
        var signIn = admitted.signIn();
        var from = admitted.from();
        var row = admitted.row();
        var charges = admitted.charges();
        var right = hashing.matches(signIn.password(), row == null ? null : row.passwordHash);
        if (!right || row.suspendedAt != null) {
            failed(row, from, "password");
            throw wrong();
        }
        if (row.hasSecondFactor()) {
            if (signIn.code() == null || signIn.code().isBlank()) {
                limits.giveBack(charges);
                throw Problem.of("second-factor");
            }
            if (!seconds.take(row.id, signIn.code())) {
                failed(row, from, "second factor");
                throw Problem.of("second-factor/wrong");
            }
        }
        limits.giveBack(charges);
        return transaction.execute(status -> entered(row, kind, admitted.network(), from, charges));
    }

    private Entered entered(AdministratorRow row, Kind kind, String network, From from, List<Charge> charges) {
        var device = from.device() != null && from.device().matches("[A-Za-z0-9_-]{43}")
                ? from.device()
                : Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(32));
        for (var place : List.of(Map.entry("browser", browser(device)), Map.entry("network", network(network)))) {
            Sql.change(database, """
                            INSERT INTO administrator_place (administrator, kind, place, last_at)
                            VALUES (:id, :kind, :place, :now)
                            ON CONFLICT (administrator, kind, place) DO UPDATE SET last_at = excluded.last_at""")
                    .setParameter("id", row.id)
                    .setParameter("kind", place.getKey())
                    .setParameter("place", place.getValue())
                    .setParameter("now", clock.instant())
                    .executeUpdate();
        }
        charges.stream().filter(c -> c.window() == null).forEach(c -> limits.succeeded(Map.of(c, 0L), List.of()));
        events.write(NewEvent.administration("administrator.signed-in", row.login)
                .with("second", row.hasSecondFactor())
                .withPersonal("network", from.address()));
        return new Entered(
                administrators.shown(row), sessions.make(row.id, kind, from.address(), from.client()), device);
    }

    private List<Charge> charges(String login, UUID administrator, String network, String device) {
        var charges = new ArrayList<Charge>();
        if (administrator != null && device != null && known(administrator, "browser", browser(device))) {
            charges.add(new Charge(KNOWN_BROWSER, login + " " + device, TEN_MINUTES, 1, FROM_KNOWN_BROWSER));
            return charges;
        }
        charges.add(new Charge("sign-in-network", network, TEN_MINUTES, 1, ALL_NAMES_FROM_NETWORK));
        if (administrator != null && known(administrator, "network", network(network))) {
            charges.add(new Charge("sign-in-known", login + " " + network, TEN_MINUTES, 1, FROM_KNOWN_NETWORK));
        } else {
            charges.add(new Charge("sign-in-unknown", login + " " + network, DAY, 1, FROM_UNKNOWN_NETWORK));
            charges.add(new Charge("sign-in-row", login, null, 1, UNKNOWN_IN_A_ROW));
        }
        return charges;
    }

    private boolean known(UUID administrator, String kind, byte[] place) {
        return transaction.execute(status -> Sql.values(
                                database,
                                "SELECT count(*) FROM administrator_place WHERE administrator = :id AND kind = :kind"
                                        + " AND place = :place",
                                Long.class)
                        .setParameter("id", administrator)
                        .setParameter("kind", kind)
                        .setParameter("place", place)
                        .getSingleResult()
                > 0);
    }

    private byte[] browser(String device) {
        return keys.blind("device of an administrator", device);
    }

    private byte[] network(String network) {
        return keys.blind("network of an administrator", network);
    }

    /** Whom it concerns is told as far as the name is a known one: people type passwords where names belong. */
    private void failed(AdministratorRow row, From from, String what) {
        transaction.executeWithoutResult(status -> events.write(NewEvent.operation("administrator.sign-in-failed")
                .with("what", what)
                .withPersonal("login", row == null ? null : row.login)
                .withPersonal("network", from.address())));
    }

    /** A second factor is asked for again before something dangerous; the password where there is none. */
    void confirm(SignedIn who, AccessApi.Confirmation confirmation) {
        if (!limits.use("confirm", who.session().toString(), 10, TEN_MINUTES)) {
            throw Problem.of("too-many-tries/known-place").with("retryAfter", 600);
        }
        if (!right(who, confirmation)) {
            throw Problem.of("confirmation-wrong")
                    .with(
                            "says",
                            who.secondFactor()
                                    ? "That code isn't right. Each code works only once, so wait for the next one."
                                    : "Your password isn't right. Type it again.");
        }
        sessions.confirmed(who.session());
    }

    private boolean right(SignedIn who, AccessApi.Confirmation confirmation) {
        if (who.secondFactor()) {
            return confirmation.code() != null && seconds.take(who.administrator(), confirmation.code());
        }
        var hash =
                transaction.execute(status -> database.find(AdministratorRow.class, who.administrator()).passwordHash);
        return confirmation.password() != null
                && confirmation.password().length() <= Administrators.LONGEST_PASSWORD
                && hashing.matches(confirmation.password(), hash);
    }

    /** Whether something dangerous may be done now. */
    boolean fresh(SignedIn who, Instant now) {
        return !who.secondFactor() || who.confirmedAt().isAfter(now.minus(TEN_MINUTES));
    }

    private static Problem wrong() {
        return Problem.of("sign-in");
    }
}
