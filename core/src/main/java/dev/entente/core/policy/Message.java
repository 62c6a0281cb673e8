package dev.entente.core.policy;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.UnaryOperator;

/** What is sent to people, with the text that it has where the configuration says nothing, a file by language. */
public enum Message {
    CODE(Set.of("code", "valid-for"), Set.of("code")),
    /** The last code of an hour. */
    CODE_FOR_THE_HOUR(Set.of("code", "valid-for"), Set.of("code")),
    /** To be followed instead of typing a code. */
    LINK(Set.of("link", "valid-for"), Set.of("link")),
    /** To the manager of somebody whom they may confirm; the name is that person's. */
    MANAGER_ASKED(Set.of("link", "valid-for", "where"), Set.of("link", "name")),
    /** To a telephone; of its text the subject is not sent. */
    TEXT_CODE(Set.of("code", "valid-for"), Set.of("code")),
    /** Read out in a call. */
    SPOKEN_CODE(Set.of("code", "valid-for"), Set.of("code")),
    /** News as a text message: what it is about, which is the subject of the mail that it stands for, and its link. */
    TEXT_NEWS(Set.of("what", "link"), Set.of("what", "link")),
    PASSWORD_RESET,
    ACCOUNT_UNLOCKED,
    PASSWORD_CHANGED,
    TEMPORARY_PASSWORD,
    METHODS_CHANGED,
    /** By an administrator, as the next one. */
    METHOD_ADDED(Set.of("where", "link"), Set.of("link")),
    METHOD_REMOVED(Set.of("where", "link"), Set.of("link")),
    ATTEMPT_FAILED,
    /** To the old address and the new one. */
    ADDRESS_CHANGED,
    /** Strangers try, again and again. */
    STRANGERS,
    PASSWORD_ENDS(Set.of("when", "link"), Set.of("when", "link")),
    /** To set up a method, without which the person can't reset their password. */
    INVITATION(Set.of("link"), Set.of("link")),
    PRIVILEGED_RESET(Set.of("where"), Set.of("name")),
    /** For administrators: strangers try in one person's name. */
    STRANGERS_TRY(Set.of("where"), Set.of("name")),
    /** For administrators: what has no text of its own. */
    ADMINISTRATOR_NOTICE(Set.of("about", "what", "link"), Set.of("what")),
    /** For administrators: what one day brought; the list has several lines. */
    ADMINISTRATOR_DIGEST(Set.of("list", "count", "link"), Set.of("list"));

    /** Lines of each language's {@code words.txt}. */
    private static final Map<String, List<String>> WORDS = Map.of(
            "en",
            resource("en", "words").lines().filter(line -> !line.isBlank()).toList());

    private static final Set<String> EVERYWHERE = Set.of("organisation", "help-desk", "reference", "name");

    private final Set<String> own;
    private final Set<String> needed;
    private final MessageText usual;

    /** A message with a text of its own. */
    Message(Set<String> own, Set<String> needed) {
        this.own = own;
        this.needed = needed;
        this.usual = usual(language -> "{says}");
    }

    /** One that tells a person what was done in their name, with a link to say that it was somebody else. */
    Message() {
        this.own = Set.of("where", "link");
        this.needed = Set.of("link");
        this.usual = usual(language -> resource(language, "notice"));
    }

    /**
     * Reads the message's files: the subject, an empty line, and the text.
     *
     * @param frame what the text stands in, in a language
     */
    private MessageText usual(UnaryOperator<String> frame) {
        var subjects = new HashMap<String, String>();
        var texts = new HashMap<String, String>();
        // A language is a folder of files.
        for (var language : List.of("en")) {
            var file = resource(language, label()).split("\n\n", 2);
            subjects.put(language, file[0]);
            var framed = frame.apply(language).replace("{says}", file[1].stripTrailing());
            texts.put(language, framed.endsWith("\n") ? framed : framed + "\n");
        }
        return new MessageText(Map.copyOf(subjects), Map.copyOf(texts));
    }

    /**
     * How a link is called, what stands below every page, and how the link is called by which its reader chooses to get fewer; empty for a
     * language that has no words yet.
     */
    static List<String> words(String language) {
        return WORDS.getOrDefault(language, List.of());
    }

    private static String resource(String language, String name) {
        try (var in = Message.class.getResourceAsStream("messages/" + language + "/" + name + ".txt")) {
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** To whom messages go. */
    public enum Audience {
        PERSON,
        MANAGER,
        ADMINISTRATORS
    }

    /** To whom it goes. */
    public Audience audience() {
        return switch (this) {
            case MANAGER_ASKED -> Audience.MANAGER;
            case PRIVILEGED_RESET, STRANGERS_TRY, ADMINISTRATOR_NOTICE, ADMINISTRATOR_DIGEST -> Audience.ADMINISTRATORS;
            default -> Audience.PERSON;
        };
    }

    /** Whether it tells something and asks for nothing: it waits behind the others, and can be sent again. */
    public boolean news() {
        return switch (this) {
            case CODE, CODE_FOR_THE_HOUR, LINK, MANAGER_ASKED, TEXT_CODE, SPOKEN_CODE -> false;
            default -> true;
        };
    }

    /** What a policy lets a person do without that this tells them; empty for what they are told in any case. */
    public Optional<Occasion> dispensable() {
        return switch (this) {
            case PASSWORD_RESET -> Optional.of(Occasion.RESET);
            case ACCOUNT_UNLOCKED -> Optional.of(Occasion.UNLOCK);
            case PASSWORD_CHANGED -> Optional.of(Occasion.CHANGE);
            case ATTEMPT_FAILED -> Optional.of(Occasion.FAILURE);
            case PASSWORD_ENDS -> Optional.of(Occasion.EXPIRY);
            case INVITATION -> Optional.of(Occasion.INVITATION);
            default -> Optional.empty();
        };
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
