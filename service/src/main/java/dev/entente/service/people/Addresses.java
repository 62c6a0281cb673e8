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

    /** The address that news goes to: if there is one, a mailbox that the person opens whatever becomes of their passwords. */
    public Optional<String> mail(Person person) {
        return of(person, Channel.MAIL, false).or(() -> of(person, Channel.MAIL, true));
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
        trusted.forEach(a -> keys.decrypt(context(Channel.MAIL, a.id()), a.mail())
                .lines()
                // As when deciding: of what was read before domains were kept, nothing is known to be locked.
                .filter(address -> locked || a.mailDomains() == null || !behind.contains(domain(address)))
                .filter(address -> !found.contains(address))
                .forEach(found::add));
        return found;
    }

    /** What somebody who knows an address or a number recognises it by, and nobody else: {@code a…@s….test}. */
    public static String masked(String address) {
        if (address.startsWith("+")) {
            var number = address.replaceAll(";.*", "");
            return number.substring(0, 3) + "…" + number.substring(number.length() - 3);
        }
        var at = address.lastIndexOf('@');
        var dot = address.lastIndexOf('.');
        return at < 1 || dot < at
                ? "…"
                : first(address) + "…@" + first(address.substring(at + 1)) + "…" + address.substring(dot);
    }

    private static String first(String text) {
        return text.substring(0, text.offsetByCodePoints(0, 1));
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
