package dev.entente.service.policy;

import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.ConfigurationReader;
import dev.entente.service.platform.Problem;
import dev.entente.wire.DraftApi;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Changes before they are published. */
@Component
@Transactional
class Drafts {
    private static final int LONGEST_NOTE = 500;

    private final Session database;
    private final Configurations configurations;
    private final CheckedFiles files;
    private final Revisions revisions;
    private final InstantSource clock;

    Drafts(
            Session database,
            Configurations configurations,
            CheckedFiles files,
            Revisions revisions,
            InstantSource clock) {
        this.database = database;
        this.configurations = configurations;
        this.files = files;
        this.revisions = revisions;
        this.clock = clock;
    }

    DraftApi.Draft start(String name, String author) {
        var row = new DraftRow();
        row.id = UUID.randomUUID();
        row.name = name == null || name.isBlank() ? "draft of " + author : bounded(name);
        var base = configurations.currentRow();
        row.baseRevision = base.map(r -> r.number).orElse(0);
        row.files = new TreeMap<>(base.map(r -> r.files).orElse(Map.of()));
        row.authors = List.of();
        row.writtenBy(author, clock.instant());
        database.persist(row);
        database.flush();
        return shown(row);
    }

    List<DraftApi.Draft> list() {
        return database.createQuery("FROM DraftRow ORDER BY changedAt DESC", DraftRow.class)
                .getResultStream()
                .map(this::shown)
                .toList();
    }

    DraftApi.Draft get(UUID id) {
        return shown(row(id));
    }

    /** @param expected the version that was read before, or null to overwrite whatever is there */
    DraftApi.Draft load(UUID id, Map<String, String> files, Integer expected, String author) {
        var row = row(id);
        if (expected != null && expected != row.version) {
            throw Problem.of("changed-meanwhile");
        }
        if (files == null || files.size() > ConfigurationReader.MAX_FILES) {
            throw Problem.of("too-many-files").with("maxFiles", ConfigurationReader.MAX_FILES);
        }
        row.files = new TreeMap<>(files);
        row.writtenBy(author, clock.instant());
        database.flush();
        return shown(row);
    }

    /** What a draft would put in force. */
    Configuration configuration(UUID id) {
        return files.valid(row(id).files);
    }

    /** Brings in what was published since the draft was started, file by file. */
    DraftApi.Merge merge(UUID id, String author) {
        var row = row(id);
        var current = configurations.currentRow().orElseThrow(() -> Problem.of("nothing-published"));
        var base = row.baseRevision == 0 ? Map.<String, String>of() : revisions.row(row.baseRevision).files;
        var merged = new TreeMap<>(row.files);
        var taken = new ArrayList<String>();
        var conflicts = new ArrayList<String>();
        var paths = new TreeSet<>(base.keySet());
        paths.addAll(current.files.keySet());
        paths.addAll(row.files.keySet());
        for (var path : paths) {
            var was = base.get(path);
            var theirs = current.files.get(path);
            var ours = row.files.get(path);
            if (Objects.equals(theirs, was) || Objects.equals(theirs, ours)) {
                continue;
            }
            if (!Objects.equals(ours, was)) {
                conflicts.add(path);
            } else {
                taken.add(path);
                if (theirs == null) {
                    merged.remove(path);
                } else {
                    merged.put(path, theirs);
                }
            }
        }
        row.files = merged;
        row.baseRevision = current.number;
        row.writtenBy(author, clock.instant());
        return new DraftApi.Merge(current.number, taken, conflicts);
    }

    void discard(UUID id) {
        database.remove(row(id));
    }

    /** @throws Problem 404 if there is none with this id */
    DraftRow row(UUID id) {
        var row = database.find(DraftRow.class, id);
        if (row == null) {
            throw Problem.of("draft-not-found");
        }
        return row;
    }

    private DraftApi.Draft shown(DraftRow row) {
        return new DraftApi.Draft(
                row.id,
                row.name,
                row.baseRevision,
                row.version,
                row.author,
                row.changedAt,
                row.files,
                files.problems(row.files));
    }

    /** A name or note, cut where it is too long. */
    static String bounded(String text) {
        return text.strip().substring(0, Math.min(LONGEST_NOTE, text.strip().length()));
    }
}
