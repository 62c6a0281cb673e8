package dev.entente.service.policy;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import dev.entente.wire.DraftApi;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicReference;
import org.hibernate.Session;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/** Publications that happen by themselves at a time, and revisions that end by themselves. */
@Component
class PlannedChanges {
    private static final Logger log = LoggerFactory.getLogger(PlannedChanges.class);

    private final Session database;
    private final Drafts drafts;
    private final EventLog events;
    private final InstantSource clock;
    private final TransactionTemplate transaction;
    private final Publishing publishing;

    PlannedChanges(
            Session database,
            Drafts drafts,
            EventLog events,
            InstantSource clock,
            TransactionTemplate transaction,
            Publishing publishing) {
        this.database = database;
        this.drafts = drafts;
        this.events = events;
        this.clock = clock;
        this.transaction = transaction;
        this.publishing = publishing;
    }

    /** Plans what a publication says of later; {@code published} is its revision if that is done already. */
    @Transactional
    void plan(UUID draft, DraftApi.Publication wanted, Integer published, String author) {
        var now = clock.instant();
        if (wanted.at() != null && !wanted.at().isAfter(now)) {
            throw Problem.of("plan-in-the-past");
        }
        var begins = wanted.at() == null ? now : wanted.at();
        if (wanted.until() != null && !wanted.until().isAfter(begins)) {
            throw Problem.of("plan-ends-before-it-begins");
        }
        if (published == null) {
            insert("publish", draft, drafts.get(draft).version(), null, null, begins, wanted, author);
            events.write(NewEvent.administration("publication.planned", author).with("at", begins.toString()));
        } else if (wanted.until() != null) {
            if (published < 2) {
                throw Problem.of("nothing-to-go-back-to").with("published", published);
            }
            var end = wanted.until();
            insert("back", null, null, published, published - 1, end, wanted, author);
            events.write(NewEvent.administration("publication.ends", author)
                    .with("revision", published)
                    .with("at", end.toString()));
        }
    }

    private void insert(
            String kind,
            UUID draft,
            Integer version,
            Integer revision,
            Integer backTo,
            Instant at,
            DraftApi.Publication wanted,
            String author) {
        Sql.change(database, """
                        INSERT INTO planned_change (id, kind, draft, version, revision, back_to, at, ends_at, note, loses_way,
                            author, made_at)
                        VALUES (:id, :kind, :draft, :version, :revision, :back, :at, cast(:ends AS timestamptz), :note,
                            cast(:loses AS int), :author, :now)""")
                .setParameter("id", UUID.randomUUID())
                .setParameter("kind", kind)
                .setParameter("draft", draft)
                .setParameter("version", version)
                .setParameter("revision", revision)
                .setParameter("back", backTo)
                .setParameter("at", at)
                .setParameter(
                        "ends", wanted.until() == null ? null : wanted.until().toString())
                .setParameter("note", wanted.note() == null ? "" : wanted.note())
                .setParameter(
                        "loses",
                        wanted.losesWay() == null ? null : wanted.losesWay().toString())
                .setParameter("author", author)
                .setParameter("now", clock.instant())
                .executeUpdate();
    }

    /** What is to come, and what could not be done in the last two days. */
    @Transactional(readOnly = true)
    List<DraftApi.Planned> list() {
        return Sql.rows(database, """
                        SELECT p.id, p.kind, p.revision, p.back_to, p.at, p.author, p.outcome, d.name AS draft FROM planned_change p
                        LEFT JOIN draft d ON d.id = p.draft WHERE p.ended_at IS NULL
                        OR (p.outcome <> 'done' AND p.ended_at > :since) ORDER BY p.at""", Listed.class)
                .setParameter("since", clock.instant().minusSeconds(172_800))
                .getResultStream()
                .map(p -> new DraftApi.Planned(p.id(), p.kind(), p.says(), p.at(), p.author()))
                .toList();
    }

    /**
     * @param draft its name; null if it is gone
     * @param outcome why it was not done; null if it is still to come
     */
    private record Listed(
            UUID id,
            String kind,
            Integer revision,
            Integer backTo,
            Instant at,
            String author,
            String outcome,
            String draft) {
        String says() {
            var what = kind.equals("publish")
                    ? "The draft " + (draft == null ? "that is gone" : draft) + " is published"
                    : "Revision " + revision + " ends, and what revision " + backTo + " held is in force again";
            return what + (outcome == null ? "." : ". It was not done: " + outcome);
        }
    }

    @Transactional
    void cancel(UUID id, String administrator) {
        var done = Sql.change(database, """
                        UPDATE planned_change SET ended_at = :now, outcome = 'done' WHERE id = :id
                        AND (ended_at IS NULL OR outcome <> 'done')""")
                .setParameter("now", clock.instant())
                .setParameter("id", id)
                .executeUpdate();
        if (done == 0) {
            throw Problem.of("planned-change-not-found");
        }
        events.write(NewEvent.administration("publication.cancelled", administrator));
    }

    private record Due(
            UUID id,
            String kind,
            UUID draft,
            Integer version,
            Integer revision,
            Integer backTo,
            Instant ends,
            String note,
            Integer losesWay,
            String author) {}

    /** One node does each: its row is locked while it is done, and what is done is marked in the same transaction. */
    @WhenDue("SELECT FROM planned_change WHERE ended_at IS NULL AND at <= entente_now()")
    void carryOut() {
        for (var more = true; more; ) {
            var begun = new AtomicReference<Due>();
            try {
                transaction.executeWithoutResult(status -> next().ifPresent(due -> {
                    begun.set(due);
                    carryOut(due);
                    end(due, "done");
                }));
            } catch (Problem problem) {
                log.warn("a planned change was not done: {}", problem.getMessage());
                transaction.executeWithoutResult(status -> {
                    end(begun.get(), problem.getMessage());
                    events.write(NewEvent.administration(
                                    "publication.not-done", begun.get().author())
                            .with("why", problem.getMessage()));
                });
            }
            more = begun.get() != null;
        }
    }

    private Optional<Due> next() {
        return Sql.rows(database, """
                        SELECT id, kind, draft, version, revision, back_to, ends_at AS ends, note, loses_way, author
                        FROM planned_change WHERE ended_at IS NULL AND at <= :now ORDER BY at LIMIT 1
                        FOR UPDATE SKIP LOCKED""", Due.class)
                .setParameter("now", clock.instant())
                .getResultStream()
                .findFirst();
    }

    private void carryOut(Due due) {
        if (due.kind().equals("back")) {
            publishing.expire(due.revision(), due.backTo(), due.author());
            return;
        }
        if (drafts.get(due.draft()).version() != due.version()) {
            throw Problem.of("draft-changed-since");
        }
        var published = publishing.publish(
                due.draft(), new DraftApi.Publication(due.note(), null, due.losesWay(), null, null), due.author());
        if (due.ends() != null) {
            plan(
                    null,
                    new DraftApi.Publication(due.note(), null, null, null, due.ends()),
                    published.number(),
                    due.author());
        }
    }

    private void end(Due due, String outcome) {
        Sql.change(database, "UPDATE planned_change SET ended_at = :now, outcome = :outcome WHERE id = :id")
                .setParameter("now", clock.instant())
                .setParameter("outcome", outcome)
                .setParameter("id", due.id())
                .executeUpdate();
    }
}
