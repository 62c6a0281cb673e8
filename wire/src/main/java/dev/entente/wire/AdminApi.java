package dev.entente.wire;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.Cause;
import dev.entente.core.delivery.DeliveryState;
import dev.entente.core.policy.Action;
import dev.entente.core.seal.EcKey;
import dev.entente.core.verify.Method;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** Bodies of the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class AdminApi {
    private AdminApi() {}

    /**
     * Sign-in with name and password.
     *
     * @param code of the second factor, where there is one
     * @param device what the command line was given with its last token, to be known by; a browser has a cookie for it
     */
    public record SignIn(String login, String password, String code, String device) {}

    /** The first administrator, made with the one-time token of the first start. */
    public record FirstAdministrator(String token, String login, String name, String password) {}

    /**
     * An administrator.
     *
     * @param secondFactor whether a second factor is asked for
     * @param suspendedAt null if not suspended
     * @param lastSeen when they were there last; null if never, or not lately
     */
    public record Administrator(
            String login, String name, boolean secondFactor, Instant suspendedAt, Instant lastSeen) {}

    /**
     * Who is signed in.
     *
     * @param setUpFirst whether a second factor has to be set up before anything else
     */
    public record Session(String login, String name, boolean secondFactor, boolean setUpFirst) {}

    /**
     * A bearer token for the command line; shown once.
     *
     * @param device what to show at the next sign-in, to be known by
     * @param secondFactor whether a second factor was asked for
     */
    public record Token(String token, Instant expiresAt, String device, boolean secondFactor) {}

    /**
     * One of one's own sessions.
     *
     * @param kind {@code console} or {@code command-line}
     * @param here whether this call belongs to it
     */
    public record OwnSession(
            UUID id,
            @OneOf(named = {"console", "command-line"}) String kind,
            String network,
            String client,
            Instant madeAt,
            Instant lastUsedAt,
            Instant endsAt,
            boolean here) {}

    /** A new password of one's own, with the present one. */
    public record PasswordChange(String before, String password) {}

    /** Shows that it is oneself: by a code, or by the password where there is no second factor. */
    public record Confirmation(String code, String password) {}

    /** A secret for an authenticator app, in groups to type by hand and as the square image holds it. */
    public record OfferedSecondFactor(String secret, String uri) {}

    /** Recovery codes, shown this once. */
    public record SecondFactorSet(List<String> recoveryCodes) {}

    /**
     * A directory to add. The service account's password is never part of it: it stays in the steward's own file.
     *
     * @param kind {@code active-directory}, {@code ldap}, {@code scim} or {@code local}
     * @param servers addresses in order of preference: {@code ldaps://host:port}, {@code ldap://host:port} for StartTLS,
     *     {@code https://host/path}; none for a local command
     * @param base distinguished name below which people are read; null where there are none
     * @param groupBase below which groups and OUs are read; null for the same
     * @param serviceAccount who the steward is to the directory, for people; may be null
     * @param correlation the attribute that tells which accounts belong to one person
     * @param loginAttributes attributes whose values are login names too
     * @param attributes further attributes that scopes may ask about
     * @param protectedGroups groups whose members count as privileged
     * @param trust directories with a lower number are believed more, 1 to 100; null for 1
     * @param operatorKey public half of the operator key, which stays with the command line
     */
    public record NewDirectory(
            String name,
            String title,

            @OneOf(named = {"active-directory", "ldap", "scim", "local"})
            String kind,

            List<String> servers,
            String base,
            String groupBase,
            String serviceAccount,
            String correlation,
            List<String> loginAttributes,
            List<String> attributes,
            List<String> protectedGroups,
            Integer trust,
            EcKey operatorKey) {}

    /** What to change about a directory; null leaves a value as it is. */
    public record DirectoryChange(
            String title,
            List<String> servers,
            String base,
            String groupBase,
            String serviceAccount,
            String correlation,
            List<String> loginAttributes,
            List<String> attributes,
            List<String> protectedGroups,
            Integer trust,
            Integer lossShare) {}

    /** A directory as it stands; {@code attention} says what is missing or wrong, empty if all is well. */
    public record Directory(
            UUID id,
            String name,
            String title,

            @OneOf(named = {"active-directory", "ldap", "scim", "local"})
            String kind,

            List<String> servers,
            String base,
            String groupBase,
            String serviceAccount,
            String correlation,
            List<String> loginAttributes,
            List<String> attributes,
            List<String> protectedGroups,
            int trust,
            int lossShare,
            Instant suspendedAt,
            String operatorKey,
            int rosterVersion,
            Instant syncedAt,
            boolean followsChanges,
            int accounts,
            int groups,
            List<Steward> stewards,
            Job lastPreflight,
            Job lastSync,
            int waitingDeliveries,
            int openCases,
            List<String> attention) {}

    /**
     * What removing a directory would do.
     *
     * @param onlyHere people who have no account elsewhere, and are forgotten with it
     * @param policies policies that deliver to it; it cannot be removed while there are any
     */
    public record Removal(
            String name, int accounts, int onlyHere, int waitingDeliveries, int stewards, List<String> policies) {}

    /** Says the name again, so that nobody removes the wrong one. */
    public record RemovalConfirmed(String name) {}

    /**
     * A steward.
     *
     * @param state {@code joined} until the operator key has signed it in, then {@code listed}; {@code retired} at the end
     * @param lastSeen when it asked for work last; null if it never did
     * @param server the directory's server that it works with, or null
     * @param certificateEnds when that server's certificate ends, or null
     * @param latencyMillis how long the service took to answer it
     * @param held orders that it holds now
     */
    public record Steward(
            UUID id,
            String name,

            @OneOf(named = {"joined", "listed", "replaced", "copied", "retired"})
            String state,

            EcKey identityKey,
            String version,
            Instant lastSeen,
            boolean connected,
            String server,
            Instant certificateEnds,
            int latencyMillis,
            int held) {}

    /** Accounts whose person is in doubt. */
    public record CorrelationCase(
            UUID id,
            String kind,
            String directory,
            UUID account,
            String login,
            String dn,
            UUID person,
            String personName,
            String before,
            String after,
            UUID otherPerson,
            String otherName,
            Instant openedAt,
            String says) {}

    /** {@code join} takes the account to the person that its attribute names, {@code keep-apart} leaves it. */
    public record Settlement(
            @OneOf(named = {"join", "keep-apart"}) String decision) {}

    /** Ask for a join code for one steward. */
    public record NewJoinCode(String steward) {}

    /**
     * A join code, shown once.
     *
     * @param code what the steward hands in
     * @param serviceKey thumbprint of the key that signs orders, for the steward to pin
     */
    public record JoinCode(String code, String serviceKey, UUID directory, Instant expiresAt) {}

    /** The roster in force, null before the first. */
    public record SignedRoster(String roster) {}

    /**
     * Work that a steward does in the background.
     *
     * @param state waiting, running, held until an administrator agrees, done or failed
     */
    public record Job(
            UUID id,
            @OneOf(named = {"preflight", "sync"}) String kind,

            @OneOf(named = {"waiting", "running", "held", "done", "failed"})
            String state,

            int done,
            String message,
            List<Finding> findings,
            Instant createdAt,
            Instant endedAt) {}

    /**
     * Something that preflight reports.
     *
     * @param severity {@code ok}, {@code info}, {@code warning} or {@code error}
     * @param code a stable word
     */
    public record Finding(
            @OneOf(named = {"ok", "info", "warning", "error"})
            String severity,

            String code,
            String cause,
            String evidence,
            String whatToDo) {}

    /** A page of a list; {@code after} asks for the next one and is null at the end. */
    public record Page<T>(List<T> items, String after) {}

    /** A person in a list. */
    public record PersonRow(UUID id, String name, String department, List<Account> accounts) {}

    /**
     * One account of a person. Times are null where the directory does not say.
     *
     * @param quarantined whether its person is in doubt, so that nothing is delivered to it
     * @param changedElsewhereAt when its password was set by others than us, and fell out of step with the person's other
     *     accounts; null if it did not
     */
    public record Account(
            UUID id,
            String directory,
            String login,
            String dn,
            boolean disabled,
            boolean locked,
            boolean hasMail,
            boolean quarantined,
            boolean mustChange,
            Instant endsAt,
            Instant lastSignIn,
            Instant passwordSetAt,
            Instant passwordEndsAt,
            Instant changedElsewhereAt,
            String manager,
            String rules) {}

    /** One person. */
    public record Person(
            UUID id, String name, String correlation, String department, List<Account> accounts, List<String> groups) {}

    /** Why a person can or cannot do something now. */
    public record Explanation(
            UUID person,
            String name,
            @OneOf(Action.class) String action,
            int revision,
            boolean possible,
            String policy,
            List<Considered> considered,
            Required required,
            List<MethodStanding> methods,
            List<Fact> facts,
            List<Obstacle> obstacles,
            List<String> notes,
            List<Situation> situations,
            String text) {}

    /**
     * The same person in one situation, where it makes a difference.
     *
     * @param words such as "from inside Fleet networks, on a known device"
     * @param proof what has to be proved, in words; null where nothing is possible
     */
    public record Situation(String words, boolean possible, String proof, List<String> obstacles) {}

    /**
     * What has to be proved.
     *
     * @param words to follow "prove"
     * @param because each condition that asks for more
     */
    public record Required(int methods, int factors, String words, String source, List<String> because) {}

    /**
     * How one method stands for the person.
     *
     * @param why what hinders it; empty if nothing does
     */
    public record MethodStanding(@OneOf(Method.class) String method, boolean enrolled, boolean usable, String why) {}

    /** A policy that was looked at. */
    public record Considered(String policy, boolean covers, String because) {}

    /** A value and where it was said. */
    public record Fact(String name, String value, String source) {}

    /** What stands in the way, and what to do. */
    public record Obstacle(String code, String cause, String whatToDo) {}

    /** A draft to start. */
    public record NewDraft(String name) {}

    /** Files of a draft, by path. */
    public record DraftFiles(Map<String, String> files) {}

    /** A draft; {@code version} is its ETag. */
    public record Draft(
            UUID id,
            String name,
            int baseRevision,
            int version,
            String author,
            Instant changedAt,
            Map<String, String> files,
            List<Problem> problems) {}

    /**
     * A problem in a file, with its place.
     *
     * @param severity {@code error} for what cannot be published, {@code warning} for what is hardly meant
     */
    public record Problem(
            String file,
            int line,
            int column,
            String pointer,
            String message,
            @OneOf(named = {"error", "warning"}) String severity) {}

    /**
     * What a draft would change.
     *
     * @param weaker what becomes easier for somebody who is not the person, a sentence each
     */
    public record Comparison(
            List<String> sentences, String diff, int coveredBefore, int coveredAfter, List<String> weaker) {}

    /**
     * A message to people.
     *
     * @param source the file that says it, or {@code built in}
     * @param placeholders what can stand in braces, beside {@code attribute.NAME}
     * @param needed what has to stand in every text
     * @param subjects by language
     * @param texts by language
     * @param examples as somebody made up would read it, by language: the subject, an empty line, the text
     */
    public record MessageText(
            String name,
            String source,
            List<String> placeholders,
            List<String> needed,
            Map<String, String> subjects,
            Map<String, String> texts,
            Map<String, String> examples) {}

    /**
     * Publish with a note for the history.
     *
     * @param after the revision in force that was looked at; null for whichever is
     * @param losesWay how many people may lose a way in, as the rehearsal counted them; null if nobody looked
     * @param at when it is to be published; null for now
     * @param until when what was in force before becomes the next revision by itself; null for not by itself
     */
    public record Publication(String note, Integer after, Integer losesWay, Instant at, Instant until) {}

    /** Whose approval a change needs: {@code nothing}, {@code weakening} or {@code everything}. */
    public record ApprovalRule(
            @OneOf(named = {"nothing", "weakening", "everything"})
            String askedFor) {}

    /**
     * What a draft makes weaker, and whether it needs a second person.
     *
     * @param weaker a sentence for each thing
     */
    public record Approval(List<String> weaker, boolean needed, String submittedBy, String approvedBy) {}

    /**
     * Something that happens by itself.
     *
     * @param kind {@code publish} a draft, or go {@code back} to a revision
     */
    public record Planned(
            UUID id, @OneOf(named = {"publish", "back"}) String kind, String says, Instant at, String author) {}

    /** Another administrator. */
    public record NewAdministrator(String login, String name, String password) {}

    /**
     * A draft with what was published meanwhile.
     *
     * @param revision that it is based on now
     * @param taken files that were taken from it
     * @param conflicts files that both changed, kept as the draft has them
     */
    public record Merge(int revision, List<String> taken, List<String> conflicts) {}

    /** A published revision. */
    public record Revision(
            int number,
            String author,
            String approvedBy,
            String note,
            Instant publishedAt,
            Map<String, String> files) {}

    /**
     * A published scope.
     *
     * @param words to follow "people"
     * @param policies that it is the scope of
     */
    public record Scope(String name, String title, String words, int people, List<String> policies) {}

    /**
     * Somebody came to a scope, or left it.
     *
     * @param at when that was noticed
     * @param person null where it tells of many at once
     * @param name null where it tells of many at once
     * @param more how many people it tells of besides
     * @param why a sentence without full stop
     * @param revision the configuration that was in force then
     */
    public record ScopeChange(
            long id, Instant at, boolean came, UUID person, String name, int more, String why, int revision) {}

    /** How many people are in both of two scopes, and in one of them alone. */
    public record Overlap(int both, int onlyFirst, int onlySecond) {}

    /**
     * A scope that is being written.
     *
     * @param files of the draft it belongs to
     */
    public record ScopeText(String name, String text, Map<String, String> files) {}

    /**
     * Who would be in it.
     *
     * @param words null if there are problems
     * @param sample the first of them
     */
    public record ScopePreview(String words, int people, List<PersonRow> sample, List<Problem> problems) {}

    /**
     * What a draft would mean for everybody.
     *
     * @param network from where everybody would come; null for from everywhere
     * @param counts the gravest first, over all situations: whoever is concerned in one of them is counted
     * @param situations each that makes a difference
     */
    public record Rehearsal(
            @OneOf(Action.class) String action,
            String network,
            int revision,
            int people,
            List<RehearsalCount> counts,
            List<RehearsalSituation> situations,
            List<RehearsalMove> moves,
            List<RehearsalPart> scopes,
            List<RehearsalPart> departments,
            List<RehearsalPart> privilege) {}

    /** One situation, such as "from elsewhere, on an unknown device"; empty words where nothing makes a difference. */
    public record RehearsalSituation(String words, int losesWay, int lacksMethods) {}

    /** How many people something happens to; {@code words} follow the number. */
    public record RehearsalCount(
            @OneOf(dev.entente.core.policy.Rehearsal.Kind.class)
            String kind,

            String words,
            int people) {}

    /** People who go from one policy to another; empty for none. */
    public record RehearsalMove(String from, String to, int people) {}

    /**
     * What it means for some of them.
     *
     * @param part what asks for the people: {@code scope NAME}, {@code department NAME}, {@code privileged},
     *     {@code not-privileged}
     */
    public record RehearsalPart(String part, String name, int people, int losesWay, int lacksMethods) {}

    /** One of the people behind a number. */
    public record RehearsedPerson(
            UUID id, String name, String department, List<String> logins, String before, String after) {}

    /** A past attempt that would have begun otherwise. */
    public record RehearsedAttempt(
            String reference,
            String name,
            @OneOf(Action.class) String action,
            Instant at,
            String before,
            String after,
            String policy,
            String because) {}

    /** One method of a person. */
    public record Enrolment(
            UUID id, @OneOf(Method.class) String method, String label, Instant since, Instant lastUsed, Integer left) {}

    /** A published policy to read. */
    public record Policy(
            String name, String title, String scope, List<Sentence> sentences, List<Fact> facts, int people) {}

    /**
     * A sentence of a policy.
     *
     * @param facts names of the facts that it tells
     */
    public record Sentence(String text, List<String> facts) {}

    /**
     * An attempt in a list.
     *
     * @param state where it stands; {@code purged} if only the record still knows of it
     * @param createdAt null if it was purged
     */
    public record AttemptRow(
            String reference,
            @OneOf(AttemptState.class) String state,
            @OneOf(Action.class) String action,
            UUID person,
            String personName,
            String policy,
            String cause,
            Instant createdAt,
            Instant endedAt) {}

    /**
     * One attempt with everything that happened.
     *
     * @param limits what is used up now where it came from, a sentence each
     */
    public record AttemptDetail(
            AttemptRow attempt, String reason, List<String> limits, List<Delivery> deliveries, List<Event> timeline) {}

    /**
     * One delivery with its result in words and raw.
     *
     * @param phases milliseconds that each phase took, by name
     */
    public record Delivery(
            UUID id,
            String reference,
            @OneOf(Action.class) String action,
            String directory,
            String login,

            @OneOf(DeliveryState.class) String state,

            int epoch,
            String steward,
            @OneOf(Cause.class) String code,
            String cause,
            String whatToDo,
            String detail,
            String server,
            String versionBefore,
            String versionAfter,
            String bind,
            Instant createdAt,
            Instant endedAt,
            Map<String, Long> phases) {}

    /** One event; {@code seq} is null until it is sealed. */
    public record Event(
            Long seq,
            UUID id,
            Instant at,
            String kind,
            String reference,
            int ordinal,
            int revision,
            Map<String, Object> data,
            Map<String, String> personal,
            String sentence) {}

    /**
     * How mail is sent.
     *
     * @param administrators where administrators are told of what concerns them
     * @param works whether the last message or test was taken; null if none was sent yet
     */
    public record MailChannel(
            String host,
            int port,
            @OneOf(named = {"tls", "starttls", "none"}) String security,
            String login,
            String sender,
            List<String> administrators,
            Boolean works,
            String why,
            Instant since) {}

    /**
     * How mail is to be sent.
     *
     * @param security {@code tls}, {@code starttls} or {@code none}
     * @param password null with a login keeps the one before
     * @param administrators where administrators are told of what concerns them; null for nowhere
     */
    public record MailSettings(
            String host,
            int port,
            @OneOf(named = {"tls", "starttls", "none"}) String security,
            String login,
            String password,
            String sender,
            List<String> administrators) {}

    /** Where to send a test. */
    public record MailTest(String address) {}

    /** What came of a test: the whole conversation with the server, without secrets. */
    public record MailTried(boolean sent, String why, List<String> conversation) {}

    /** Asks for a temporary password, with the key that the administrator's browser made. */
    public record NewTemporary(EcKey key) {}

    /** What the browser needs to seal a temporary password. */
    public record Temporary(String reference, PortalApi.Sealing sealing) {}

    /**
     * Something to stop at once.
     *
     * @param what {@code everything}, or a kind and a name: {@code action:reset}, {@code method:email-code},
     *     {@code directory:shore}, {@code policy:crew}
     * @param reason one line, at most 200 characters
     * @param until when it ends by itself; null for not by itself
     */
    public record NewStop(String what, String reason, Instant until) {}

    /**
     * Something that is or was stopped.
     *
     * @param ended null while it is in force
     * @param endedBy null if it ended by itself
     */
    public record Stop(
            UUID id,
            String what,
            String reason,
            Instant since,
            String by,
            Instant until,
            Instant ended,
            String endedBy) {}

    /**
     * The stop switch.
     *
     * @param stops those in force first, then the latest that ended
     * @param possible all that can be stopped now
     */
    public record Stops(List<Stop> stops, List<String> possible) {}

    /**
     * Switches that are off unless an administrator turns them on.
     *
     * @param temporaryPasswords whether administrators may give temporary passwords
     * @param secondFactorRequired whether every administrator has to have a second factor
     */
    public record Switches(boolean temporaryPasswords, boolean secondFactorRequired) {}

    /**
     * A change of a setting that waits for another administrator.
     *
     * @param says old and new values, a sentence each
     */
    public record ProposedChange(
            UUID id, String kind, String subject, List<String> says, String author, Instant madeAt) {}

    /**
     * What needs attention and how the last day went.
     *
     * @param outcomes attempts of people by state
     * @param madeUp attempts for names that don't exist, which count nowhere else
     */
    public record Today(
            int revision,
            int people,
            int covered,
            Map<String, Integer> outcomes,
            int madeUp,
            List<Attention> attention,
            long recordSize,
            Instant recordSignedAt) {}

    /**
     * Something to look at, with the page where to do it.
     *
     * @param stop what can be stopped against it, as {@link NewStop} has it; null if nothing
     */
    public record Attention(
            @OneOf(named = {"error", "warning", "info"}) String severity, String text, String page, String stop) {}

    /** What strangers do: how much of it, from which networks, and in whose name, the most first. */
    public record Pressure(List<PressureLevel> levels, List<PressureSource> networks, List<PressureSource> people) {}

    /**
     * How much of one kind there was within the last hour.
     *
     * @param says the number in words
     * @param usual in an hour, over the last week
     * @param unusual whether this is far above that
     */
    public record PressureLevel(String kind, String says, long lastHour, double usual, boolean unusual) {}

    /** A network it came from, or a person in whose name it came. */
    public record PressureSource(String kind, String network, UUID person, String name, long count, String says) {}

    /** Lifts a person's limits. */
    public record LimitLifting(String reason) {}
}
