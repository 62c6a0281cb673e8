package dev.entente.core.verify;

import dev.entente.core.guess.Familiarity;
import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.seal.Proof;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;

/** How one method asks and judges. Every method has one; whatever asks for proofs knows this interface alone. */
public interface Verifier {
    /** Which method. */
    Method method();

    /**
     * What a browser is shown as soon as it has asked. Before the first proof it knows nothing of the person, and so is the same
     * for every name; what has to be remembered for judging is kept with the challenge.
     *
     * @param page that began the attempt
     * @param proven the person, once something was proved; empty before
     */
    default Shown show(UUID challenge, Page page, Optional<UUID> proven) {
        return Shown.NOTHING;
    }

    /**
     * Whether it is worth being offered to a person there, once something was proved.
     *
     * @param browser keyed hash of what the browser is known by; null if it tells nothing
     */
    default boolean worksHere(UUID person, byte[] browser) {
        return true;
    }

    /**
     * Makes what is sent to the person, behind the answer to the browser.
     *
     * @param beyondGuessing whether the code has to be one that nobody guesses
     * @return the code, and what is kept of it; only methods that send something are asked
     */
    default Sent send(UUID challenge, boolean beyondGuessing) {
        throw new IllegalStateException(method() + " sends nothing");
    }

    /** Whether somebody or something else is asked, behind the answer to the browser; the answer then comes from there. */
    default boolean rings() {
        return false;
    }

    /**
     * Whether the person is disturbed by being asked. Each time then takes one of the codes that a person is sent in an hour, so
     * that nobody is worn out.
     */
    default boolean disturbs() {
        return method().sent();
    }

    /**
     * Asks elsewhere, in the caller's transaction; only methods that ring are asked.
     *
     * @return the token of a link that has to reach the person by the method's channel; empty where none has to
     */
    default Optional<String> ring(Ring ring) {
        throw new IllegalStateException(method() + " asks nobody");
    }

    /**
     * Whether an answer is still on its way from elsewhere. Says so as well when it was refused there, and for nobody: a browser
     * is told of what was agreed to alone.
     */
    default boolean waits(Asked asked) {
        return false;
    }

    /**
     * Judges an answer. What can be used once is used up when this says {@link Judgement#RIGHT}, in the caller's transaction.
     *
     * @param person who is to be recognised; empty for nobody, and then the answer is wrong after the same work
     */
    Judgement judge(Asked asked, Optional<UUID> person, Answer answer);

    /**
     * What an answer that was right shows to whoever judges it again, such as a steward that knows the credential; empty where
     * nothing was signed by a credential of the person's own.
     */
    default Optional<Proof> proof(Asked asked, Answer answer) {
        return Optional.empty();
    }

    /** Tells in a sentence that an answer was wrong. */
    default String wrong(int triesLeft) {
        return triesLeft == 0
                ? "This code wasn't right, and it can't be tried again. Ask for a new one."
                : "This code wasn't right. Check it and type all of it.";
    }

    /** How hard an answer to this challenge is to guess. */
    GuessingSpace space(Asked asked, Answer answer);

    /** What came of an answer. */
    enum Judgement {
        RIGHT,
        WRONG;

        public static Judgement of(boolean right) {
            return right ? RIGHT : WRONG;
        }
    }

    /**
     * What a challenge begins with.
     *
     * @param kept to be stored with the challenge, or null
     * @param parts what the browser needs, by name, as the method describes them
     */
    record Shown(byte[] kept, Map<String, String> parts) {
        public static final Shown NOTHING = new Shown(null, Map.of());
    }

    /**
     * A code on its way.
     *
     * @param kept to be stored with the challenge
     */
    record Sent(byte[] kept, OneTimeCode code) {}

    /**
     * What is asked elsewhere.
     *
     * @param kept what {@link #show} gave to keep
     * @param policy the name of the one that decides
     * @param revision the published state that it is in
     * @param key thumbprint of the attempt's key (RFC 7638)
     * @param action what it is for, as policies name it
     * @param network from where it was asked
     */
    record Ring(
            UUID challenge,
            UUID attempt,
            UUID person,
            byte[] kept,
            String key,
            String action,
            String network,
            String policy,
            int revision,
            Instant expires) {}

    /**
     * A challenge that is answered.
     *
     * @param page that began the attempt, which a signed answer is bound to
     * @param kept what {@link #show} or {@link #send} gave to keep, or null
     * @param beyondGuessing whether its code is one that nobody guesses
     * @param from how well the person is known where the answer comes from
     * @param browser keyed hash of what the browser is known by; null if it tells nothing
     */
    record Asked(UUID challenge, Page page, byte[] kept, boolean beyondGuessing, Familiarity from, byte[] browser) {
        public Asked(UUID challenge, Page page, byte[] kept, boolean beyondGuessing, Familiarity from) {
            this(challenge, page, kept, beyondGuessing, from, null);
        }

        /** One that is only asked how hard it would be to guess. */
        public static Asked imagined(Familiarity from) {
            return new Asked(new UUID(0, 0), Page.NONE, null, false, from);
        }
    }
}
