package dev.entente.wire;

import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.UUID;

/** Administrators, how they sign in, and their sessions, over the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class AccessApi {
    /** The role that may do everything. */
    public static final String ADMINISTRATOR = "administrator";

    /** The role of the help desk. */
    public static final String STAFF = "staff";

    private AccessApi() {}

    /**
     * Sign-in with name and password.
     *
     * @param code of the second factor, where there is one
     * @param device what the command line was given with its last token, to be known by; a browser has a cookie for it
     */
    public record SignIn(
            String login,
            String password,
            @OrNull String code,
            @OrNull String device) {}

    /** The first administrator, made with the one-time token of the first start. */
    public record FirstAdministrator(String token, String login, String name, String password) {}

    /**
     * An administrator, or somebody of the help desk.
     *
     * @param role {@code administrator}, or {@code staff} for somebody who can do nothing but help people
     * @param scopes whose people staff help; empty for everybody
     * @param ownLogin by which they sign in to their own account in the directories; null if that is not known
     * @param secondFactor whether a second factor is asked for
     * @param suspendedAt null if not suspended
     * @param lastSeen when they were there last; null if never, or not lately
     */
    public record Administrator(
            String login,
            String name,
            @OneOf(named = {ADMINISTRATOR, STAFF}) String role,
            List<String> scopes,
            @OrNull String ownLogin,
            boolean secondFactor,
            @OrNull Instant suspendedAt,
            @OrNull Instant lastSeen) {}

    /**
     * Who is signed in.
     *
     * @param role {@code administrator} or {@code staff}
     * @param setUpFirst whether a second factor has to be set up before anything else
     */
    public record Session(
            String login,
            String name,
            @OneOf(named = {ADMINISTRATOR, STAFF}) String role,
            boolean secondFactor,
            boolean setUpFirst) {}

    /**
     * A bearer token for the command line; shown once.
     *
     * @param device what to show at the next sign-in, to be known by
     * @param secondFactor whether a second factor was asked for
     */
    public record Token(
            String token, Instant expiresAt, @OrNull String device, boolean secondFactor) {}

    /**
     * One of one's own sessions.
     *
     * @param kind {@code console} or {@code command-line}
     * @param here whether this call belongs to it
     */
    public record OwnSession(
            UUID id,
            @OneOf(named = {"console", "command-line"}) String kind,
            @OrNull String network,
            @OrNull String client,
            Instant madeAt,
            @OrNull Instant lastUsedAt,
            Instant endsAt,
            boolean here) {}

    /** A new password of one's own, with the present one. */
    public record PasswordChange(String before, String password) {}

    /** Shows that it is oneself: by a code, or by the password where there is no second factor. */
    public record Confirmation(@OrNull String code, @OrNull String password) {}

    /** A secret for an authenticator app, in groups to type by hand and as the square image holds it. */
    public record OfferedSecondFactor(String secret, String uri) {}

    /** Recovery codes, shown this once. */
    public record SecondFactorSet(List<String> recoveryCodes) {}

    /**
     * Another administrator, or somebody of the help desk.
     *
     * @param role {@code administrator} or {@code staff}; null for an administrator
     * @param scopes whose people staff help; null or empty for everybody
     * @param ownLogin by which they sign in to their own account in the directories; staff need one, so that nobody confirms
     *     themselves
     */
    public record NewAdministrator(
            String login,
            String name,
            String password,
            @OrNull @OneOf(named = {ADMINISTRATOR, STAFF}) String role,
            @OrNull List<String> scopes,
            @OrNull String ownLogin) {
        /** An administrator. */
        public NewAdministrator(String login, String name, String password) {
            this(login, name, password, null, null, null);
        }
    }
}
