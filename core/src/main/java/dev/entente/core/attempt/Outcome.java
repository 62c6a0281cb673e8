package dev.entente.core.attempt;

/** How a delivery ends. It never ends as done when it is not. */
public enum Outcome {
    /** The directory holds the new password: its version moved and the password binds. */
    DONE,
    /** Someone said no: the directory's rules, a right that is missing, or a steward's guard rail. Nothing was written. */
    REFUSED,
    /** It could not be carried out. Nothing was written. */
    FAILED,
    /** It cannot be told whether it was written. */
    UNKNOWN
}
