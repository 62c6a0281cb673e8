package dev.entente.service.policy;

import dev.entente.core.policy.Surroundings;
import dev.entente.core.scope.GroupGraph;
import dev.entente.service.directory.Directories;
import dev.entente.service.people.DirectoryContents;
import java.util.Collection;
import java.util.HashSet;
import java.util.Set;

/** What the directories have, for the names in a configuration; each question is asked once. Not kept for long. */
final class DirectoryNames implements Surroundings {
    private final Directories directories;
    private final DirectoryContents contents;
    private Boolean read;
    private Set<String> attributes;
    private Collection<String> groups;
    private Set<String> groupKeys;
    private Collection<String> ous;
    private Set<String> ouKeys;

    DirectoryNames(Directories directories, DirectoryContents contents) {
        this.directories = directories;
        this.contents = contents;
    }

    @Override
    public Collection<String> directories() {
        return directories.all().stream().map(Directories.Served::name).toList();
    }

    @Override
    public boolean read() {
        if (read == null) {
            read = contents.read();
        }
        return read;
    }

    @Override
    public Collection<String> attributes() {
        if (attributes == null) {
            attributes = contents.attributesRead();
        }
        return attributes;
    }

    @Override
    public boolean group(String key) {
        if (groupKeys == null) {
            groupKeys = keys(groups());
        }
        return groupKeys.contains(key);
    }

    @Override
    public boolean ou(String key) {
        if (ouKeys == null) {
            ouKeys = keys(ous());
        }
        return ouKeys.contains(key);
    }

    private static Set<String> keys(Collection<String> names) {
        var keys = new HashSet<String>();
        names.forEach(name -> keys.add(GroupGraph.key(name)));
        return keys;
    }

    @Override
    public boolean login(String name) {
        return contents.loginKnown(name);
    }

    @Override
    public Collection<String> groups() {
        if (groups == null) {
            groups = contents.groupNames();
        }
        return groups;
    }

    @Override
    public Collection<String> ous() {
        if (ous == null) {
            ous = contents.ouNames();
        }
        return ous;
    }

    @Override
    public Collection<String> loginsLike(String name) {
        return contents.loginsLike(name);
    }
}
