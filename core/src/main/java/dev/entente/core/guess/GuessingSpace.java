package dev.entente.core.guess;

/**
 * How hard one answer is to guess.
 *
 * @param answers how many different answers there are
 * @param accepted how many of them would be taken at one moment, over everything that one person has enrolled
 * @param knowable whether others may simply know the answer: then fewer failures in a row are let through
 */
public record GuessingSpace(double answers, double accepted, boolean knowable) {
    /** {@link #cost} counts in these: a whole chance has so many. */
    public static final long UNITS = 1_000_000_000_000_000L;

    /** From 64 bits on nobody needs to count guesses (NIST SP 800-63B-4, sections 3.1.2 and 3.1.3). */
    private static final double NOBODY_GUESSES = Math.pow(2, -64);

    /** One whose answers nobody else knows. */
    public GuessingSpace(double answers, double accepted) {
        this(answers, accepted, false);
    }

    public GuessingSpace {
        if (!(answers >= 1 && accepted > 0 && accepted <= answers)) {
            throw new IllegalArgumentException("a guessing space has answers, and fewer that are taken");
        }
    }

    /** The chance that one guess is right. */
    public double chance() {
        return accepted / answers;
    }

    /** The chance that one guess is right in units of 10⁻¹⁵, rounded up. */
    public long cost() {
        return (long) Math.ceil(chance() * UNITS);
    }

    /** Whether guesses need not be counted. */
    public boolean beyondGuessing() {
        return chance() <= NOBODY_GUESSES;
    }
}
