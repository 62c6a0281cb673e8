package dev.entente.core.verify.recoverycode;

import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import java.util.Optional;
import java.util.UUID;

/** Recovery codes, each good once. */
public final class RecoveryCodeVerifier implements Verifier {
    /** Where recovery codes are kept. */
    public interface Store {
        /** Uses a code up; false if the person has no such code left. */
        boolean take(UUID person, RecoveryCode code);
    }

    private final Store store;

    public RecoveryCodeVerifier(Store store) {
        this.store = store;
    }

    @Override
    public Method method() {
        return Method.of(RecoveryCodeMethod.LABEL);
    }

    @Override
    public Judgement judge(Asked asked, Optional<UUID> person, Answer answer) {
        return Judgement.of(RecoveryCode.parse(answer.typed())
                .flatMap(code -> person.map(p -> store.take(p, code)))
                .orElse(false));
    }

    @Override
    public GuessingSpace space(Asked asked, Answer answer) {
        return RecoveryCode.space(answer.typed());
    }
}
