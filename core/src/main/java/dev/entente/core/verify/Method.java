package dev.entente.core.verify;

import java.util.Arrays;
import java.util.Optional;
import java.util.Set;

/** A way to verify a person. Names are as in policy files. */
public enum Method {
    EMAIL_CODE("email-code", Factor.POSSESSION, true),
    EMAIL_LINK("email-link", Factor.POSSESSION, false),
    SMS_CODE("sms-code", Factor.POSSESSION, false),
    VOICE_CODE("voice-code", Factor.POSSESSION, false),
    APP_CODE("app-code", Factor.POSSESSION, true),
    PUSH("push", Factor.POSSESSION, false),
    PASSKEY("passkey", Factor.POSSESSION, false),
    QUESTIONS("questions", Factor.KNOWLEDGE, false),
    RECOVERY_CODE("recovery-code", Factor.POSSESSION, true),
    HELP_DESK("help-desk", Factor.INHERENCE, false);

    /** What people can set up by themselves, once they have proved who they are. */
    public static final Set<Method> SELF_ENROLLED = Set.of(APP_CODE, RECOVERY_CODE);

    private final String label;
    private final Factor factor;
    private final boolean available;

    Method(String label, Factor factor, boolean available) {
        this.label = label;
        this.factor = factor;
        this.available = available;
    }

    /** The name in files and interfaces. */
    public String label() {
        return label;
    }

    /** What it usually counts as; the configuration may say otherwise. */
    public Factor factor() {
        return factor;
    }

    /** Whether this version can use it; a policy that names another is refused. */
    public boolean available() {
        return available;
    }

    /** The method with this name. */
    public static Optional<Method> labelled(String label) {
        return Arrays.stream(values()).filter(m -> m.label.equals(label)).findFirst();
    }
}
