package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Comparison;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.ConfigurationProblem;
import dev.entente.core.policy.ConfigurationReader;
import dev.entente.core.policy.Rehearsal;
import dev.entente.core.policy.Situations;
import dev.entente.core.policy.Survey;
import dev.entente.core.policy.Weakening;
import dev.entente.service.approval.Approvals;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.wire.AdminApi;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Stream;
import org.hibernate.Session;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Changes before they are published. */
@Component
@Transactional
class Drafts {
    private static final int LONGEST_NOTE = 500;

    private final Everybody everybody;
    private final ServiceSettings settings;
    private final Session database;
    private final Configurations configurations;
    private final EventLog events;
    private final InstantSource clock;
    private final Approvals approvals;

    Drafts(
            Session database,
            Configurations configurations,
            EventLog events,
            InstantSource clock,
            Everybody everybody,
            ServiceSettings settings,
            Approvals approvals) {
        this.database = database;
        this.configurations = configurations;
        this.events = events;
        this.clock = clock;
        this.everybody = everybody;
        this.settings = settings;
        this.approvals = approvals;
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
                    "Someone else changed this draft in the meantime. Reload it, then repeat your change.");
        }
        if (files == null || files.size() > ConfigurationReader.MAX_FILES) {
            throw Problem.invalid(
                    "too-many-files", "A draft can hold at most " + ConfigurationReader.MAX_FILES + " files.");
        }
        row.files = new TreeMap<>(files);
        row.author = author;
        row.changedAt = clock.instant();
        database.flush();
        return shown(row);
    }

    /** What a draft would put in force. */
    Configuration configuration(UUID id) {
        return valid(row(id).files);
    }

    AdminApi.Comparison compare(UUID id) {
        return compare(row(id).files);
    }

    /** What restoring a revision would change. */
    AdminApi.Comparison compare(int number) {
        return compare(revisionRow(number).files);
    }

    private AdminApi.Comparison compare(Map<String, String> files) {
        var before = configurations.currentRow().map(r -> r.files).orElse(Map.of());
        return compare(configurations.current(), before, valid(configurations.readable(files)), files);
    }

    /** What a revision changed: it beside the one before it. */
    AdminApi.Comparison changes(int number) {
        var files = revisionRow(number).files;
        return compare(
                configurations.revision(number - 1),
                number == 1 ? Map.of() : revisionRow(number - 1).files,
                configurations.revision(number),
                files);
    }

    private AdminApi.Comparison compare(
            Configuration before,
            Map<String, String> filesBefore,
            Configuration after,
            Map<String, String> filesAfter) {
        var comparison = Comparison.of(before, filesBefore, after, filesAfter);
        return new AdminApi.Comparison(
                comparison.sentences(),
                comparison.diff(),
                covered(before),
                covered(after),
                Weakening.of(before, after));
    }

    /** What is wrong with files, before they are put anywhere. */
    List<AdminApi.Problem> problems(Map<String, String> files) {
        if (files == null || files.size() > ConfigurationReader.MAX_FILES) {
            throw Problem.invalid(
                    "too-many-files", "A draft can hold at most " + ConfigurationReader.MAX_FILES + " files.");
        }
        var result = configurations.check(files);
        return Stream.concat(
                        result.problems().stream().map(p -> shown(p, "error")),
                        result.findings().stream().map(p -> shown(p, "warning")))
                .toList();
    }

    private int covered(Configuration configuration) {
        var crowd = everybody.now();
        var survey = new Survey(configuration, crowd, Action.RESET, configurations.now(null, null));
        return crowd.population().size() - survey.uncovered().getCardinality();
    }

    AdminApi.Revision publish(UUID id, AdminApi.Publication wanted, String author) {
        var row = row(id);
        valid(row.files);
        var current = alone(wanted);
        if (row.baseRevision != current) {
            throw Problem.conflict(
                    "draft-outdated",
                    "Revision " + current + " was published after this draft was started from revision "
                            + row.baseRevision + ". Merge it into the draft first, and look at the comparison again.");
        }
        var approvedBy = approved(row);
        losesWay(row.files, wanted);
        database.remove(row);
        return publish(current + 1, row.files, wanted.note(), author, approvedBy, "This draft changes nothing.");
    }

    private List<String> weaker(Map<String, String> files) {
        return Weakening.of(configurations.current(), valid(configurations.readable(files)));
    }

    /** What a draft makes weaker, and whether somebody else has to agree. */
    AdminApi.Approval approval(UUID id) {
        var row = row(id);
        var weaker = weaker(row.files);
        return new AdminApi.Approval(
                weaker,
                needed(weaker),
                row.submittedBy,
                row.approvedVersion != null && row.approvedVersion == row.version ? row.approvedBy : null);
    }

    private boolean needed(List<String> weaker) {
        return switch (approvals.askedFor()) {
            case "everything" -> true;
            case "weakening" -> !weaker.isEmpty();
            default -> false;
        };
    }

    AdminApi.Approval submit(UUID id, String author) {
        var row = row(id);
        valid(row.files);
        row.submittedBy = author;
        events.write(NewEvent.administration("draft.submitted", author).with("draft", row.name));
        return approval(id);
    }

    /** Somebody else than who wrote or submitted it agrees to a draft as it is now. */
    AdminApi.Approval approve(UUID id, String approver) {
        var row = row(id);
        valid(row.files);
        if (row.submittedBy == null) {
            throw Problem.conflict("draft-not-submitted", "This draft hasn't been submitted yet.");
        }
        if (approver.equals(row.author) || approver.equals(row.submittedBy)) {
            throw Problem.conflict(
                    "approval-by-another",
                    "You wrote or submitted this draft, so another administrator has to approve it.");
        }
        row.approvedBy = approver;
        database.flush();
        // Writing the approval makes a version of its own.
        row.approvedVersion = row.version + 1;
        database.flush();
        events.write(NewEvent.administration("draft.approved", approver).with("draft", row.name));
        return approval(id);
    }

    private String approved(DraftRow row) {
        var valid = row.approvedVersion != null && row.approvedVersion == row.version;
        if (!valid && needed(weaker(row.files))) {
            throw Problem.of(
                    HttpStatus.CONFLICT,
                    "approval-needed",
                    row.approvedBy != null
                            ? "The draft was changed after " + row.approvedBy + " approved it. Submit it again."
                            : "Another administrator has to approve this first. Submit the draft, and ask someone to approve"
                                    + " it.",
                    Map.of("weaker", weaker(row.files)));
        }
        return valid ? row.approvedBy : null;
    }

    /** Whoever publishes has to have seen how many people would lose a way in. */
    private void losesWay(Map<String, String> files, AdminApi.Publication wanted) {
        var crowd = everybody.now();
        var before = configurations.current();
        var after = valid(configurations.readable(files));
        var situations = configurations.situations(List.of(before, after), Action.RESET, null, null).stream()
                .map(Situations.Situation::circumstances)
                .toList();
        var people = new Rehearsal(
                        Survey.in(before, crowd, Action.RESET, situations),
                        Survey.in(after, crowd, Action.RESET, situations))
                .people(Rehearsal.Kind.LOSES_WAY)
                .getCardinality();
        if (people > settings.losesWayLimit() && (wanted.losesWay() == null || wanted.losesWay() != people)) {
            throw Problem.of(
                    HttpStatus.CONFLICT,
                    "people-lose-a-way",
                    people + (people == 1 ? " person" : " people")
                            + " can reset their password now and couldn't any more. Rehearse the change. If it's"
                            + " meant, publish it with that number.",
                    Map.of("losesWay", people));
        }
    }

    /** Brings in what was published since the draft was started, file by file. */
    AdminApi.Merge merge(UUID id, String author) {
        var row = row(id);
        var current = configurations
                .currentRow()
                .orElseThrow(() -> Problem.conflict(
                        "nothing-published", "Nothing is published yet, so there is nothing to merge."));
        var base = row.baseRevision == 0 ? Map.<String, String>of() : revisionRow(row.baseRevision).files;
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
        row.author = author;
        row.changedAt = clock.instant();
        return new AdminApi.Merge(current.number, taken, conflicts);
    }

    /** Makes what an older revision held the next one. What lies between stays in the history. */
    AdminApi.Revision restore(int number, AdminApi.Publication wanted, String author) {
        var row = revisionRow(number);
        // Something that it names may be gone by now: that is told on Today, and nobody gets in by it.
        valid(configurations.readable(row.files));
        var current = alone(wanted);
        losesWay(row.files, wanted);
        var note = wanted.note();
        var said = note == null || note.isBlank() ? "Back to revision " + number : note;
        if (!approvals.askedFor().equals("nothing") && !weaker(row.files).isEmpty()) {
            throw Problem.conflict(
                    "approval-needed",
                    "Going back makes something weaker, and another administrator has to approve that. Start a"
                            + " draft, load the revision's files, and submit it.");
        }
        return publish(
                current + 1, row.files, said, author, null, "Revision " + number + " holds what is in force already.");
    }

    /** A revision ends as it was agreed when it was published: nobody is asked again. */
    void expire(int revision, int backTo, String author) {
        var current = alone(new AdminApi.Publication(null, null, null, null, null));
        if (current != revision) {
            throw Problem.conflict(
                    "published-meanwhile",
                    "Revision " + current + " was published in the meantime, so revision " + revision
                            + " is no longer in force.");
        }
        publish(
                current + 1,
                revisionRow(backTo).files,
                "Revision " + revision + " ended as planned; back to revision " + backTo,
                author,
                null,
                "Revision " + backTo + " holds what is in force already.");
    }

    /** One publication at a time, so that numbers follow each other and no change is lost; the number in force. */
    private int alone(AdminApi.Publication wanted) {
        database.createNativeQuery("SELECT cast(pg_advisory_xact_lock(4711) AS text)", String.class)
                .getSingleResult();
        int current = configurations.currentRow().map(r -> r.number).orElse(0);
        if (wanted.after() != null && wanted.after() != current) {
            throw Problem.conflict(
                    "published-meanwhile",
                    "Revision " + current + " was published in the meantime. Check again what this would change.");
        }
        return current;
    }

    private AdminApi.Revision publish(
            int number, Map<String, String> files, String note, String author, String approvedBy, String unchanged) {
        if (files.equals(configurations.currentRow().map(r -> r.files).orElse(Map.of()))) {
            throw Problem.conflict("nothing-changed", unchanged);
        }
        var revision = new RevisionRow();
        revision.number = number;
        revision.files = new TreeMap<>(files);
        revision.author = author;
        revision.approvedBy = approvedBy;
        revision.note = note == null ? "" : bounded(note);
        revision.publishedAt = clock.instant();
        database.persist(revision);
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
        return shown(revisionRow(number), true);
    }

    private RevisionRow revisionRow(int number) {
        var row = database.find(RevisionRow.class, number);
        if (row == null) {
            throw Problem.missing("revision", String.valueOf(number));
        }
        return row;
    }

    private Configuration valid(Map<String, String> files) {
        return valid(configurations.check(files));
    }

    private static Configuration valid(ConfigurationReader.Result result) {
        return result.configuration()
                .orElseThrow(() -> Problem.of(
                        HttpStatus.UNPROCESSABLE_CONTENT,
                        "draft-invalid",
                        result.problems().size() + " problems in the files, the first: "
                                + result.problems().get(0),
                        Map.of(
                                "problems",
                                result.problems().stream()
                                        .map(p -> shown(p, "error"))
                                        .toList())));
    }

    private DraftRow row(UUID id) {
        var row = database.find(DraftRow.class, id);
        if (row == null) {
            throw Problem.missing("draft", "with this id. It may have been published or discarded");
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
                row.changedAt,
                row.files,
                problems(row.files));
    }

    static AdminApi.Problem shown(ConfigurationProblem problem, String severity) {
        return new AdminApi.Problem(
                problem.file(), problem.line(), problem.column(), problem.pointer(), problem.message(), severity);
    }

    private static AdminApi.Revision shown(RevisionRow row, boolean files) {
        return new AdminApi.Revision(
                row.number, row.author, row.approvedBy, row.note, row.publishedAt, files ? row.files : Map.of());
    }

    private static String bounded(String text) {
        return text.strip().substring(0, Math.min(LONGEST_NOTE, text.strip().length()));
    }
}
