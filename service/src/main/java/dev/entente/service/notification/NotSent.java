package dev.entente.service.notification;

/** A message that did not get through. */
final class NotSent extends Exception {
    private static final long serialVersionUID = 1;

    private final boolean uncertain;

    /** @param uncertain whether it may have been taken although nobody said so */
    NotSent(String why, boolean uncertain) {
        super(why);
        this.uncertain = uncertain;
    }

    boolean uncertain() {
        return uncertain;
    }
}
