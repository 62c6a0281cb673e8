package dev.entente.wire;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.password.PasswordRules;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Occasion;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** Bodies of the portal's API under {@code /api/v1/portal}. Until the first proof they are the same for every name. */
public final class PortalApi {
    private PortalApi() {}

    /**
     * What the first page needs.
     *
     * @param actions what some policy allows: {@code reset}, {@code unlock}, {@code change}
     * @param ready false while no method's channel works, so that nobody starts in vain
     * @param paused those of the actions that are stopped for everybody now
     * @param knownBrowser whether somebody proved who they are on this browser before; says nothing about who
     * @param shared whether several people use one device here, so that the page may keep nothing, not even over a reload
     * @param idleSeconds how long the page may be left alone once something was proved in it
     * @param signIn where people go on to once they have a password that works; null for nowhere
     */
    public record Context(
            String organisation,
            String helpDesk,
            List<String> actions,
            boolean ready,
            List<Paused> paused,
            boolean knownBrowser,
            boolean shared,
            int idleSeconds,
            @OrNull String signIn) {}

    /**
     * An action that is stopped.
     *
     * @param until when it goes on by itself; null if that is not known
     */
    public record Paused(
            @OneOf(Action.class) String action, @OrNull Instant until) {}

    /**
     * Who are you.
     *
     * @param name as typed, at most 256 characters; never stored
     * @param action {@code reset}, {@code unlock}, {@code change} or {@code details}
     * @param key public half of the key that the browser made for this attempt
     * @param work that was asked for by the problem {@code work-wanted}; null if none was
     */
    public record Start(
            String name,
            @OneOf(Action.class) String action,
            EcKey key,
            @OrNull Work work) {
        public Start(String name, String action, EcKey key) {
            this(name, action, key, null);
        }
    }

    /**
     * Work that a browser did: SHA-256 of seed, a dot and nonce begins with as many zero bits as were asked for.
     *
     * @param seed as it was asked for
     * @param nonce at most 20 characters
     */
    public record Work(String seed, String nonce) {}

    /**
     * Which method to send a challenge by.
     *
     * @param end the last four digits of the number, for what goes to a telephone; null otherwise
     * @param address one of the attempt's addresses, for what goes to a mailbox; null for the first
     */
    public record Ask(
            @MethodName String method,
            @OrNull String end,
            @OrNull String address) {}

    /**
     * One of several mailboxes that the person can choose from.
     *
     * @param id within this attempt
     * @param hint enough for whoever knows it, such as {@code a…@s….test}
     */
    public record Address(String id, String hint) {}

    /**
     * An answer.
     *
     * @param code what was typed; null if nothing was
     * @param parts what else was answered, by name, as {@code docs/methods} describes it, such as what a device signed; null if
     *     nothing
     */
    public record Answer(@OrNull String code, @OrNull Map<String, String> parts) {
        /** Something typed. */
        public static Answer typed(String code) {
            return new Answer(code, null);
        }
    }

    /**
     * Where the attempt stands.
     *
     * @param state {@code proving}, {@code proved}, {@code delivering} or how it ended
     * @param methods the ones that can be chosen now
     * @param addresses where mail can go if there are several mailboxes; empty before the first proof
     * @param proved the ones that were proved, in order
     * @param challenge the one that waits for an answer, or null
     * @param terms what has to be accepted before anything is done, or null
     * @param accounts results, empty before anything is delivered
     * @param waiting true while no steward of a directory is connected
     * @param mailed whether the person is told of the outcome by mail; not known before the first proof
     * @param mayGoOn whether it has ended, but can be gone on with: to a new password after an unlock, or to another try
     */
    public record Attempt(
            String reference,
            @OneOf(AttemptState.class) String state,
            @OneOf(Action.class) String action,
            List<String> methods,
            List<Address> addresses,
            List<String> proved,
            @OrNull Challenge challenge,
            @OrNull Terms terms,
            List<AccountResult> accounts,
            boolean waiting,
            boolean mayGoOn,
            boolean mailed,
            Instant expiresAt) {}

    /**
     * A text to accept.
     *
     * @param language of the text (BCP 47)
     */
    public record Terms(String name, String language, String text) {}

    /** Accepts terms by their name. */
    public record Acceptance(String terms) {}

    /**
     * One way in which the person can be recognised.
     *
     * @param since when it was enrolled; null for an address from a directory
     * @param left recovery codes that are not used; null for other methods
     * @param unknownTo directories whose stewards want to recognise people themselves and do not know this one yet
     * @param thumbprint of what those stewards know it by; null where there is nothing
     */
    public record OwnMethod(
            @OrNull UUID id,
            @MethodName String method,
            String label,
            @OrNull Instant since,
            @OrNull Instant lastUsed,
            @OrNull Integer left,
            List<String> unknownTo,
            @OrNull String thumbprint) {}

    /**
     * A method to set up.
     *
     * @param label how the person calls it; null for the method's own name
     */
    public record NewEnrolment(
            @MethodName String method, @OrNull String label) {}

    /**
     * What was offered to set up.
     *
     * @param complete whether it counts already; otherwise it waits for a confirmation
     * @param parts what the browser or the device needs, by name, as {@code docs/methods} describes them
     * @param lines what is shown this once, such as recovery codes
     */
    public record OfferedEnrolment(
            UUID id, @MethodName String method, boolean complete, Map<String, String> parts, List<String> lines) {}

    /** Another name for a method. */
    public record Naming(String label) {}

    /**
     * A challenge that was sent; nothing tells whether it reached anybody.
     *
     * @param parts what the browser needs to answer, by name, as {@code docs/methods} describes them; the same for every name
     */
    public record Challenge(
            UUID id,
            @MethodName String method,
            int triesLeft,
            int challengesLeft,
            Instant expiresAt,
            Map<String, String> parts) {}

    /**
     * One account's result.
     *
     * @param state waiting, working, done, refused, failed or unknown
     * @param says a sentence for the person, null while it waits or when done
     * @param retryAt from when the directory takes another password, where it says so, or null
     */
    public record AccountResult(
            String directory,
            String login,
            String state,
            @OrNull String says,
            boolean chooseAgain,
            @OrNull Instant retryAt) {}

    /** Everything the browser needs to seal, after the proof. */
    public record Sealing(
            UUID attempt,
            @OneOf(Action.class) String action,
            Instant expiresAt,
            PasswordRules rules,
            List<String> details,
            List<Target> targets) {}

    /**
     * One directory to seal for.
     *
     * @param operatorKey whose signature the roster must bear
     * @param sealingKeys signed statements of the listed stewards
     * @param credentials whether its stewards keep credentials by which they recognise people themselves
     */
    public record Target(
            UUID directory,
            String name,
            String title,
            EcKey operatorKey,
            String roster,
            List<String> sealingKeys,
            List<TargetAccount> accounts,
            boolean credentials) {}

    /** One account to write. */
    public record TargetAccount(UUID id, String login) {}

    /** Sealed passwords with their evidence, one for each directory. */
    public record SealedPasswords(List<SealedPassword> passwords) {}

    /** One seal, exactly as made, and what was signed about it; an unlock has no seal. */
    public record SealedPassword(@OrNull String seal, String evidence) {}

    /**
     * A link that was mailed.
     *
     * @param number the one on the page that asked; null before it is known that it is wanted
     */
    public record Link(String token, @OrNull String number) {}

    /**
     * What came of a link.
     *
     * @param done whether the page that asked goes on; otherwise its number is wanted
     * @param here whether this browser asked
     * @param network from where it was asked
     */
    public record FollowedLink(
            boolean done,
            boolean here,
            @OneOf(Action.class) String action,
            @OrNull String network,
            Instant askedAt) {}

    /**
     * A method that the person can set up.
     *
     * @param actions for which their policy accepts it
     */
    public record SettableMethod(String method, List<String> actions) {}

    /**
     * "This was not me", with the token of the link.
     *
     * @param close whether to close self-service until an administrator opens it, where that is offered; null for no
     */
    public record Alarm(String token, @OrNull Boolean close) {}

    /**
     * What an alarm would bring about.
     *
     * @param ends whether an attempt is under way that would end
     * @param mayClose whether the person may ask to close self-service until an administrator opens it
     */
    public record AlarmAsked(boolean ends, boolean mayClose) {}

    /**
     * What the alarm page shows.
     *
     * @param reference null where it is about no attempt
     * @param ended whether an attempt was under way and has ended now
     * @param closed whether self-service is closed until an administrator opens it
     */
    public record AlarmRaised(
            @OrNull String reference, String organisation, String helpDesk, boolean ended, boolean closed) {}

    /** A choice about one kind of news, with the token of the link in it. */
    public record Quiet(String token, boolean off) {}

    /**
     * What was chosen.
     *
     * @param about one kind of news
     * @param told whether the person is told of it
     */
    public record Told(@OneOf(Occasion.class) String about, boolean told) {}
}
