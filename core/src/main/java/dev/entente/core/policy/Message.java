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
    CODE(Set.of("name", "code", "valid-for"), Set.of("code"), "{organisation}: your code", """
            Hello {name},

            your code is

                {code}

            Type it on the page where you asked for it. It is valid for {valid-for}.
            Never tell it to anybody: nobody from {organisation} will ask.

            If you did not ask for it, somebody typed your name by mistake or on
            purpose. Without the code nothing happens. If it repeats, tell the help
            desk: {help-desk}.

            Reference: {reference}
            """),
    PASSWORD_RESET("your password was reset", "If it was you, there is nothing to do."),
    ACCOUNT_UNLOCKED("your account was unlocked", "If it was you, there is nothing to do."),
    PASSWORD_CHANGED("your password was changed", "If it was you, there is nothing to do."),
    TEMPORARY_PASSWORD(
            "an administrator gave you a temporary password",
            "If it was you who asked for it, there is nothing to do."),
    METHODS_CHANGED("the ways to prove who you are were changed", "If it was you, there is nothing to do."),
    ATTEMPT_FAILED("somebody tried to get in with your name", "If it was you, start again or ask the help desk."),
    PRIVILEGED_RESET(Set.of("where"), Set.of("name"), "{organisation}: a privileged account has a new password", """
            {name} is in a protected group and just got a new password ({where}).

            If nobody expected that, look at the attempt at once, and talk to {name}
            in person.

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
    Message(String said, String ifYou) {
        this(Set.of("where", "link"), Set.of("link"), "{organisation}: " + said, """
                Hello {name},

                %s just now ({where}).

                %s

                If it was NOT you, open this link at once:
                {link}
                or tell the help desk: {help-desk}.

                Reference: {reference}
                """.formatted(said, ifYou));
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
