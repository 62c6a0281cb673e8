package dev.entente.service.policy;

import dev.entente.core.policy.Comparison;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.ConfigurationProblem;
import dev.entente.core.policy.ConfigurationReader;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.people.People;
import dev.entente.service.platform.Problem;
import dev.entente.wire.AdminApi;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Changes before they are published. */
@Component
@Transactional
class Drafts {
    private static final int LONGEST_NOTE = 500;

    private final Session database;
    private final Configurations configurations;
    private final People people;
    private final EventLog events;
    private final InstantSource clock;

    Drafts(Session database, Configurations configurations, People people, EventLog events, InstantSource clock) {
        this.database = database;
        this.configurations = configurations;
        this.people = people;
        this.events = events;
        this.clock = clock;
    }

    AdminApi.Draft start(String name, String author) {
        var row = new DraftRow();
        row.id = UUID.randomUUID();
        row.name = name == null || name.isBlank() ? "draft of " + author : bounded(name);
        var base = configurations.currentRow();
        row.baseRevision = base.map(r -> r.number).orElse(0);
        row.files = new TreeMap<>(base.map(r -> r.files).orElse(Map.of()));
        row.author = author;
        row.changedAt = clock.instant();
        database.persist(row);
        database.flush();
        return shown(row);
    }

    List<AdminApi.Draft> list() {
        return database.createQuery("FROM DraftRow ORDER BY changedAt DESC", DraftRow.class)
                .getResultStream()
                .map(this::shown)
                .toList();
    }

    AdminApi.Draft get(UUID id) {
        return shown(row(id));
    }

    /** @param expected the version that was read before, or null to overwrite whatever is there */
    AdminApi.Draft load(UUID id, Map<String, String> files, Integer expected, String author) {
        var row = row(id);
        if (expected != null && expected != row.version) {
            throw Problem.of(
                    HttpStatus.PRECONDITION_FAILED,
                    "changed-meanwhile",
                    "Somebody else changed this draft meanwhile. Read it again, then repeat your change.");
        }
        if (files == null || files.size() > ConfigurationReader.MAX_FILES) {
            throw Problem.invalid("A draft holds at most " + ConfigurationReader.MAX_FILES + " files.");
        }
        row.files = new TreeMap<>(files);
        row.author = author;
        row.changedAt = clock.instant();
        database.flush();
        return shown(row);
    }

    AdminApi.Comparison compare(UUID id) {
        var row = row(id);
        var before = configurations.currentRow();
        var after = valid(row);
        var current = configurations.current();
        var comparison = Comparison.of(current, before.map(r -> r.files).orElse(Map.of()), after, row.files);
        var everybody = people.everybody();
        return new AdminApi.Comparison(
                comparison.sentences(),
                comparison.diff(),
                everybody.size() - configurations.coverage(current, everybody).getOrDefault("", 0),
                everybody.size() - configurations.coverage(after, everybody).getOrDefault("", 0));
    }

    AdminApi.Revision publish(UUID id, String note, String author) {
        var row = row(id);
        valid(row);
        // One publication at a time, so that numbers follow each other and no change is lost.
        database.createNativeQuery("SELECT cast(pg_advisory_xact_lock(4711) AS text)", String.class)
                .getSingleResult();
        var current = configurations.currentRow().map(r -> r.number).orElse(0);
        if (row.baseRevision != current) {
            throw Problem.conflict("Revision " + current + " was published after this draft was started from revision "
                    + row.baseRevision + ". Start a new draft from it and load your files again.");
        }
        if (row.files.equals(configurations.currentRow().map(r -> r.files).orElse(Map.of()))) {
            throw Problem.conflict("This draft changes nothing.");
        }
        var revision = new RevisionRow();
        revision.number = current + 1;
        revision.files = new TreeMap<>(row.files);
        revision.author = author;
        revision.note = note == null ? "" : bounded(note);
        revision.publishedAt = clock.instant();
        database.persist(revision);
        database.remove(row);
        events.write(NewEvent.administration("configuration.published", author)
                .with("revision", revision.number)
                .with("files", revision.files.size())
                .at(revision.number));
        return shown(revision, true);
    }

    void discard(UUID id) {
        database.remove(row(id));
    }

    List<AdminApi.Revision> revisions() {
        return database.createQuery("FROM RevisionRow ORDER BY number DESC", RevisionRow.class)
                .setMaxResults(200)
                .getResultStream()
                .map(r -> shown(r, false))
                .toList();
    }

    AdminApi.Revision revision(int number) {
        var row = database.find(RevisionRow.class, number);
        if (row == null) {
            throw Problem.missing("revision " + number);
        }
        return shown(row, true);
    }

    private Configuration valid(DraftRow row) {
        var result = configurations.check(row.files);
        return result.configuration()
                .orElseThrow(() -> Problem.of(
                        HttpStatus.UNPROCESSABLE_CONTENT,
                        "draft-invalid",
                        "The draft has " + result.problems().size() + " problems, the first: "
                                + result.problems().get(0),
                        Map.of(
                                "problems",
                                result.problems().stream().map(Drafts::shown).toList())));
    }

    private DraftRow row(UUID id) {
        var row = database.find(DraftRow.class, id);
        if (row == null) {
            throw Problem.missing("draft with this id; it may have been published or discarded");
        }
        return row;
    }

    private AdminApi.Draft shown(DraftRow row) {
        return new AdminApi.Draft(
                row.id,
                row.name,
                row.baseRevision,
                row.version,
                row.author,
                row.changedAt.toEpochMilli(),
                row.files,
                configurations.check(row.files).problems().stream()
                        .map(Drafts::shown)
                        .toList());
    }

    private static AdminApi.Problem shown(ConfigurationProblem problem) {
        return new AdminApi.Problem(
                problem.file(), problem.line(), problem.column(), problem.pointer(), problem.message());
    }

    private static AdminApi.Revision shown(RevisionRow row, boolean files) {
        return new AdminApi.Revision(
                row.number, row.author, row.note, row.publishedAt.toEpochMilli(), files ? row.files : Map.of());
    }

    private static String bounded(String text) {
        return text.strip().substring(0, Math.min(LONGEST_NOTE, text.strip().length()));
    }
}
