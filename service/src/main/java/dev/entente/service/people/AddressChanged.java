package dev.entente.service.people;

import java.util.List;
import java.util.UUID;

/**
 * A directory has another e-mail address for somebody; published in the transaction that reads it.
 *
 * @param told addresses that are gone or new
 * @param now hints of those that there are now
 */
public record AddressChanged(UUID person, List<String> told, String now) {
    /** Shows no address. */
    @Override
    public String toString() {
        return "another address of " + person;
    }
}
