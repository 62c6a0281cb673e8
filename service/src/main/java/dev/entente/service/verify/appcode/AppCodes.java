package dev.entente.service.verify.appcode;

import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.appcode.AppCode;
import dev.entente.core.verify.appcode.AppCodeMethod;
import dev.entente.core.verify.appcode.AppCodeVerifier;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.verify.Enroller;
import dev.entente.service.verify.EnrolmentTable;
import java.security.SecureRandom;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.annotation.Bean;
import org.springframework.stereotype.Component;

/** The secrets that apps share. */
@Component
class AppCodes implements Enroller, AppCodeVerifier.Store {
    /** Steps that a token's clock may be off in all. */
    private static final long MOST_DRIFT = 20;

    private final Session database;
    private final EnrolmentTable enrolments;
    private final KeyRing keys;
    private final ServiceSettings settings;
    private final SecureRandom random;
    private final InstantSource clock;

    AppCodes(
            Session database,
            EnrolmentTable enrolments,
            KeyRing keys,
            ServiceSettings settings,
            SecureRandom random,
            InstantSource clock) {
        this.database = database;
        this.enrolments = enrolments;
        this.keys = keys;
        this.settings = settings;
        this.random = random;
        this.clock = clock;
    }

    @Bean
    static Verifier appCode(AppCodes store, InstantSource clock) {
        return new AppCodeVerifier(store, clock);
    }

    @Override
    public Method method() {
        return Method.of(AppCodeMethod.LABEL);
    }

    @Override
    public int most() {
        return AppCode.MOST_OF_ONE_PERSON;
    }

    @Override
    public String usualName() {
        return "Authenticator app";
    }

    /** Its parts are {@code secret}, to type by hand (RFC 4648 section 6), and {@code uri}, which the square image holds. */
    @Override
    public Offered offer(UUID id, UUID person, String login) {
        var secret = AppCode.random(random);
        keep(id, person, secret);
        return new Offered(
                false, Map.of("secret", secret.base32(), "uri", secret.uri(settings.organisation(), login)), List.of());
    }

    @Override
    public void confirm(UUID id, UUID person, Answer answer) {
        var step = secret(id, person).step(answer.typed(), clock.instant(), 0);
        if (step.isEmpty() || !reach(id, step.getAsLong(), step.getAsLong())) {
            throw Problem.of("code-wrong");
        }
    }

    @Override
    public void forget(UUID id) {
        Sql.change(database, "DELETE FROM app_secret WHERE enrolment = :id")
                .setParameter("id", id)
                .executeUpdate();
    }

    @Override
    public List<App> apps(UUID person) {
        return enrolments.of(person, method()).stream()
                .map(id -> new App(id, secret(id, person), drift(id)))
                .toList();
    }

    private AppCode secret(UUID id, UUID person) {
        var secret = Sql.values(database, "SELECT secret FROM app_secret WHERE enrolment = :id", byte[].class)
                .setParameter("id", id)
                .getSingleResult();
        return AppCode.parse(keys.decrypt(context(id, person), secret));
    }

    private long drift(UUID id) {
        return Sql.values(database, "SELECT drift FROM app_secret WHERE enrolment = :id", Long.class)
                .setParameter("id", id)
                .getSingleResult();
    }

    @Override
    public boolean take(UUID enrolment, long first, long last, long drift) {
        var taken = reach(enrolment, first, last);
        if (taken) {
            // A clock goes wrong slowly: one step at a time, and not without end.
            Sql.change(database, "UPDATE app_secret SET drift = :drift WHERE enrolment = :id")
                    .setParameter("drift", Math.max(-MOST_DRIFT, Math.min(MOST_DRIFT, drift)))
                    .setParameter("id", enrolment)
                    .executeUpdate();
            enrolments.used(enrolment);
        }
        return taken;
    }

    /** Whether a token with this serial number is there. */
    boolean known(String serial) {
        return !Sql.values(database, "SELECT 1 FROM app_secret WHERE serial = :serial", Integer.class)
                .setParameter("serial", serial)
                .getResultList()
                .isEmpty();
    }

    /** A token that somebody was given. */
    void bring(UUID id, UUID person, AppCode secret, String serial) {
        keep(id, person, secret);
        Sql.change(database, "UPDATE app_secret SET serial = :serial WHERE enrolment = :id")
                .setParameter("serial", serial)
                .setParameter("id", id)
                .executeUpdate();
    }

    private void keep(UUID id, UUID person, AppCode secret) {
        Sql.change(database, "INSERT INTO app_secret (enrolment, secret) VALUES (:id, :secret)")
                .setParameter("id", id)
                .setParameter("secret", keys.encrypt(context(id, person), secret.kept()))
                .executeUpdate();
    }

    /** From here on the last step and all before it count no more; false if that was so already for the first. */
    private boolean reach(UUID enrolment, long first, long last) {
        return Sql.change(
                                database,
                                "UPDATE app_secret SET last_step = :last WHERE enrolment = :id AND last_step < :first")
                        .setParameter("first", first)
                        .setParameter("last", last)
                        .setParameter("id", enrolment)
                        .executeUpdate()
                == 1;
    }

    private static String context(UUID enrolment, UUID person) {
        return "app secret " + enrolment + " of " + person + " v1";
    }
}
