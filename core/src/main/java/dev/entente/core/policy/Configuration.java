package dev.entente.core.policy;

import dev.entente.core.password.PasswordRules;
import dev.entente.core.scope.Scope;
import java.util.List;
import java.util.Map;

/**
 * One immutable state of everything that is published.
 *
 * @param revision its number, 0 for the empty state before the first publication
 * @param scopes by name
 * @param policies in order: the first whose scope covers a person decides
 * @param passwords rule sets by name
 */
public record Configuration(
        int revision, Map<String, Scope> scopes, List<Policy> policies, Map<String, PasswordRules> passwords) {
    /** Before anything is published: nobody may do anything. */
    public static final Configuration EMPTY = new Configuration(0, Map.of(), List.of(), Map.of());

    public Configuration {
        scopes = Map.copyOf(scopes);
        policies = List.copyOf(policies);
        passwords = Map.copyOf(passwords);
    }

    /** The same under another number. */
    public Configuration as(int number) {
        return new Configuration(number, scopes, policies, passwords);
    }
}
