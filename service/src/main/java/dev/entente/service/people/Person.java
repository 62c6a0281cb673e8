package dev.entente.service.people;

import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Method;
import dev.entente.wire.PeopleApi;
import java.time.Instant;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.UUID;

/**
 * One person with all accounts.
 *
 * @param number stays the person's own, for sets of people
 */
public record Person(
        UUID id,
        String name,
        String correlation,
        String department,
        List<Account> accounts,
        Set<Method> enrolled,
        int number) {
    /**
     * One account.
     *
     * @param mail encrypted, see {@link Addresses}; null if the directory has none
     * @param mailDomains as {@link Addresses#domains}; null where they are not known
     * @param mailboxes domains whose mailboxes open with passwords of the account's directory
     * @param phone encrypted, as E.164; null if the directory has none that can be dialled
     * @param callsOnly whether the telephone takes no text messages
     */
    public record Account(
            UUID id,
            UUID directoryId,
            String directory,
            String directoryTitle,
            String login,
            String dn,
            String displayName,
            boolean disabled,
            boolean locked,
            byte[] mail,
            String mailDomains,
            List<String> mailboxes,
            byte[] phone,
            boolean callsOnly,
            List<String> groups,
            int trust,
            boolean quarantined,
            State state,
            Map<String, List<String>> attributes,
            List<String> logins) {
        /** How the directory lets its person be reached. */
        Set<Channel> reach() {
            return reach(mail != null, phone != null, callsOnly);
        }

        static Set<Channel> reach(boolean mail, boolean phone, boolean callsOnly) {
            var reach = EnumSet.noneOf(Channel.class);
            if (mail) {
                reach.add(Channel.MAIL);
            }
            if (phone) {
                reach.add(Channel.VOICE);
                if (!callsOnly) {
                    reach.add(Channel.TEXT);
                }
            }
            return reach;
        }
    }

    /**
     * What else a directory says about an account; null where it does not.
     *
     * @param changedElsewhereAt when others set its password, so that it fell out of step with the person's other accounts
     */
    public record State(
            boolean mustChange,
            Instant endsAt,
            Instant lastSignIn,
            Instant passwordSetAt,
            Instant passwordEndsAt,
            Instant changedElsewhereAt,
            String manager,
            String rules) {}

    /** Groups that list one of the accounts, by distinguished name. */
    public Set<String> groups() {
        var groups = new HashSet<String>();
        accounts.stream().filter(a -> !a.quarantined()).forEach(a -> groups.addAll(a.groups()));
        return groups;
    }

    /** What the directories say, names in lower case. */
    public Map<String, Set<String>> attributes() {
        var attributes = new HashMap<String, Set<String>>();
        accounts.stream()
                .filter(a -> !a.quarantined())
                .forEach(account -> account.attributes()
                        .forEach((name, values) -> attributes
                                .computeIfAbsent(name.toLowerCase(Locale.ROOT), n -> new LinkedHashSet<>())
                                .addAll(values)));
        return attributes;
    }

    /** What others may know the person by: names, sign-in names, and what the directories say of how they are reached. */
    public List<String> known() {
        var known = new ArrayList<String>();
        known.add(name);
        accounts.forEach(account -> {
            known.add(account.login());
            known.add(account.displayName());
            known.addAll(account.logins());
        });
        for (var attribute : List.of("givenname", "sn", "cn", "mail", "department", "employeeid", "employeenumber")) {
            known.addAll(attributes().getOrDefault(attribute, Set.of()));
        }
        return known;
    }

    /** The first account's login name, to name the person by. */
    public String login() {
        return accounts.get(0).login();
    }

    /** For the list and the single page. */
    public PeopleApi.PersonRow row() {
        return new PeopleApi.PersonRow(id, name, department, shownAccounts());
    }

    List<PeopleApi.Account> shownAccounts() {
        return accounts.stream()
                .map(a -> new PeopleApi.Account(
                        a.id(),
                        a.directory(),
                        a.login(),
                        a.dn(),
                        a.disabled(),
                        a.locked(),
                        a.mail() != null,
                        a.quarantined(),
                        a.state().mustChange(),
                        a.state().endsAt(),
                        a.state().lastSignIn(),
                        a.state().passwordSetAt(),
                        a.state().passwordEndsAt(),
                        accounts.size() > 1 ? a.state().changedElsewhereAt() : null,
                        a.state().manager(),
                        a.state().rules()))
                .toList();
    }
}
