package dev.entente.service.verify.recoverycode;

import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.recoverycode.RecoveryCode;
import dev.entente.core.verify.recoverycode.RecoveryCodeMethod;
import dev.entente.core.verify.recoverycode.RecoveryCodeVerifier;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Sql;
import dev.entente.service.verify.Enroller;
import dev.entente.service.verify.EnrolmentTable;
import java.security.SecureRandom;
import java.time.InstantSource;
import java.util.Map;
import java.util.UUID;
import java.util.stream.Stream;
import org.hibernate.Session;
import org.springframework.context.annotation.Bean;
import org.springframework.stereotype.Component;

/** Sets of codes on paper: a new one replaces the one of before. */
@Component
class RecoveryCodes implements Enroller, RecoveryCodeVerifier.Store {
    private static final String KEY = "recovery codes";

    private final Session database;
    private final EnrolmentTable enrolments;
    private final KeyRing keys;
    private final SecureRandom random;
    private final InstantSource clock;

    RecoveryCodes(Session database, EnrolmentTable enrolments, KeyRing keys, SecureRandom random, InstantSource clock) {
        this.database = database;
        this.enrolments = enrolments;
        this.keys = keys;
        this.random = random;
        this.clock = clock;
    }

    @Bean
    static Verifier recoveryCode(RecoveryCodes store) {
        return new RecoveryCodeVerifier(store);
    }

    @Override
    public Method method() {
        return Method.of(RecoveryCodeMethod.LABEL);
    }

    @Override
    public int most() {
        return 1;
    }

    @Override
    public String usualName() {
        return "Recovery codes";
    }

    /** Its lines are the codes, shown this once. */
    @Override
    public Offered offer(UUID id, UUID person, String login) {
        var codes = Stream.generate(() -> RecoveryCode.random(random))
                .limit(RecoveryCode.AT_ONCE)
                .toList();
        for (var code : codes) {
            Sql.change(database, "INSERT INTO recovery_code (enrolment, code_hash) VALUES (:enrolment, :hash)")
                    .setParameter("enrolment", id)
                    .setParameter("hash", code.hash(keys.derived(KEY), id))
                    .executeUpdate();
        }
        return new Offered(
                true, Map.of(), codes.stream().map(RecoveryCode::spaced).toList());
    }

    @Override
    public void confirm(UUID id, UUID person, Answer answer) {
        throw new IllegalStateException("recovery codes count at once");
    }

    @Override
    public void forget(UUID id) {
        Sql.change(database, "DELETE FROM recovery_code WHERE enrolment = :id")
                .setParameter("id", id)
                .executeUpdate();
    }

    @Override
    public Integer left(UUID id) {
        return Sql.values(
                        database,
                        "SELECT count(*) FROM recovery_code WHERE enrolment = :id AND used_at IS NULL",
                        Integer.class)
                .setParameter("id", id)
                .getSingleResult();
    }

    @Override
    public boolean take(UUID person, RecoveryCode code) {
        for (var set : enrolments.of(person, method())) {
            // What is looked for is a keyed hash: how long the index takes tells nothing of any code.
            var taken = Sql.change(database, """
                            UPDATE recovery_code SET used_at = :now
                            WHERE enrolment = :enrolment AND code_hash = :hash AND used_at IS NULL""")
                    .setParameter("now", clock.instant())
                    .setParameter("enrolment", set)
                    .setParameter("hash", code.hash(keys.derived(KEY), set))
                    .executeUpdate();
            if (taken == 1) {
                enrolments.used(set);
                return true;
            }
        }
        return false;
    }
}
