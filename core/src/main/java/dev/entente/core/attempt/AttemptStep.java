package dev.entente.core.attempt;

import java.util.Collection;

/** What can happen to an attempt. */
public enum AttemptStep {
    /** A challenge is asked. */
    ASK,
    /** Everything that the policy requires is proved. */
    PROVE,
    /** Its tries are used up. */
    BLOCK,
    /** Sealed passwords, or an agreement to unlock, were handed in. */
    SEAL,
    /** A directory refused the password in a way that another password can mend. */
    CHOOSE_AGAIN,
    /** Every delivery is done. */
    ALL_DONE,
    /** Some deliveries are done and the rest ended otherwise, or one is unknown. */
    SOME_DONE,
    /** No delivery is done, at least one was refused. */
    NONE_DONE_REFUSED,
    /** No delivery is done, none was refused. */
    NONE_DONE_FAILED,
    /** After an unlock the person goes on to a new password. */
    GO_ON,
    /** After an unlock the person goes on to a new password, for which more has to be proved. */
    PROVE_MORE,
    /** The person is done with what needs no delivery. */
    FINISH,
    /** What failed is tried again without proving again. */
    TRY_AGAIN,
    /** What was told as unknown turned out to be done, and so is all the rest. */
    SETTLE_DONE,
    /** What was told as unknown turned out not to have happened, and nothing else did. */
    SETTLE_FAILED,
    /** The person said that it was not them. */
    STOP,
    /** Its time is up. */
    EXPIRE;

    /** One ended delivery, for {@link #concluding}. */
    public record Ended(Outcome outcome, Cause cause) {}

    /**
     * The step that follows when every delivery of an attempt has ended.
     *
     * @param ended one for each account, the latest of each; not empty
     * @param mayChooseAgain whether the attempt has time and tries left
     */
    public static AttemptStep concluding(Collection<Ended> ended, boolean mayChooseAgain) {
        var done = ended.stream().filter(e -> e.outcome() == Outcome.DONE).count();
        if (done == ended.size()) {
            return ALL_DONE;
        }
        var mendable = ended.stream()
                .filter(e -> e.outcome() != Outcome.DONE)
                .allMatch(e -> e.outcome() == Outcome.REFUSED && e.cause().chooseAgain());
        if (mendable && mayChooseAgain) {
            return CHOOSE_AGAIN;
        }
        if (done > 0 || ended.stream().anyMatch(e -> e.outcome() == Outcome.UNKNOWN)) {
            return SOME_DONE;
        }
        return ended.stream().anyMatch(e -> e.outcome() == Outcome.REFUSED) ? NONE_DONE_REFUSED : NONE_DONE_FAILED;
    }
}
