package dev.entente.service.notice;

import dev.entente.core.attempt.Reference;
import dev.entente.core.notice.Concern;
import dev.entente.core.notice.Finding;
import dev.entente.core.notice.Pace;
import dev.entente.core.policy.Message;
import dev.entente.service.audit.AuditTrail;
import dev.entente.service.notice.Notices.Reader;
import dev.entente.service.notification.Notifications;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import dev.entente.service.policy.Configurations;
import dev.entente.wire.RecordApi.Event;
import java.sql.Timestamp;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Follows the sealed order for administrators: what they are told of at once is queued in the transaction that moves on, all else waits for
 * the daily list. Whoever can bring about many events can't fill anybody's mailbox: what is more than a few an hour waits as well.
 */
@Component
public class NoticeFollower {
    /** Events that are looked at together. */
    private static final int AT_ONCE = 500;
    /** Of one concern, to one reader. */
    private static final int MOST_AN_HOUR = 10;
    /** Lines of a daily list. */
    private static final int MOST_LINES = 100;

    private final Session database;
    private final Notices notices;
    private final AuditTrail trail;
    private final Notifications notifications;
    private final Configurations configurations;
    private final Limits limits;
    private final ServiceSettings settings;
    private final InstantSource clock;
    private final TransactionTemplate transaction;

    NoticeFollower(
            Session database,
            Notices notices,
            AuditTrail trail,
            Notifications notifications,
            Configurations configurations,
            Limits limits,
            ServiceSettings settings,
            InstantSource clock,
            TransactionTemplate transaction) {
        this.database = database;
        this.notices = notices;
        this.trail = trail;
        this.notifications = notifications;
        this.configurations = configurations;
        this.limits = limits;
        this.settings = settings;
        this.clock = clock;
        this.transaction = transaction;
    }

    /** Every few seconds: what happens in that time is looked at together. */
    @WhenDue(value = "SELECT FROM notice_follower WHERE position < (SELECT size FROM sealed_events)", pause = 10)
    void follow() {
        var more = true;
        while (more) {
            more = Boolean.TRUE.equals(transaction.execute(status -> step()));
        }
    }

    /** @return whether there is more */
    private boolean step() {
        // One node at a time.
        var position = Sql.values(database, "SELECT position FROM notice_follower FOR UPDATE SKIP LOCKED", Long.class)
                .getResultStream()
                .findFirst();
        if (position.isEmpty()) {
            return false;
        }
        var stretch = trail.stretch(position.get(), AT_ONCE, Concern.allKinds());
        var concerned = new ArrayList<Event>();
        stretch.events().stream()
                .filter(e -> Concern.of(e.kind(), e.data()).isPresent())
                .forEach(concerned::add);
        if (!concerned.isEmpty()) {
            var readers = notices.readers();
            concerned.forEach(event -> readers.forEach(reader ->
                    tell(reader, event, Concern.of(event.kind(), event.data()).orElseThrow())));
        }
        Sql.change(database, "UPDATE notice_follower SET position = :position")
                .setParameter("position", stretch.next())
                .executeUpdate();
        return !stretch.last();
    }

    private void tell(Reader reader, Event event, Concern concern) {
        var pace = reader.paces().get(concern);
        if (pace == Pace.OFF) {
            return;
        }
        if (pace == Pace.AT_ONCE
                && limits.useHere(
                        "notices-at-once", reader.id() + " " + concern.label(), MOST_AN_HOUR, Duration.ofHours(1))) {
            atOnce(reader, event, concern);
        } else {
            Sql.change(database, """
                            INSERT INTO notice_waiting (administrator, seq, event, at, due_at)
                            VALUES (:reader, :seq, :event, :at, :due) ON CONFLICT DO NOTHING""")
                    .setParameter("reader", reader.id())
                    .setParameter("seq", event.seq())
                    .setParameter("event", event.id())
                    .setParameter("at", Timestamp.from(event.at()))
                    .setParameter("due", Timestamp.from(next(reader.hour())))
                    .executeUpdate();
        }
    }

    /** When the daily list goes next. */
    private Instant next(int hour) {
        var now = clock.instant();
        var today = now.atOffset(ZoneOffset.UTC)
                .truncatedTo(ChronoUnit.DAYS)
                .plusHours(hour)
                .toInstant();
        return today.isAfter(now) ? today : today.plus(Duration.ofDays(1));
    }

    private void atOnce(Reader reader, Event event, Concern concern) {
        var own = new HashMap<String, String>();
        var kind = switch (event.kind()) {
            case "privileged.reset" -> Message.PRIVILEGED_RESET;
            case "guesses.noticed" -> Message.STRANGERS_TRY;
            default -> Message.ADMINISTRATOR_NOTICE;
        };
        own.put(
                "where",
                String.valueOf(event.data().getOrDefault(kind == Message.STRANGERS_TRY ? "what" : "where", "?")));
        own.put("about", concern.title());
        own.put("what", event.sentence());
        own.put("link", link(event));
        send(reader, event.reference(), event.personal().getOrDefault("name", "somebody"), kind, own);
    }

    private String link(Event event) {
        var page = event.reference() != null
                ? "/console/audit/attempts/"
                        + Reference.parse(event.reference())
                                .map(Reference::digits)
                                .orElse("")
                : event.kind().equals(Concern.APPEARED) ? "/console" : "/console/audit/events?kind=" + event.kind();
        return settings.publicUrl().resolve(page).toString();
    }

    private void send(Reader reader, String reference, String name, Message kind, Map<String, String> own) {
        for (var address : reader.addresses()) {
            notifications.administrator(
                    new Notifications.About(
                            null,
                            reference == null ? "" : reference,
                            null,
                            reader.login(),
                            configurations.current(),
                            address,
                            name,
                            null,
                            Map.of(),
                            Optional.empty()),
                    kind,
                    own);
        }
    }

    private record Due(UUID administrator) {}

    private record Waiting(UUID event, Instant at) {}

    /** Sends the daily lists whose hour has come. */
    @WhenDue(value = "SELECT FROM notice_waiting WHERE due_at <= entente_now()", pause = 5)
    @Transactional
    void daily() {
        var readers = notices.readers().stream().collect(Collectors.toMap(Reader::id, reader -> reader));
        for (var due : Sql.rows(
                        database, "SELECT DISTINCT administrator FROM notice_waiting WHERE due_at <= :now", Due.class)
                .setParameter("now", clock.instant())
                .getResultList()) {
            // Whoever takes them is the node that sends them; what is in more lines than a list has goes uncounted by
            // name.
            var waiting = Sql.rows(database, """
                            DELETE FROM notice_waiting WHERE administrator = :reader AND due_at <= :now RETURNING event, at""", Waiting.class)
                    .setParameter("reader", due.administrator())
                    .setParameter("now", clock.instant())
                    .getResultList();
            if (waiting.isEmpty() || !readers.containsKey(due.administrator())) {
                continue;
            }
            list(readers.get(due.administrator()), waiting);
        }
    }

    private void list(Reader reader, List<Waiting> waiting) {
        var lines = new ArrayList<String>();
        trail.events(waiting.stream()
                        .sorted((a, b) -> a.at().compareTo(b.at()))
                        .limit(MOST_LINES)
                        .map(one -> new AuditTrail.Located(one.event(), one.at()))
                        .toList())
                .forEach(event -> lines.add(
                        "- " + event.at().toString().substring(0, 16).replace('T', ' ') + " UTC: " + event.sentence()));
        if (waiting.size() > MOST_LINES) {
            lines.add("- and " + (waiting.size() - MOST_LINES) + " more");
        }
        send(
                reader,
                null,
                "",
                Message.ADMINISTRATOR_DIGEST,
                Map.of(
                        "list",
                        String.join("\n", lines),
                        "count",
                        waiting.size() + (waiting.size() == 1 ? " notice" : " notices"),
                        "link",
                        settings.publicUrl().resolve("/console").toString()));
    }

    /** Tells at once of what can't be told from the record, because the record isn't continued. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void recordInDoubt(String says) {
        var concern = Finding.RECORD_IN_DOUBT.concern();
        for (var reader : notices.readers()) {
            if (reader.paces().get(concern) != Pace.OFF) {
                send(
                        reader,
                        null,
                        "",
                        Message.ADMINISTRATOR_NOTICE,
                        Map.of(
                                "about",
                                concern.title(),
                                "what",
                                says,
                                "link",
                                settings.publicUrl().resolve("/console").toString()));
            }
        }
    }
}
