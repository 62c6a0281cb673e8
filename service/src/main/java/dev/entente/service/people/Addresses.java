package dev.entente.service.people;

import dev.entente.core.verify.Channel;
import dev.entente.service.people.Person.Account;
import dev.entente.service.platform.KeyRing;
import java.util.Optional;
import java.util.UUID;
import org.springframework.stereotype.Component;

/** Where people are reached. Stored encrypted, each bound to its account. */
@Component
public class Addresses {
    private final KeyRing keys;

    Addresses(KeyRing keys) {
        this.keys = keys;
    }

    /** The address that mail goes to. */
    public Optional<String> mail(Person person) {
        return of(person, Channel.MAIL);
    }

    /**
     * Where codes go: that of an account in the most trusted directory where the person has any account. What a less trusted
     * directory says does not recover a more trusted account.
     *
     * @return an e-mail address, or a number as E.164, with {@code ;ext=} where it has an extension (RFC 3966)
     */
    public Optional<String> of(Person person, Channel channel) {
        var accounts = person.accounts().stream().filter(a -> !a.quarantined()).toList();
        var most = accounts.stream().mapToInt(Account::trust).min().orElse(0);
        return accounts.stream()
                .filter(a -> a.trust() == most && a.reach().contains(channel))
                .findFirst()
                .map(a -> keys.decrypt(context(channel, a.id()), channel == Channel.MAIL ? a.mail() : a.phone()));
    }

    /** An address as it is stored. */
    byte[] encryptedMail(UUID account, String address) {
        return keys.encrypt(context(Channel.MAIL, account), address);
    }

    /** A number as it is stored. */
    byte[] encryptedPhone(UUID account, String number) {
        return keys.encrypt(context(Channel.VOICE, account), number);
    }

    private static String context(Channel channel, UUID account) {
        return (channel == Channel.MAIL ? "mail" : "phone") + " of account " + account + " v1";
    }
}
