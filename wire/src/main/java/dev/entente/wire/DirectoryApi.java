package dev.entente.wire;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.UUID;

/** Directories, their stewards, and jobs, over the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class DirectoryApi {
    private DirectoryApi() {}

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
     * @param mailboxes domains whose mailboxes open with this directory's passwords, such as {@code skerry.test}; no code goes
     *     there unless a policy says so
     * @param trust directories with a lower number are believed more, 1 to 100; null for 1
     * @param operatorKey public half of the operator key, which stays with the command line
     */
    public record NewDirectory(
            String name,
            @OrNull String title,

            @OneOf(named = {"active-directory", "ldap", "scim", "local"})
            String kind,

            List<String> servers,
            @OrNull String base,
            @OrNull String groupBase,
            @OrNull String serviceAccount,
            String correlation,
            @OrNull List<String> loginAttributes,
            @OrNull List<String> attributes,
            @OrNull List<String> protectedGroups,
            @OrNull List<String> mailboxes,
            @OrNull Integer trust,
            EcKey operatorKey) {}

    /** What to change about a directory; null leaves a value as it is. */
    public record DirectoryChange(
            @OrNull String title,
            @OrNull List<String> servers,
            @OrNull String base,
            @OrNull String groupBase,
            @OrNull String serviceAccount,
            @OrNull String correlation,
            @OrNull List<String> loginAttributes,
            @OrNull List<String> attributes,
            @OrNull List<String> protectedGroups,
            @OrNull List<String> mailboxes,
            @OrNull Integer trust,
            @OrNull Integer lossShare) {}

    /** A directory as it stands; {@code attention} says what is missing or wrong, empty if all is well. */
    public record Directory(
            UUID id,
            String name,
            String title,

            @OneOf(named = {"active-directory", "ldap", "scim", "local"})
            String kind,

            List<String> servers,
            @OrNull String base,
            @OrNull String groupBase,
            @OrNull String serviceAccount,
            String correlation,
            List<String> loginAttributes,
            List<String> attributes,
            List<String> protectedGroups,
            List<String> mailboxes,
            int trust,
            int lossShare,
            @OrNull Instant suspendedAt,
            String operatorKey,
            int rosterVersion,
            @OrNull Instant syncedAt,
            boolean followsChanges,
            int accounts,
            int groups,
            List<Steward> stewards,
            @OrNull Job lastPreflight,
            @OrNull Job lastSync,
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
            @OrNull String version,
            @OrNull Instant lastSeen,
            boolean connected,
            @OrNull String server,
            @OrNull Instant certificateEnds,
            int latencyMillis,
            int held) {}

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
    public record SignedRoster(@OrNull String roster) {}

    /** A statement about a credential, signed by the directory's operator. */
    public record SignedCredential(String statement) {}

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
            @OrNull String message,
            List<Finding> findings,
            Instant createdAt,
            @OrNull Instant endedAt) {}

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
            @OrNull String cause,
            @OrNull String evidence,
            @OrNull String whatToDo) {
        /** People may write their own e-mail address in the directory. */
        public static final String MAIL_SELF_WRITABLE = "mail-self-writable";

        /** People may write their own telephone numbers in the directory. */
        public static final String PHONE_SELF_WRITABLE = "phone-self-writable";
    }
}
