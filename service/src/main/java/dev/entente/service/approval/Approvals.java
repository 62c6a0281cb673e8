package dev.entente.service.approval;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.ApprovalApi;
import java.time.InstantSource;
import java.util.List;
import java.util.Objects;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicBoolean;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/**
 * Changes of settings that decide who gets codes: they need a second person where weakenings of a policy do. What was before and
 * what is wanted goes on record either way.
 */
@Component
@Transactional
public class Approvals {
    private static final String RULE = "approval-rule";
    private static final List<String> RULES = List.of("nothing", "weakening", "everything");

    private final Session database;
    private final KeyRing keys;
    private final EventLog events;
    private final JsonMapper json;
    private final ApplicationEventPublisher publisher;
    private final InstantSource clock;

    Approvals(
            Session database,
            KeyRing keys,
            EventLog events,
            JsonMapper json,
            ApplicationEventPublisher publisher,
            InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.events = events;
        this.json = json;
        this.publisher = publisher;
        this.clock = clock;
    }

    /** A change may be made; published in the transaction that makes it. Whoever knows the kind answers {@link #handled}. */
    public record Approved(String kind, String subject, String wanted, String author, AtomicBoolean handled) {}

    /** Whose approval weakenings need: {@code nothing}, {@code weakening} or {@code everything}. */
    @Transactional(readOnly = true)
    public String askedFor() {
        return Sql.values(database, "SELECT asked_for FROM approval_rule", String.class)
                .getResultStream()
                .findFirst()
                .orElse("nothing");
    }

    /**
     * Makes a change now, or keeps it until another administrator approves it.
     *
     * @param kind who makes it, see {@link Approved}
     * @param subject what it is about, such as a directory's name; may be empty
     * @param says old and new values, a sentence each, without secrets
     * @param wanted the change, written as JSON
     * @return whether it was made
     */
    public boolean make(String kind, String subject, List<String> says, Object wanted, String author) {
        if (says.isEmpty() || askedFor().equals("nothing")) {
            return makeNow(kind, subject, says, wanted, author);
        }
        var id = UUID.randomUUID();
        Sql.change(database, """
                        UPDATE proposed_change SET decided_at = :now, decided_by = :author, outcome = 'withdrawn'
                        WHERE kind = :kind AND subject = :subject AND author = :author AND decided_at IS NULL""")
                .setParameter("now", clock.instant())
                .setParameter("author", author)
                .setParameter("kind", kind)
                .setParameter("subject", subject)
                .executeUpdate();
        Sql.change(database, """
                        INSERT INTO proposed_change (id, kind, subject, says, wanted, author, made_at)
                        VALUES (:id, :kind, :subject, cast(:says AS text[]), :wanted, :author, :now)""")
                .setParameter("id", id)
                .setParameter("kind", kind)
                .setParameter("subject", subject)
                .setParameter("says", says.toArray(String[]::new))
                .setParameter("wanted", keys.encrypt("proposed change " + id, json.writeValueAsString(wanted)))
                .setParameter("author", author)
                .setParameter("now", clock.instant())
                .executeUpdate();
        events.write(event("setting.proposed", author, subject, says));
        return false;
    }

    /** Makes a change that nobody has to approve, as one that only makes something stricter. */
    public boolean makeNow(String kind, String subject, List<String> says, Object wanted, String author) {
        made(kind, subject, says, json.writeValueAsString(wanted), author, null);
        return true;
    }

    private void made(String kind, String subject, List<String> says, String wanted, String author, String approver) {
        var approved = new Approved(kind, subject, wanted, author, new AtomicBoolean());
        publisher.publishEvent(approved);
        if (!approved.handled().get()) {
            throw new IllegalStateException("nobody makes changes of the kind " + kind);
        }
        if (!says.isEmpty()) {
            events.write(event("setting.changed", author, subject, says).withPersonal("approver", approver));
        }
    }

    private static NewEvent event(String kind, String author, String subject, List<String> says) {
        return NewEvent.administration(kind, author)
                .with("subject", subject.isEmpty() ? null : subject)
                .withPersonal("says", String.join(" ", says));
    }

    /** What waits, oldest first. */
    @Transactional(readOnly = true)
    public List<ApprovalApi.ProposedChange> open() {
        return Sql.rows(database, """
                        SELECT id, kind, subject, says, author, made_at FROM proposed_change WHERE decided_at IS NULL
                        ORDER BY made_at LIMIT 200""", ApprovalApi.ProposedChange.class).getResultList();
    }

    private record Waiting(String kind, String subject, List<String> says, byte[] wanted, String author) {}

    private Waiting decide(UUID id, String outcome, String by) {
        return Sql.rows(database, """
                        UPDATE proposed_change SET decided_at = :now, decided_by = :by, outcome = :outcome
                        WHERE id = :id AND decided_at IS NULL RETURNING kind, subject, says, wanted, author""", Waiting.class)
                .setParameter("now", clock.instant())
                .setParameter("by", by)
                .setParameter("outcome", outcome)
                .setParameter("id", id)
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.of("change-not-waiting"));
    }

    /** Somebody else than its author agrees: it is made now. */
    public void approve(UUID id, String approver) {
        var waiting = decide(id, "approved", approver);
        if (waiting.author().equals(approver)) {
            throw Problem.of("approval-by-another");
        }
        made(
                waiting.kind(),
                waiting.subject(),
                waiting.says(),
                keys.decrypt("proposed change " + id, waiting.wanted()),
                waiting.author(),
                approver);
    }

    /** Somebody says no, or its author takes it back. */
    public void refuse(UUID id, String by) {
        var waiting = decide(id, "refused", by);
        events.write(event("setting.refused", by, waiting.subject(), waiting.says())
                .withPersonal("author", waiting.author()));
    }

    /** Changes the rule itself, by the rule that is in force. */
    public boolean askFor(String wanted, String administrator) {
        var what = Objects.requireNonNullElse(wanted, "");
        if (!RULES.contains(what)) {
            throw Problem.of("approval-rule");
        }
        var before = askedFor();
        if (before.equals("nothing") && !what.equals("nothing") && administrators() < 2) {
            throw Problem.of("approval-needs-two");
        }
        return make(
                RULE,
                "",
                before.equals(what)
                        ? List.of()
                        : List.of("Approval was asked for " + before + " and is asked for " + what + "."),
                what,
                administrator);
    }

    private long administrators() {
        return Sql.values(database, "SELECT count(*) FROM known_administrator WHERE active", Long.class)
                .getSingleResult();
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void make(Approved change) {
        if (change.kind().equals(RULE)) {
            Sql.change(database, """
                            INSERT INTO approval_rule (asked_for, changed_at) VALUES (:what, :now)
                            ON CONFLICT (id) DO UPDATE SET asked_for = excluded.asked_for,
                                changed_at = excluded.changed_at""")
                    .setParameter("what", json.readValue(change.wanted(), String.class))
                    .setParameter("now", clock.instant())
                    .executeUpdate();
            change.handled().set(true);
        }
    }
}
