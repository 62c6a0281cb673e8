package dev.entente.core.verify;

import dev.entente.core.guess.Familiarity;
import dev.entente.core.guess.GuessingSpace;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;

/** How one method asks and judges. Every method has one; whatever asks for proofs knows this interface alone. */
public interface Verifier {
    /** Which method. */
    Method method();

    /**
     * What a browser is shown as soon as it has asked. Knows nothing of the person, and so is the same for every name; what has to
     * be remembered for judging is kept with the challenge.
     *
     * @param key thumbprint of the attempt's key (RFC 7638)
     */
    default Shown show(UUID challenge, String key) {
        return Shown.NOTHING;
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

    /**
     * Whether devices of the person's own are asked, behind the answer to the browser; the answer then comes from there. Each time
     * takes one of the codes that a person is sent in an hour, so that nobody is worn out by requests.
     */
    default boolean rings() {
        return false;
    }

    /** Asks the person's devices, in the caller's transaction; only methods that ring are asked. */
    default void ring(Ring ring) {
        throw new IllegalStateException(method() + " asks no device");
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
     * What a person's devices are asked.
     *
     * @param kept what {@link #show} gave to keep
     * @param key thumbprint of the attempt's key (RFC 7638)
     * @param action what it is for, as policies name it
     * @param network from where it was asked
     */
    record Ring(UUID challenge, UUID person, byte[] kept, String key, String action, String network, Instant expires) {}

    /**
     * A challenge that is answered.
     *
     * @param key thumbprint of the attempt's key (RFC 7638), which a signed answer is bound to
     * @param kept what {@link #show} or {@link #send} gave to keep, or null
     * @param beyondGuessing whether its code is one that nobody guesses
     * @param from how well the person is known where the answer comes from
     */
    record Asked(UUID challenge, String key, byte[] kept, boolean beyondGuessing, Familiarity from) {
        /** One that is only asked how hard it would be to guess. */
        public static Asked imagined(Familiarity from) {
            return new Asked(new UUID(0, 0), "", null, false, from);
        }
    }
}
