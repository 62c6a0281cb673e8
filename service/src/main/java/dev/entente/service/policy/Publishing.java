package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Rehearsal;
import dev.entente.core.policy.Situations;
import dev.entente.core.policy.Survey;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.wire.DraftApi;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Makes files the configuration in force: a draft, an older revision, or what was there before a revision that ends. */
@Component
@Transactional
class Publishing {
    private final Session database;
    private final Configurations configurations;
    private final Everybody everybody;
    private final CheckedFiles files;
    private final Drafts drafts;
    private final Revisions revisions;
    private final DraftApprovals approvals;
    private final EventLog events;
    private final ServiceSettings settings;
    private final InstantSource clock;

    Publishing(
            Session database,
            Configurations configurations,
            Everybody everybody,
            CheckedFiles files,
            Drafts drafts,
            Revisions revisions,
            DraftApprovals approvals,
            EventLog events,
            ServiceSettings settings,
            InstantSource clock) {
        this.database = database;
        this.configurations = configurations;
        this.everybody = everybody;
        this.files = files;
        this.drafts = drafts;
        this.revisions = revisions;
        this.approvals = approvals;
        this.events = events;
        this.settings = settings;
        this.clock = clock;
    }

    DraftApi.Revision publish(UUID id, DraftApi.Publication wanted, String author) {
        var row = drafts.row(id);
        files.valid(row.files);
        var current = alone(wanted);
        if (row.baseRevision != current) {
            throw Problem.of("draft-outdated").with("current", current).with("baseRevision", row.baseRevision);
        }
        var approvedBy = approvals.approved(row);
        losesWay(row.files, wanted);
        database.remove(row);
        return publish(current + 1, row.files, wanted.note(), author, approvedBy, "This draft changes nothing.");
    }

    /** Makes what an older revision held the next one. What lies between stays in the history. */
    DraftApi.Revision restore(int number, DraftApi.Publication wanted, String author) {
        var row = revisions.row(number);
        // Something that it names may be gone by now: that is told on Today, and nobody gets in by it.
        files.valid(configurations.readable(row.files));
        var current = alone(wanted);
        losesWay(row.files, wanted);
        var note = wanted.note();
        var said = note == null || note.isBlank() ? "Back to revision " + number : note;
        if (approvals.needed(approvals.weaker(row.files))) {
            throw Problem.of("approval-needed/going-back");
        }
        return publish(
                current + 1, row.files, said, author, null, "Revision " + number + " holds what is in force already.");
    }

    /** A revision ends as it was agreed when it was published: nobody is asked again. */
    void expire(int revision, int backTo, String author) {
        var current = alone(new DraftApi.Publication(null, null, null, null, null));
        if (current != revision) {
            throw Problem.of("published-meanwhile").with("current", current).with("revision", revision);
        }
        publish(
                current + 1,
                revisions.row(backTo).files,
                "Revision " + revision + " ended as planned; back to revision " + backTo,
                author,
                null,
                "Revision " + backTo + " holds what is in force already.");
    }

    /** One publication at a time, so that numbers follow each other and no change is lost; the number in force. */
    private int alone(DraftApi.Publication wanted) {
        Sql.values(database, "SELECT cast(pg_advisory_xact_lock(4711) AS text)", String.class)
                .getSingleResult();
        var current = revisions.current();
        if (wanted.after() != null && wanted.after() != current) {
            throw Problem.of("published-meanwhile/check").with("current", current);
        }
        return current;
    }

    private DraftApi.Revision publish(
            int number, Map<String, String> files, String note, String author, String approvedBy, String unchanged) {
        if (files.equals(revisions.currentFiles())) {
            throw Problem.of("nothing-changed").with("says", unchanged);
        }
        var revision = new RevisionRow();
        revision.number = number;
        revision.files = new TreeMap<>(files);
        revision.author = author;
        revision.approvedBy = approvedBy;
        revision.note = note == null ? "" : Drafts.bounded(note);
        revision.publishedAt = clock.instant();
        database.persist(revision);
        events.write(NewEvent.administration("configuration.published", author)
                .with("revision", revision.number)
                .with("files", revision.files.size())
                .at(revision.number));
        return Revisions.shown(revision, true);
    }

    /** Whoever publishes has to have seen how many people would lose a way in. */
    private void losesWay(Map<String, String> files, DraftApi.Publication wanted) {
        var crowd = everybody.now();
        var before = configurations.current();
        var after = CheckedFiles.valid(configurations.readable(files));
        var situations = configurations.situations(List.of(before, after), Set.of(Action.RESET), null, null).stream()
                .map(Situations.Situation::circumstances)
                .toList();
        var people = new Rehearsal(
                        Survey.in(before, crowd, Action.RESET, situations),
                        Survey.in(after, crowd, Action.RESET, situations))
                .people(Rehearsal.Kind.LOSES_WAY)
                .getCardinality();
        if (people > settings.losesWayLimit() && (wanted.losesWay() == null || wanted.losesWay() != people)) {
            throw Problem.of("people-lose-a-way")
                    .with("people", people)
                    .with("what", (people == 1 ? " person" : " people"))
                    .with("losesWay", people);
        }
    }
}
