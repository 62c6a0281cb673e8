package dev.entente.wire;

import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.UUID;

/** People, their accounts and methods, over the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class PeopleApi {
    private PeopleApi() {}

    /** Accounts whose person is in doubt. */
    public record CorrelationCase(
            UUID id,
            String kind,
            String directory,
            UUID account,
            String login,
            @OrNull String dn,
            @OrNull UUID person,
            @OrNull String personName,
            @OrNull String before,
            @OrNull String after,
            @OrNull UUID otherPerson,
            @OrNull String otherName,
            Instant openedAt,
            String says) {}

    /** {@code join} takes the account to the person that its attribute names, {@code keep-apart} leaves it. */
    public record Settlement(
            @OneOf(named = {"join", "keep-apart"}) String decision) {}

    /** A person in a list. */
    public record PersonRow(UUID id, String name, @OrNull String department, List<Account> accounts) {}

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
            @OrNull String login,
            @OrNull String dn,
            boolean disabled,
            boolean locked,
            boolean hasMail,
            boolean quarantined,
            boolean mustChange,
            @OrNull Instant endsAt,
            @OrNull Instant lastSignIn,
            @OrNull Instant passwordSetAt,
            @OrNull Instant passwordEndsAt,
            @OrNull Instant changedElsewhereAt,
            @OrNull String manager,
            @OrNull String rules) {}

    /** One person. */
    public record Person(
            UUID id,
            String name,
            @OrNull String correlation,
            @OrNull String department,
            List<Account> accounts,
            List<String> groups) {}

    /** One method of a person. */
    public record Enrolment(
            @OrNull UUID id,
            @MethodName String method,
            @OrNull String label,
            @OrNull Instant since,
            @OrNull Instant lastUsed,
            @OrNull Integer left) {}
}
