package dev.entente.core.verify;

import java.time.Duration;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;

/** A way to verify a person, and what is so for everybody who uses it. Names are as in policy files. */
public enum Method {
    /** A code that is sent to the address that the directories have. */
    EMAIL_CODE("email-code", Factor.POSSESSION, new Usual(Duration.ofMinutes(10), true), Source.DIRECTORY),
    EMAIL_LINK("email-link", Factor.POSSESSION),
    SMS_CODE("sms-code", Factor.POSSESSION),
    VOICE_CODE("voice-code", Factor.POSSESSION),
    /** A code that an authenticator app shows. */
    APP_CODE("app-code", Factor.POSSESSION, new Usual(null, true), Source.PERSON),
    PUSH("push", Factor.POSSESSION),
    PASSKEY("passkey", Factor.POSSESSION),
    QUESTIONS("questions", Factor.KNOWLEDGE),
    /** One of several codes on paper. */
    RECOVERY_CODE("recovery-code", Factor.POSSESSION, new Usual(null, false), Source.PERSON),
    HELP_DESK("help-desk", Factor.INHERENCE);

    /**
     * How a method works unless the configuration says otherwise.
     *
     * @param life how long an answer can be given; null where the answer has a life of its own
     * @param alone whether it may suffice by itself
     */
    public record Usual(Duration life, boolean alone) {}

    private enum Source {
        DIRECTORY,
        PERSON
    }

    private final String label;
    private final Factor factor;
    private final Usual usual;
    private final Source source;

    /** One that this version knows by name only. */
    Method(String label, Factor factor) {
        this(label, factor, null, null);
    }

    Method(String label, Factor factor, Usual usual, Source source) {
        this.label = label;
        this.factor = factor;
        this.usual = usual;
        this.source = source;
    }

    /** Those that this version can use, in the order of the names above. */
    public static List<Method> known() {
        return Arrays.stream(values()).filter(Method::available).toList();
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
        return usual != null;
    }

    /** How it works unless the configuration says otherwise; null if it is not available. */
    public Usual usual() {
        return usual;
    }

    /** Whether people can set it up by themselves, once they have verified. */
    public boolean selfEnrolled() {
        return source == Source.PERSON;
    }

    /** Whether a code is sent, to where the directories say that the person is reached. */
    public boolean sent() {
        return source == Source.DIRECTORY;
    }

    /** The method with this name. */
    public static Optional<Method> labelled(String label) {
        return Arrays.stream(values()).filter(m -> m.label.equals(label)).findFirst();
    }
}
