package dev.entente.core.verify.emailcode;

import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.OneTimeCode;
import dev.entente.core.verify.Verifier;
import java.security.SecureRandom;
import java.util.Optional;
import java.util.UUID;

/** Codes sent by e-mail. */
public final class EmailCodeVerifier implements Verifier {
    private final byte[] key;
    private final SecureRandom random;

    /** @param key 32 bytes, under which codes are kept */
    public EmailCodeVerifier(byte[] key, SecureRandom random) {
        this.key = key.clone();
        this.random = random;
    }

    @Override
    public Method method() {
        return Method.of(EmailCodeMethod.LABEL);
    }

    @Override
    public Sent send(UUID challenge, boolean beyondGuessing) {
        var code = beyondGuessing ? OneTimeCode.beyondGuessing(random) : OneTimeCode.random(random);
        return new Sent(code.hash(key, challenge), code);
    }

    @Override
    public Judgement judge(Asked asked, Optional<UUID> person, Answer answer) {
        return Judgement.of(OneTimeCode.parse(answer.typed())
                        .map(code -> asked.kept() != null && code.matches(asked.kept(), key, asked.challenge()))
                        .orElse(false)
                && person.isPresent());
    }

    @Override
    public GuessingSpace space(Asked asked, Answer answer) {
        // A long code may be the one for all of this hour, also where a short one was asked for.
        return asked.beyondGuessing() || OneTimeCode.isLong(answer.typed())
                ? OneTimeCode.LONG_SPACE
                : OneTimeCode.SHORT_SPACE;
    }
}
