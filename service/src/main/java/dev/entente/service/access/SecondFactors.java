package dev.entente.service.access;

import dev.entente.core.verify.appcode.AppCode;
import dev.entente.core.verify.recoverycode.RecoveryCode;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.wire.AccessApi;
import jakarta.persistence.LockModeType;
import java.security.SecureRandom;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Second factors of administrators: an authenticator app (RFC 6238), and recovery codes on paper. */
@Component
@Transactional
class SecondFactors {
    private static final String KEY = "recovery codes of administrators";

    private final Session database;
    private final KeyRing keys;
    private final SecureRandom random;
    private final ServiceSettings settings;
    private final EventLog events;
    private final InstantSource clock;

    SecondFactors(
            Session database,
            KeyRing keys,
            SecureRandom random,
            ServiceSettings settings,
            EventLog events,
            InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.random = random;
        this.settings = settings;
        this.events = events;
        this.clock = clock;
    }

    /** Makes a secret; nothing is asked for until a code of it was right. */
    AccessApi.OfferedSecondFactor offer(UUID administrator) {
        var row = locked(administrator);
        if (row.hasSecondFactor()) {
            throw Problem.of("second-factor-exists");
        }
        var secret = AppCode.random(random);
        row.secondSecret = keys.encrypt(context(row), secret.base32());
        row.secondStep = 0;
        return new AccessApi.OfferedSecondFactor(
                secret.base32(), secret.uri(settings.organisation() + " Entente", row.login));
    }

    /** The app shows that it has the secret: from now on it is asked for. Recovery codes are shown this once. */
    List<String> confirm(UUID administrator, String code) {
        var row = locked(administrator);
        if (row.secondSecret == null || row.hasSecondFactor()) {
            throw Problem.of("second-factor-not-begun");
        }
        if (!takeAppCode(row, code)) {
            throw Problem.of("code-wrong");
        }
        row.secondSince = clock.instant();
        Sql.change(database, "DELETE FROM administrator_code WHERE administrator = :id")
                .setParameter("id", row.id)
                .executeUpdate();
        var codes = new ArrayList<String>();
        for (var i = 0; i < RecoveryCode.AT_ONCE; i++) {
            var one = RecoveryCode.random(random);
            codes.add(one.spaced());
            Sql.change(database, "INSERT INTO administrator_code (administrator, code_hash) VALUES (:id, :hash)")
                    .setParameter("id", row.id)
                    .setParameter("hash", one.hash(keys.derived(KEY), row.id))
                    .executeUpdate();
        }
        events.write(NewEvent.administration("administrator.second-factor-set", row.login));
        return codes;
    }

    /** Takes a code of the app or a recovery code, each once; false if it is neither. */
    boolean take(UUID administrator, String typed) {
        var row = locked(administrator);
        return row.hasSecondFactor() && (takeAppCode(row, typed) || takeRecoveryCode(row, typed));
    }

    /** Asks for none any more. */
    void remove(UUID administrator) {
        var row = locked(administrator);
        row.secondSecret = null;
        row.secondSince = null;
        events.write(NewEvent.administration("administrator.second-factor-removed", row.login)
                .withPersonal("login", row.login));
    }

    private boolean takeAppCode(AdministratorRow row, String typed) {
        var step = AppCode.parse(keys.decrypt(context(row), row.secondSecret)).step(typed, clock.instant(), 0);
        if (step.isEmpty() || step.getAsLong() <= row.secondStep) {
            return false;
        }
        row.secondStep = step.getAsLong();
        return true;
    }

    private boolean takeRecoveryCode(AdministratorRow row, String typed) {
        return RecoveryCode.parse(typed)
                .map(code -> Sql.change(database, """
                                UPDATE administrator_code SET used_at = :now
                                WHERE administrator = :id AND code_hash = :hash AND used_at IS NULL""")
                                .setParameter("now", clock.instant())
                                .setParameter("id", row.id)
                                .setParameter("hash", code.hash(keys.derived(KEY), row.id))
                                .executeUpdate()
                        == 1)
                .orElse(false);
    }

    private AdministratorRow locked(UUID administrator) {
        return database.find(AdministratorRow.class, administrator, LockModeType.PESSIMISTIC_WRITE);
    }

    private static String context(AdministratorRow row) {
        return "second factor of administrator " + row.id + " v1";
    }
}
