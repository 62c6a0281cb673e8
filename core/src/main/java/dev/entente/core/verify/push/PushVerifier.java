package dev.entente.core.verify.push;

import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import java.nio.charset.StandardCharsets;
import java.security.SecureRandom;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;

/**
 * Shows a number of two digits, the same way for every name, and waits until a device of the person's has approved it. The
 * browser's answer is empty: it only asks whether there is one.
 */
public final class PushVerifier implements Verifier {
    /** A signature by a key of 128 bits of strength: nobody guesses it. */
    private static final GuessingSpace SPACE = new GuessingSpace(Math.pow(2, 128), 1);

    /** Where requests are kept. */
    public interface Store {
        /** Asks every device of the person. */
        void ask(Ring ring, String number);

        /** Whether a device approved it, and nobody has used that yet. */
        boolean approved(UUID challenge);

        /** Uses an approval by a device of this person up; false if there is none. */
        boolean take(UUID challenge, UUID person);
    }

    private final Store store;
    private final SecureRandom random;

    public PushVerifier(Store store, SecureRandom random) {
        this.store = store;
        this.random = random;
    }

    @Override
    public Method method() {
        return Method.of(PushMethod.LABEL);
    }

    /** Its only part is {@code number}, from 10 to 99. */
    @Override
    public Shown show(UUID challenge, String key) {
        var number = String.valueOf(10 + random.nextInt(90));
        return new Shown(number.getBytes(StandardCharsets.US_ASCII), Map.of("number", number));
    }

    @Override
    public boolean rings() {
        return true;
    }

    @Override
    public void ring(Ring ring) {
        store.ask(ring, new String(ring.kept(), StandardCharsets.US_ASCII));
    }

    @Override
    public boolean waits(Asked asked) {
        return !store.approved(asked.challenge());
    }

    @Override
    public Judgement judge(Asked asked, Optional<UUID> person, Answer answer) {
        return Judgement.of(person.isPresent() && store.take(asked.challenge(), person.get()));
    }

    @Override
    public GuessingSpace space(Asked asked, Answer answer) {
        return SPACE;
    }
}
