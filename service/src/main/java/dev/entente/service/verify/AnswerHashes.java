package dev.entente.service.verify;

import dev.entente.core.verify.questions.QuestionSet;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import java.util.HexFormat;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.Semaphore;
import java.util.function.Supplier;
import org.springframework.security.crypto.argon2.Argon2PasswordEncoder;
import org.springframework.stereotype.Component;
import org.springframework.util.function.SingletonSupplier;

/**
 * Answers that people know: kept as Argon2id (RFC 9106) over their HMAC under a key from outside the database. Whoever has the
 * database alone has nothing to try answers on.
 */
@Component
public class AnswerHashes {
    private static final String KEY = "security answers";
    private static final int AT_ONCE = 4;

    private final KeyRing keys;
    private final Argon2PasswordEncoder argon2 = Argon2PasswordEncoder.defaultsForSpringSecurity_v5_8();
    private final Supplier<String> nobody = SingletonSupplier.of(() -> argon2.encode("nobody answered this"));
    /** Each takes memory and a core for a while. */
    private final Semaphore hashing = new Semaphore(AT_ONCE, true);

    AnswerHashes(KeyRing keys) {
        this.keys = keys;
    }

    /** Refuses what somebody chose, if something is wrong with it. */
    public static void refuse(Optional<QuestionSet.Fault> found) {
        found.ifPresent(fault -> {
            throw Problem.named(fault.code() + "/chosen", fault.code())
                    .with("says", fault.words())
                    .with("at", fault.at() + 1);
        });
    }

    private String peppered(UUID enrolment, int place, String plain) {
        return HexFormat.of().formatHex(keys.blind(KEY, enrolment + " " + place + " " + plain));
    }

    /** What is kept of an answer. */
    public String hash(UUID enrolment, int place, String plain) {
        hashing.acquireUninterruptibly();
        try {
            return argon2.encode(peppered(enrolment, place, plain));
        } finally {
            hashing.release();
        }
    }

    /**
     * Whether an answer is the one that was kept; takes the same work where none was.
     *
     * @param hash null for none
     */
    public boolean matches(UUID enrolment, int place, String plain, String hash) {
        hashing.acquireUninterruptibly();
        try {
            // Made at the first question, whoever it is about.
            var other = nobody.get();
            return argon2.matches(peppered(enrolment, place, plain), hash == null ? other : hash) && hash != null;
        } finally {
            hashing.release();
        }
    }
}
