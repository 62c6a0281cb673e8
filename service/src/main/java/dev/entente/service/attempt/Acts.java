package dev.entente.service.attempt;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Jws;
import dev.entente.service.attempt.Attempts.Attempt;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.AttemptAct;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** What the attempt's key has to sign, since a cookie can be copied and that key cannot. Each signature is taken once. */
@Component
public class Acts {
    private final Session database;

    Acts(Session database) {
        this.database = database;
    }

    /**
     * One call within an attempt.
     *
     * @param signed the header, or null
     * @param path below the portal's API
     * @param body as it came, empty if there was none
     */
    public record Call(String signed, String method, String path, String body) {}

    /** @throws Problem 403 if the attempt's key did not sign this very call, or if it was taken before */
    @Transactional(propagation = Propagation.REQUIRES_NEW)
    public void require(Attempt attempt, Call call) {
        if (!first(attempt, checked(attempt, call))) {
            throw Problem.of("act-not-signed");
        }
    }

    /**
     * For what may be asked again: whether it is the page that began the attempt. A copied cookie reads nothing without it.
     *
     * @throws Problem 403 if the attempt's key did not sign this very call, or if another page's did: the browser holds another
     *     attempt by now
     */
    public void check(Attempt attempt, Call call) {
        checked(attempt, call);
    }

    private static AttemptAct checked(Attempt attempt, Call call) {
        try {
            return verify(attempt, call);
        } catch (InvalidDocument e) {
            throw byAnother(attempt, call.signed()) ? Problem.of("attempt-elsewhere") : Problem.of("act-not-signed");
        }
    }

    private static boolean byAnother(Attempt attempt, String signed) {
        try {
            return !Jws.names(signed, attempt.key());
        } catch (InvalidDocument e) {
            return false;
        }
    }

    private static AttemptAct verify(Attempt attempt, Call call) {
        return AttemptAct.verify(
                call.signed(), attempt.key(), attempt.reference().digits(), call.method(), call.path(), call.body());
    }

    /** Whether the attempt's key signed this very call, for the first time. */
    @Transactional
    public boolean signed(Attempt attempt, Call call) {
        try {
            return first(attempt, verify(attempt, call));
        } catch (InvalidDocument e) {
            return false;
        }
    }

    private boolean first(Attempt attempt, AttemptAct act) {
        return Sql.change(
                                database,
                                "INSERT INTO attempt_act (attempt, jti) VALUES (:attempt, :jti) ON CONFLICT DO NOTHING")
                        .setParameter("attempt", attempt.id())
                        .setParameter("jti", act.jti())
                        .executeUpdate()
                == 1;
    }
}
