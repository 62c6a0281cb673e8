package dev.entente.service.people;

import dev.entente.service.people.Person.Account;
import dev.entente.service.platform.KeyRing;
import java.util.Optional;
import java.util.UUID;
import org.springframework.stereotype.Component;

/** Where people are written to. Stored encrypted, each bound to its account. */
@Component
public class Addresses {
    private final KeyRing keys;

    Addresses(KeyRing keys) {
        this.keys = keys;
    }

    /**
     * The address that codes go to: that of an account in the most trusted directory where the person has any account. What
     * a less trusted directory says does not recover a more trusted account.
     */
    public Optional<String> mail(Person person) {
        return mailAccount(person).map(a -> keys.decrypt(context(a.id()), a.mail()));
    }

    private static Optional<Account> mailAccount(Person person) {
        var accounts = person.accounts().stream().filter(a -> !a.quarantined()).toList();
        var most = accounts.stream().mapToInt(Account::trust).min().orElse(0);
        return accounts.stream()
                .filter(a -> a.mail() != null && a.trust() == most)
                .findFirst();
    }

    /** An address as it is stored. */
    byte[] encrypt(UUID account, String address) {
        return keys.encrypt(context(account), address);
    }

    private static String context(UUID account) {
        return "mail of account " + account + " v1";
    }
}
