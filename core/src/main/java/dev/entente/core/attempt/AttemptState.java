package dev.entente.core.attempt;

import java.util.Locale;

/** Where an attempt stands. */
public enum AttemptState {
    IDENTIFIED,
    PROVING,
    PROVED,
    DELIVERING,
    COMPLETED,
    INCOMPLETE,
    REFUSED,
    FAILED,
    EXPIRED,
    BLOCKED;

    /** Whether its end was told; only going on and trying again, soon and by the same browser, can follow. */
    public boolean ended() {
        return switch (this) {
            case IDENTIFIED, PROVING, PROVED, DELIVERING -> false;
            case COMPLETED, INCOMPLETE, REFUSED, FAILED, EXPIRED, BLOCKED -> true;
        };
    }

    /**
     * The state after a step.
     *
     * @throws IllegalStateException if the step is not permitted from here; nothing is changed then
     */
    public AttemptState after(AttemptStep step) {
        return switch (step) {
            case ASK -> only(step, PROVING, IDENTIFIED, PROVING);
            case PROVE -> only(step, PROVED, PROVING);
            case BLOCK -> only(step, BLOCKED, IDENTIFIED, PROVING);
            case SEAL -> only(step, DELIVERING, PROVED);
            case CHOOSE_AGAIN -> only(step, PROVED, DELIVERING);
            case ALL_DONE -> only(step, COMPLETED, DELIVERING);
            case SOME_DONE -> only(step, INCOMPLETE, DELIVERING);
            case NONE_DONE_REFUSED -> only(step, REFUSED, DELIVERING);
            case NONE_DONE_FAILED -> only(step, FAILED, DELIVERING);
            case GO_ON -> only(step, PROVED, COMPLETED);
            case PROVE_MORE -> only(step, PROVING, COMPLETED);
            case FINISH -> only(step, COMPLETED, PROVED);
            case TRY_AGAIN -> only(step, PROVED, INCOMPLETE, REFUSED, FAILED);
            case SETTLE_DONE -> only(step, COMPLETED, INCOMPLETE);
            case SETTLE_FAILED -> only(step, FAILED, INCOMPLETE);
            case STOP -> only(step, BLOCKED, IDENTIFIED, PROVING, PROVED);
            case EXPIRE -> only(step, EXPIRED, IDENTIFIED, PROVING, PROVED);
        };
    }

    /**
     * The state after its time is up.
     *
     * @param told how it had ended when the person went on with it, or null
     */
    public AttemptState left(AttemptState told) {
        var expired = after(AttemptStep.EXPIRE);
        return told == null ? expired : told;
    }

    private AttemptState only(AttemptStep step, AttemptState next, AttemptState... from) {
        for (var permitted : from) {
            if (this == permitted) {
                return next;
            }
        }
        throw new IllegalStateException("an attempt that is " + name().toLowerCase(Locale.ROOT)
                + " does not take the step " + step.name().toLowerCase(Locale.ROOT));
    }
}
