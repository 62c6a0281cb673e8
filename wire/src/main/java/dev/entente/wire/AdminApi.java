package dev.entente.wire;

import dev.entente.core.seal.EcKey;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** Bodies of the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class AdminApi {
    private AdminApi() {}

    /** Sign-in with name and password. */
    public record SignIn(String login, String password) {}

    /** The first administrator, made with the one-time token of the first start. */
    public record FirstAdministrator(String token, String login, String name, String password) {}

    /** Who is signed in. */
    public record Administrator(String login, String name) {}

    /** A bearer token for the command line; shown once. */
    public record Token(String token, long expiresAt) {}

    /**
     * A directory to add. The service account's password is never part of it.
     *
     * @param kind {@code active-directory} or {@code ldap}
     * @param servers LDAP URLs in order of preference, {@code ldaps://host:port}
     * @param caCertificate PEM
     * @param base distinguished name below which people, groups and OUs are read
     * @param serviceAccount distinguished name that the steward binds with
     * @param correlation the attribute that tells which accounts belong to one person
     * @param operatorKey public half of the operator key, which stays with the command line
     */
    public record NewDirectory(
            String name,
            String title,
            String kind,
            List<String> servers,
            String caCertificate,
            String base,
            String serviceAccount,
            String correlation,
            EcKey operatorKey) {}

    /** A directory as it stands; {@code attention} says what is missing or wrong, empty if all is well. */
    public record Directory(
            UUID id,
            String name,
            String title,
            String kind,
            List<String> servers,
            String base,
            String serviceAccount,
            String correlation,
            String operatorKey,
            int rosterVersion,
            Long syncedAt,
            int accounts,
            int groups,
            List<Steward> stewards,
            Job lastPreflight,
            Job lastSync,
            int waitingDeliveries,
            List<String> attention) {}

    /** A steward; {@code state} is {@code joined} until the operator key has signed it in, then {@code listed}. */
    public record Steward(
            UUID id, String name, String state, EcKey identityKey, String version, long lastSeen, boolean connected) {}

    /** Ask for a join code for one steward. */
    public record NewJoinCode(String steward) {}

    /**
     * A join code, shown once.
     *
     * @param code what the steward hands in
     * @param serviceKey thumbprint of the key that signs orders, for the steward to pin
     */
    public record JoinCode(String code, String serviceKey, UUID directory, long expiresAt) {}

    /** The roster in force, null before the first. */
    public record SignedRoster(String roster) {}

    /** Work that a steward does in the background; {@code state} is waiting, running, done or failed. */
    public record Job(
            UUID id,
            String kind,
            String state,
            int done,
            String message,
            List<Finding> findings,
            long createdAt,
            Long endedAt) {}

    /**
     * Something that preflight reports.
     *
     * @param severity {@code ok}, {@code info}, {@code warning} or {@code error}
     * @param code a stable word
     */
    public record Finding(String severity, String code, String cause, String evidence, String whatToDo) {}

    /** A page of a list; {@code after} asks for the next one and is null at the end. */
    public record Page<T>(List<T> items, String after) {}

    /** A person in a list. */
    public record PersonRow(UUID id, String name, String department, List<Account> accounts) {}

    /** One account of a person. */
    public record Account(
            UUID id, String directory, String login, String dn, boolean disabled, boolean locked, boolean hasMail) {}

    /** One person. */
    public record Person(
            UUID id, String name, String correlation, String department, List<Account> accounts, List<String> groups) {}

    /** Why a person can or cannot do something now. */
    public record Explanation(
            UUID person,
            String name,
            String action,
            int revision,
            boolean possible,
            String policy,
            List<Considered> considered,
            List<Fact> facts,
            List<Obstacle> obstacles) {}

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
            long changedAt,
            Map<String, String> files,
            List<Problem> problems) {}

    /** A problem in a file, with its place. */
    public record Problem(String file, int line, int column, String pointer, String message) {}

    /** What a draft would change. */
    public record Comparison(List<String> sentences, String diff, int coveredBefore, int coveredAfter) {}

    /** Publish with a note for the history. */
    public record Publication(String note) {}

    /** A published revision. */
    public record Revision(int number, String author, String note, long publishedAt, Map<String, String> files) {}

    /** A published policy to read. */
    public record Policy(
            String name, String title, String scope, List<String> sentences, List<Fact> facts, int people) {}

    /** An attempt in a list. */
    public record AttemptRow(
            String reference,
            String state,
            String action,
            UUID person,
            String personName,
            String policy,
            String cause,
            long createdAt,
            Long endedAt) {}

    /** One attempt with everything that happened. */
    public record AttemptDetail(AttemptRow attempt, String reason, List<Delivery> deliveries, List<Event> timeline) {}

    /** One delivery with its result in words and raw. */
    public record Delivery(
            UUID id,
            String directory,
            String login,
            String state,
            int epoch,
            String steward,
            String cause,
            String whatToDo,
            String detail,
            String server,
            String versionBefore,
            String versionAfter,
            String bind,
            Map<String, Long> phases) {}

    /** One event; {@code seq} is null until it is sealed. */
    public record Event(
            Long seq,
            UUID id,
            long at,
            String kind,
            String reference,
            int ordinal,
            int revision,
            Map<String, Object> data,
            Map<String, String> personal,
            String sentence) {}

    /** What needs attention and how the last day went. */
    public record Today(
            int revision,
            int people,
            int covered,
            Map<String, Integer> outcomes,
            List<Attention> attention,
            long recordSize,
            Long recordSignedAt) {}

    /** Something to look at, with the page where to do it. */
    public record Attention(String severity, String text, String page) {}
}
