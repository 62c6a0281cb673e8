package dev.entente.service.people;

import dev.entente.core.verify.Channel;
import dev.entente.service.people.Person.Account;
import dev.entente.service.platform.KeyRing;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;

/** Where people are reached. Stored encrypted, each bound to its account. */
@Component
public class Addresses {
    /** Of one account; a directory that names more is believed so far. */
    static final int MOST = 5;

    private final KeyRing keys;

    Addresses(KeyRing keys) {
        this.keys = keys;
    }

    /** Where news goes: to every mailbox that the person opens whatever becomes of their passwords, or if there is none, to the others. */
    public List<String> news(Person person) {
        var open = all(person, Channel.MAIL, false);
        return open.isEmpty() ? all(person, Channel.MAIL, true) : open;
    }

    /** The mailbox that one message goes to which is no news: the first of those. */
    public Optional<String> mail(Person person) {
        return news(person).stream().findFirst();
    }

    /** Where codes go unless the person chose: the first of {@link #all}. */
    public Optional<String> of(Person person, Channel channel, boolean locked) {
        return all(person, channel, locked).stream().findFirst();
    }

    /**
     * Everywhere that codes could go: to what the most trusted of the directories says in which the person has any account. What a
     * less trusted one says does not recover a more trusted account.
     *
     * @param locked whether mailboxes count that a password of the person's own accounts opens
     * @return e-mail addresses, or one number as E.164, with {@code ;ext=} where it has an extension (RFC 3966)
     */
    public List<String> all(Person person, Channel channel, boolean locked) {
        var accounts = person.accounts().stream().filter(a -> !a.quarantined()).toList();
        var most = accounts.stream().mapToInt(Account::trust).min().orElse(0);
        var trusted =
                accounts.stream().filter(a -> a.trust() == most && a.reach().contains(channel));
        if (channel != Channel.MAIL) {
            return trusted.findFirst()
                    .map(a -> List.of(keys.decrypt(context(channel, a.id()), a.phone())))
                    .orElse(List.of());
        }
        var behind = new HashSet<String>();
        accounts.forEach(a -> behind.addAll(a.mailboxes()));
        var found = new ArrayList<String>();
        trusted.forEach(a -> decryptedMail(a.id(), a.mail()).stream()
                // As when deciding: of what was read before domains were kept, nothing is known to be locked.
                .filter(address -> locked || a.mailDomains() == null || !behind.contains(domain(address)))
                .filter(address -> !found.contains(address))
                .forEach(found::add));
        return found;
    }

    /** The part after the @, in lower case; empty where there is none. */
    static String domain(String address) {
        var at = address.lastIndexOf('@');
        return at < 0 ? "" : address.substring(at + 1).strip().toLowerCase(Locale.ROOT);
    }

    /** Addresses as they are stored: together, a line each. */
    byte[] encryptedMail(UUID account, List<String> addresses) {
        return keys.encrypt(context(Channel.MAIL, account), String.join("\n", addresses));
    }

    /** Addresses that were stored. */
    List<String> decryptedMail(UUID account, byte[] stored) {
        return keys.decrypt(context(Channel.MAIL, account), stored).lines().toList();
    }

    /** Their domains as they are stored, so that deciding about everybody opens no address. */
    static String domains(List<String> addresses) {
        return addresses.stream().map(Addresses::domain).collect(Collectors.joining(" "));
    }

    /** A number as it is stored. */
    byte[] encryptedPhone(UUID account, String number) {
        return keys.encrypt(context(Channel.VOICE, account), number);
    }

    private static String context(Channel channel, UUID account) {
        return (channel == Channel.MAIL ? "mail" : "phone") + " of account " + account + " v1";
    }
}
