package dev.entente.core.verify;

/** What kind of thing a method shows (NIST SP 800-63B section 3.1). */
public enum Factor {
    POSSESSION,
    KNOWLEDGE,
    INHERENCE
}
