package dev.entente.core.policy;

import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/** What is sent to people, with the text that it has where the configuration says nothing. */
public enum Message {
    CODE(Set.of("code", "valid-for"), Set.of("code"), "{organisation}: your code", """
            Hello {name},

            Your code is

                {code}

            Type it on the page where you asked for it. It's valid for {valid-for}.
            Never tell it to anyone: no one from {organisation} will ask for it.

            If you didn't ask for it, someone typed your name, by mistake or on
            purpose. Without the code they can't do anything. If it happens again,
            tell the help desk: {help-desk}.

            Reference: {reference}
            """),
    /** The last code of an hour. */
    CODE_FOR_THE_HOUR(Set.of("code", "valid-for"), Set.of("code"), "{organisation}: a code for the next hour", """
            Hello {name},

            Someone has asked for several codes in your name within an hour, so this
            is the last one for now. If it was you, use this code:

                {code}

            It works once, on the page where you are now, for {valid-for}. You don't
            need to ask for another one. Never tell it to anyone: nobody from
            {organisation} will ask for it.

            If it wasn't you, you don't need to do anything: without a code no one
            gets in. If it worries you, tell the help desk: {help-desk}.

            Reference: {reference}
            """),
    PASSWORD_RESET("your password was reset", "Your password for {where} was reset just now."),
    ACCOUNT_UNLOCKED("your account was unlocked", "Your account for {where} was unlocked just now."),
    PASSWORD_CHANGED("your password was changed", "Your password for {where} was changed just now."),
    TEMPORARY_PASSWORD(
            "you have a temporary password", "An administrator gave you a temporary password for {where} just now."),
    METHODS_CHANGED("your methods have changed", "The methods you can verify with changed just now: {where}."),
    /** By an administrator. */
    METHOD_REMOVED(Set.of("where", "link"), Set.of("link"), "{organisation}: one of your methods was removed", """
            Hello {name},

            An administrator just removed one of the methods you can verify with: {where}.

            If you asked for this, there's nothing to do.

            If you didn't, open this link now:
            {link}
            or tell the help desk: {help-desk}.
            """),
    ATTEMPT_FAILED("someone tried to use your name", "Someone just tried to recover your account and failed: {where}."),
    /** Strangers try, again and again. */
    STRANGERS("someone keeps trying your name", """
            Someone keeps typing your name and trying codes. No one got in.
            What this means for you: {where}.

            Browsers and networks you have used before aren't affected, and
            codes still reach your mailbox."""),
    PRIVILEGED_RESET(Set.of("where"), Set.of("name"), "{organisation}: a privileged account has a new password", """
            {name} is in a protected group and got a new password for {where} just now.

            If no one expected this, look at the attempt now, and talk to {name} in
            person.

            Reference: {reference}
            """),
    /** For administrators: strangers try in one person's name. */
    STRANGERS_TRY(Set.of("where"), Set.of("name"), "{organisation}: someone keeps trying the name {name}", """
            Someone keeps trying codes in the name of {name}. No one got in.
            What this means: {where}.

            Look at Today in the console for the networks they come from, and stop a
            network there if you want to. If {name} is held up, you can lift the
            limits on their page.

            Reference: {reference}
            """);

    private static final Set<String> EVERYWHERE = Set.of("organisation", "help-desk", "reference", "name");

    private final Set<String> own;
    private final Set<String> needed;
    private final MessageText usual;

    Message(Set<String> own, Set<String> needed, String subject, String text) {
        this.own = own;
        this.needed = needed;
        this.usual = new MessageText(Map.of("en", subject), Map.of("en", text));
    }

    /** One that tells a person what was done in their name, with a link to say that it was somebody else. */
    Message(String subject, String said) {
        this(Set.of("where", "link"), Set.of("link"), "{organisation}: " + subject, """
                Hello {name},

                %s

                If this was you, there's nothing to do.

                If it wasn't you, open this link now:
                {link}
                or tell the help desk: {help-desk}.

                Reference: {reference}
                """.formatted(said));
    }

    /** The name in files and interfaces. */
    public String label() {
        return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    /** The message with this name. */
    public static Optional<Message> labelled(String label) {
        return Arrays.stream(values()).filter(m -> m.label().equals(label)).findFirst();
    }

    /** Names of what can stand in braces, beside {@code attribute.NAME}; in the order of the alphabet. */
    public List<String> placeholders() {
        var all = new TreeSet<>(EVERYWHERE);
        all.addAll(own);
        return List.copyOf(all);
    }

    /** What has to stand in every text, or the message would be of no use. */
    public Set<String> needed() {
        return needed;
    }

    /** The text where the configuration says nothing. */
    public MessageText usual() {
        return usual;
    }
}
