package dev.entente.core.verify;

/** What somebody who is not the person would have to hold, or do, to answer in their place. The more telling come first. */
public enum Holding {
    /** Whoever reads the person's mail. */
    MAILBOX("the mailbox"),
    /** Whoever gets what is sent to the number: with the telephone, or with a copy of its card. */
    PHONE_NUMBER("the phone number"),
    UNLOCKED_PHONE("the unlocked phone"),
    SECURITY_KEY("the passkey and what unlocks it"),
    /** Whoever has the key can touch it. */
    TOUCHED_KEY("the security key"),
    PAPER("the paper with recovery codes"),
    COMMON_KNOWLEDGE("what colleagues know"),
    /** A session of the person's, in which a directory lets them change what it says of them. */
    SIGNED_IN_COMPUTER("a signed-in computer"),
    DECEIVED_STAFF("somebody at the help desk deceived"),
    CURRENT_PASSWORD("the current password"),
    ONE_ADMINISTRATOR("one administrator");

    private final String words;

    Holding(String words) {
        this.words = words;
    }

    /** As in a sentence. */
    public String words() {
        return words;
    }
}
