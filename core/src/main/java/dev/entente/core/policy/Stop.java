package dev.entente.core.policy;

import dev.entente.core.verify.Method;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/**
 * Something that an administrator has stopped, at once and without a draft. A stop only narrows: with one more of them nobody
 * can do anything that they could not do before.
 *
 * @param name which action, method, directory, policy or network; empty for everything
 * @param reason for administrators; people are told only that it is paused
 * @param until when it ends by itself; null for not by itself
 */
public record Stop(Kind kind, String name, String reason, Instant until) {

    /** What kind of thing is stopped. */
    public enum Kind {
        EVERYTHING,
        ACTION,
        METHOD,
        DIRECTORY,
        POLICY,
        /** Whoever comes from an address range. */
        NETWORK;

        /** The name in files and interfaces. */
        public String label() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** What is typed: {@code everything}, or a kind and a name such as {@code action:reset}; empty if it is neither. */
    public static Optional<Stop> of(String what, String reason, Instant until) {
        if (what.equals(Kind.EVERYTHING.label())) {
            return Optional.of(new Stop(Kind.EVERYTHING, "", reason, until));
        }
        var colon = what.indexOf(':');
        if (colon < 1 || colon == what.length() - 1) {
            return Optional.empty();
        }
        return Arrays.stream(Kind.values())
                .filter(kind -> kind != Kind.EVERYTHING && kind.label().equals(what.substring(0, colon)))
                .findFirst()
                .map(kind -> new Stop(kind, what.substring(colon + 1), reason, until))
                .filter(stop ->
                        stop.kind != Kind.NETWORK || Network.range(stop.name).isPresent());
    }

    /** As it is typed. */
    public String what() {
        return kind == Kind.EVERYTHING ? kind.label() : kind.label() + ":" + name;
    }

    /** Whether nobody may do this now, whoever they are. */
    public boolean stops(Action action) {
        return kind == Kind.EVERYTHING || kind == Kind.ACTION && name.equals(action.label());
    }

    /** Whether a proof of this kind is asked of nobody now. */
    public boolean stops(Method method) {
        return kind == Kind.METHOD && name.equals(method.label());
    }

    /** Whether nobody may start anything from this address now. */
    public boolean stopsNetwork(String address) {
        return kind == Kind.NETWORK && new Network(name, name, List.of(name)).holds(address);
    }

    /** Whether this policy lets nobody do anything now. */
    public boolean stopsPolicy(String policy) {
        return kind == Kind.POLICY && name.equals(policy);
    }
}
