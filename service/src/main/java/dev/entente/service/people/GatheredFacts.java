package dev.entente.service.people;

import dev.entente.core.policy.PersonFacts;
import dev.entente.core.scope.Subject;
import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Method;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;

/** What deciding needs of one person, put together from their accounts; those in quarantine are not to be added. */
final class GatheredFacts {
    final UUID id;
    private final Set<Method> enrolled;
    private final List<PersonFacts.Account> accounts = new ArrayList<>();
    private final List<String> places = new ArrayList<>();
    private final Set<String> logins = new HashSet<>();
    private final Map<String, Set<String>> attributes = new HashMap<>();
    private int trust = Integer.MAX_VALUE;
    private final Set<Channel> reach = EnumSet.noneOf(Channel.class);
    /** Domains of addresses in the most trusted directory; nothing where one is not known. */
    private final Set<String> domains = new HashSet<>();
    /** Domains whose mailboxes open with a password of any of the accounts. */
    private final Set<String> behind = new HashSet<>();

    GatheredFacts(UUID id, Set<Method> enrolled) {
        this.id = id;
        this.enrolled = enrolled;
    }

    /**
     * What deciding needs to know of mailboxes.
     *
     * @param domains of the account's addresses
     * @param opened domains whose mailboxes open with passwords of the account's directory
     */
    record Mailboxes(List<String> domains, List<String> opened) {
        /** @param stored as {@link Addresses#domains} makes it; null where nothing is known */
        static Mailboxes of(String stored, List<String> opened) {
            return new Mailboxes(stored == null ? List.of("") : List.of(stored.split(" ")), opened);
        }
    }

    /** Of the most trusted directories that know the person, one has to know where they are reached. */
    void add(
            String directory,
            int directoryTrust,
            String login,
            String dn,
            boolean disabled,
            Set<Channel> channels,
            Mailboxes mailboxes,
            Instant lastSignIn,
            Map<String, List<String>> said,
            Collection<String> names) {
        accounts.add(new PersonFacts.Account(directory, login, disabled, lastSignIn));
        places.add(dn);
        logins.addAll(names);
        behind.addAll(mailboxes.opened());
        if (directoryTrust < trust) {
            trust = directoryTrust;
            reach.clear();
            domains.clear();
        }
        if (directoryTrust == trust) {
            reach.addAll(channels);
            if (channels.contains(Channel.MAIL)) {
                domains.addAll(mailboxes.domains());
            }
        }
        said.forEach((name, values) -> attributes
                .computeIfAbsent(name.toLowerCase(Locale.ROOT), n -> new LinkedHashSet<>())
                .addAll(values));
    }

    PersonFacts facts(Set<String> groups, Boolean privileged) {
        var methods = new TreeSet<Method>();
        methods.addAll(enrolled);
        // The staff can vouch for everybody.
        methods.addAll(Method.from(Method.Source.STAFF));
        var locked = reach.contains(Channel.MAIL) && behind.containsAll(domains);
        reach.stream()
                .filter(channel -> channel != Channel.MAIL || !locked)
                .forEach(channel -> methods.addAll(Method.by(channel)));
        return new PersonFacts(
                new Subject(id, groups, places, logins, attributes),
                accounts,
                methods,
                locked ? Method.by(Channel.MAIL) : Set.of(),
                privileged);
    }
}
