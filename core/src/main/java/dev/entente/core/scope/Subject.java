package dev.entente.core.scope;

import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;

/**
 * What scopes need to know about one person.
 *
 * @param id stays the same for as long as the person is known
 * @param groups distinguished names of the groups that list one of the person's accounts as a member
 * @param places distinguished names of the accounts
 * @param logins names to sign in with, in lower case
 * @param attributes values of all accounts, by name in lower case
 */
public record Subject(
        UUID id, Set<String> groups, List<String> places, Set<String> logins, Map<String, Set<String>> attributes) {
    public Subject {
        groups = Set.copyOf(groups);
        places = List.copyOf(places);
        logins = Set.copyOf(logins);
        attributes = Map.copyOf(attributes);
    }

    /** Values of an attribute, whatever the case of its name. */
    public Collection<String> values(String attribute) {
        return attributes.getOrDefault(attribute.toLowerCase(Locale.ROOT), Set.of());
    }

    /** Somebody who is in groups and of whom nothing else is known. */
    public static Subject inGroups(UUID id, Collection<String> groups) {
        return new Subject(id, Set.copyOf(groups), List.of(), Set.of(), new TreeMap<>());
    }
}
