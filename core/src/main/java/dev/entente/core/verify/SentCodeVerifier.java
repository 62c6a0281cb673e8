package dev.entente.core.verify;

import dev.entente.core.guess.GuessingSpace;
import java.security.SecureRandom;
import java.util.Optional;
import java.util.UUID;

/** Codes that are sent, by whichever channel: the person types what reached them. */
public final class SentCodeVerifier implements Verifier {
    private final Method method;
    private final byte[] key;
    private final SecureRandom random;

    /** @param key 32 bytes, under which codes are kept */
    public SentCodeVerifier(Method method, byte[] key, SecureRandom random) {
        this.method = method;
        this.key = key.clone();
        this.random = random;
    }

    @Override
    public Method method() {
        return method;
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
