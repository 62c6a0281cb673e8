package dev.entente.core.verify.knowndevice;

import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import java.util.Optional;
import java.util.UUID;

/** Judges the browser itself: the answer is empty, and what counts is by what the browser is known. */
public final class KnownDeviceVerifier implements Verifier {
    /** By 256 random bits in a cookie: nobody guesses them. */
    private static final GuessingSpace SPACE = new GuessingSpace(Math.pow(2, 128), 1);

    /** Where devices are kept. */
    public interface Store {
        /** Whether it is one of the person's. */
        boolean known(UUID person, byte[] browser);

        /** It was used. */
        void used(UUID person, byte[] browser);
    }

    private final Store store;

    public KnownDeviceVerifier(Store store) {
        this.store = store;
    }

    @Override
    public Method method() {
        return Method.of(KnownDeviceMethod.LABEL);
    }

    @Override
    public boolean worksHere(UUID person, byte[] browser) {
        return browser != null && store.known(person, browser);
    }

    @Override
    public Judgement judge(Asked asked, Optional<UUID> person, Answer answer) {
        var right = person.isPresent() && worksHere(person.get(), asked.browser());
        if (right) {
            store.used(person.get(), asked.browser());
        }
        return Judgement.of(right);
    }

    @Override
    public String wrong(int triesLeft) {
        return "This device isn't one that you used here before. Choose another method.";
    }

    @Override
    public GuessingSpace space(Asked asked, Answer answer) {
        return SPACE;
    }
}
