package dev.entente.core.policy;

import java.util.List;
import java.util.Set;

/**
 * What deciding needs to know about one person.
 *
 * @param accounts the person's accounts
 * @param groups distinguished names of the groups that list one of them as a member
 * @param hasMail whether an address for codes is known
 */
public record PersonFacts(List<Account> accounts, Set<String> groups, boolean hasMail) {
    /**
     * One account.
     *
     * @param directory its directory's name
     * @param disabled whether the directory has it switched off
     */
    public record Account(String directory, String login, boolean disabled) {}

    public PersonFacts {
        accounts = List.copyOf(accounts);
        groups = Set.copyOf(groups);
    }
}
