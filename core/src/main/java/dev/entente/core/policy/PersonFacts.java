package dev.entente.core.policy;

import dev.entente.core.scope.Subject;
import dev.entente.core.verify.Method;
import java.time.Instant;
import java.util.List;
import java.util.Set;

/**
 * What deciding needs to know about one person.
 *
 * @param subject what scopes need to know
 * @param accounts the person's accounts
 * @param enrolled methods that the person could use
 * @param behindPassword methods that reach the person only where one of their own passwords opens, such as a mailbox; see
 *     {@link Policy#lockedMailbox}
 * @param privileged whether one of the accounts is in a protected group; null if that is not known
 */
public record PersonFacts(
        Subject subject, List<Account> accounts, Set<Method> enrolled, Set<Method> behindPassword, Boolean privileged) {
    /**
     * One account.
     *
     * @param directory its directory's name
     * @param disabled whether the directory has it switched off
     * @param lastSignIn as the directory tells it; null if it does not
     */
    public record Account(String directory, String login, boolean disabled, Instant lastSignIn) {}

    public PersonFacts {
        accounts = List.copyOf(accounts);
        enrolled = Method.set(enrolled);
        behindPassword = Method.set(behindPassword);
    }

    /** Of somebody who is reached independently of passwords. */
    public PersonFacts(Subject subject, List<Account> accounts, Set<Method> enrolled, Boolean privileged) {
        this(subject, accounts, enrolled, Set.of(), privileged);
    }
}
