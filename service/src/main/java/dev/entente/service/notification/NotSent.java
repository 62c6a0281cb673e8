package dev.entente.service.notification;

/** A message that did not get through. */
final class NotSent extends Exception {
    private static final long serialVersionUID = 1;

    /** What is known of its fate. */
    enum Fate {
        /** It was not taken, and may be another time. */
        LATER,
        /** It was refused, and would be again. */
        NEVER,
        /** It may have been taken although nobody said so. */
        UNCERTAIN
    }

    private final Fate fate;

    NotSent(String why, Fate fate) {
        super(why);
        this.fate = fate;
    }

    boolean uncertain() {
        return fate == Fate.UNCERTAIN;
    }

    boolean forGood() {
        return fate == Fate.NEVER;
    }
}
