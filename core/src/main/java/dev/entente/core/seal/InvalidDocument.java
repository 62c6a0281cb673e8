package dev.entente.core.seal;

/**
 * A signed or sealed document that is refused. The message is a sentence without any secret and without text taken from
 * the document beyond identifiers.
 */
public final class InvalidDocument extends RuntimeException {
    private final String reason;

    /**
     * @param reason a stable word for programs, such as {@code signature} or {@code expired}
     * @param message what is wrong, for people
     */
    public InvalidDocument(String reason, String message) {
        super(message);
        this.reason = reason;
    }

    /** As above, keeping what led to it. */
    public InvalidDocument(String reason, String message, Throwable cause) {
        super(message, cause);
        this.reason = reason;
    }

    /** The stable word. */
    public String reason() {
        return reason;
    }
}
