package dev.entente.core.verify;

import dev.entente.core.guess.GuessingSpace;
import java.nio.charset.StandardCharsets;
import java.security.SecureRandom;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;

/**
 * Shows a number, the same way for every name, and waits until it was agreed to elsewhere: on a device of the person's, in their
 * mailbox, by somebody of the staff. The browser's answer is empty: it only asks whether there is one.
 */
public final class AnsweredElsewhere implements Verifier {
    /** Nobody guesses what is agreed to elsewhere: a signature, a link of 192 bits, somebody who was signed in. */
    private static final GuessingSpace SPACE = new GuessingSpace(Math.pow(2, 128), 1);

    /** Where requests are kept. */
    public interface Store {
        /**
         * Asks.
         *
         * @return the token of a link that has to reach the person; empty where none has to
         */
        Optional<String> ask(Ring ring, Method method, String number);

        /** Whether it was agreed to, and nobody has used that yet. */
        boolean approved(UUID challenge);

        /** Uses up that it was agreed to for this person; false if it was not. */
        boolean take(UUID challenge, UUID person);
    }

    private final Method method;
    private final int digits;
    private final boolean disturbs;
    private final Store store;
    private final SecureRandom random;

    /**
     * @param digits of the number, 2 to 8
     * @param disturbs whether the person is disturbed each time
     */
    public AnsweredElsewhere(Method method, int digits, boolean disturbs, Store store, SecureRandom random) {
        if (digits < 2 || digits > 8) {
            throw new IllegalArgumentException("a number to compare has 2 to 8 digits");
        }
        this.method = method;
        this.digits = digits;
        this.disturbs = disturbs;
        this.store = store;
        this.random = random;
    }

    @Override
    public Method method() {
        return method;
    }

    /** Its only part is {@code number}, whose first digit is not 0. */
    @Override
    public Shown show(UUID challenge, Page page, Optional<UUID> proven) {
        var least = (int) Math.pow(10, digits - 1);
        var number = String.valueOf(least + random.nextInt(9 * least));
        return new Shown(number.getBytes(StandardCharsets.US_ASCII), Map.of("number", number));
    }

    @Override
    public boolean rings() {
        return true;
    }

    @Override
    public boolean disturbs() {
        return disturbs;
    }

    @Override
    public Optional<String> ring(Ring ring) {
        return store.ask(ring, method, new String(ring.kept(), StandardCharsets.US_ASCII));
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
