package dev.entente.core.policy;

import dev.entente.core.scope.Expression;
import dev.entente.core.scope.Expression.InGroup;
import dev.entente.core.scope.Expression.InOu;
import dev.entente.core.scope.Expression.Named;
import dev.entente.core.scope.Expression.Where;
import dev.entente.core.scope.Scope;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/** What a configuration can name: what the directories have. A name that is not there would cover nobody, without a word. */
public interface Surroundings {
    /** Names of directories. */
    Collection<String> directories();

    /** Whether anybody has been read yet; before that nothing is said of what scopes name. */
    boolean read();

    /** Attributes that some directory is read for, as they are written. */
    Collection<String> attributes();

    /** Whether there is a group with this key, see {@link InGroup}. */
    boolean group(String key);

    /** Whether there is an OU with this key, see {@link InOu}, or a base of a directory. */
    boolean ou(String key);

    /** Whether somebody signs in with this name, in lower case. */
    boolean login(String name);

    /** Distinguished names of groups, to suggest one. */
    Collection<String> groups();

    /** Distinguished names of OUs, to suggest one. */
    Collection<String> ous();

    /** Some names to sign in with that are like this one. */
    Collection<String> loginsLike(String name);

    /** Knows directories alone. */
    static Surroundings ofDirectories(Collection<String> names) {
        return new Surroundings() {
            @Override
            public Collection<String> directories() {
                return names;
            }

            @Override
            public boolean read() {
                return false;
            }

            @Override
            public Collection<String> attributes() {
                return List.of();
            }

            @Override
            public boolean group(String key) {
                return true;
            }

            @Override
            public boolean ou(String key) {
                return true;
            }

            @Override
            public boolean login(String name) {
                return true;
            }

            @Override
            public Collection<String> groups() {
                return List.of();
            }

            @Override
            public Collection<String> ous() {
                return List.of();
            }

            @Override
            public Collection<String> loginsLike(String name) {
                return List.of();
            }
        };
    }

    /** What is wrong with names in one part of a scope, a sentence part each; empty if all of them are there. */
    default List<String> missing(Expression leaf) {
        var missing = new ArrayList<String>();
        if (!read()) {
            return missing;
        }
        if (leaf instanceof Where where && !reads(where.attribute())) {
            missing.add("no directory is read for the attribute \"" + where.attribute() + "\""
                    + Nearest.suggestion(where.attribute(), attributes())
                    + "; to have it read: entente directory change NAME --attributes");
        } else if (leaf instanceof InGroup in && !group(in.key())) {
            missing.add("there is no group \"" + in.group() + "\"" + Nearest.suggestion(in.group(), groups()));
        } else if (leaf instanceof InOu in && !ou(in.key())) {
            missing.add("there is no OU \"" + in.ou() + "\"" + Nearest.suggestion(in.ou(), ous()));
        } else if (leaf instanceof Named named) {
            named.logins().stream()
                    .filter(l -> !login(l.toLowerCase(Locale.ROOT)))
                    .forEach(l ->
                            missing.add("nobody signs in as \"" + l + "\"" + Nearest.suggestion(l, loginsLike(l))));
        }
        return missing;
    }

    private boolean reads(String attribute) {
        return attributes().stream().anyMatch(attribute::equalsIgnoreCase);
    }

    /** The scopes with what cannot be known marked as such. A name to sign in with that is gone is nobody's: that is known. */
    default Map<String, Scope> marked(Map<String, Scope> scopes) {
        var marked = new LinkedHashMap<String, Scope>();
        scopes.forEach((name, scope) -> marked.put(
                name,
                scope.with(leaf -> unknowable(leaf)
                        .<Expression>map(why -> new Expression.Unknowable(leaf, why))
                        .orElse(leaf))));
        return marked;
    }

    private Optional<String> unknowable(Expression leaf) {
        if (!read()) {
            return Optional.empty();
        }
        if (leaf instanceof Where where && !reads(where.attribute())) {
            return Optional.of("no directory is read for " + where.attribute());
        }
        if (leaf instanceof InGroup in && !group(in.key())) {
            return Optional.of("there is no such group");
        }
        if (leaf instanceof InOu in && !ou(in.key())) {
            return Optional.of("there is no such OU");
        }
        return Optional.empty();
    }
}
