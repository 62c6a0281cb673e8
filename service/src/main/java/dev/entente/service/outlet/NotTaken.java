package dev.entente.service.outlet;

/** A receiver did not take everything. The message says why, in our words, and names nobody. */
final class NotTaken extends Exception {
    private final boolean forGood;
    private final int taken;

    private NotTaken(String why, boolean forGood, int taken) {
        super(why);
        this.forGood = forGood;
        this.taken = taken;
    }

    /** It may be taken later. */
    static NotTaken now(String why) {
        return new NotTaken(why, false, 0);
    }

    /** It would not be taken later either. */
    static NotTaken forGood(String why) {
        return new NotTaken(why, true, 0);
    }

    /** After so many events were taken. */
    NotTaken after(int events) {
        return new NotTaken(getMessage(), forGood, events);
    }

    boolean isForGood() {
        return forGood;
    }

    int taken() {
        return taken;
    }
}
