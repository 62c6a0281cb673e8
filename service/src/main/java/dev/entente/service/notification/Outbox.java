package dev.entente.service.notification;

import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Message;
import dev.entente.core.policy.MessageText;
import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Hint;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WakeUps;
import dev.entente.wire.NotificationApi;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/**
 * Messages that wait, and what became of those that waited. Texts are encrypted: those with a code or a link to go on with are dropped
 * when they were sent, news is kept for a week, so that it can be sent again.
 */
@Component
@Transactional
class Outbox {
    /** After that, news cannot be sent again. */
    static final Duration KEPT = Duration.ofDays(7);

    private static final Duration AGAIN_LIFE = Duration.ofDays(2);

    private final Session database;
    private final EventLog events;
    private final KeyRing keys;
    private final WakeUps wakeUps;
    private final ServiceSettings settings;
    private final JsonMapper json;
    private final InstantSource clock;

    Outbox(
            Session database,
            EventLog events,
            KeyRing keys,
            WakeUps wakeUps,
            ServiceSettings settings,
            JsonMapper json,
            InstantSource clock) {
        this.database = database;
        this.events = events;
        this.keys = keys;
        this.wakeUps = wakeUps;
        this.settings = settings;
        this.json = json;
        this.clock = clock;
    }

    /**
     * What is sent; {@code to} is null for decoys, which take the same path and are dropped at its end.
     *
     * @param html the same as a page; null where only a text is sent
     * @param quiet where its reader can choose not to be told of such any more; null if they can't
     */
    record Letter(String to, String subject, String text, String html, String language, String quiet) {}

    /**
     * A message that is to be sent.
     *
     * @param own what stands in braces besides what every message has
     * @param origin what it stands in one line with; null for none
     * @param quiet see {@link Letter}
     */
    record Outgoing(
            Notifications.About about,
            Channel channel,
            Message kind,
            Map<String, String> own,
            Instant expires,
            byte[] origin,
            String quiet) {}

    /** Queues a message in the transaction of its fact. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void put(Outgoing message) {
        var about = message.about();
        var values = new HashMap<>(message.own());
        values.put("name", about.name());
        values.put("organisation", settings.organisation());
        values.put("help-desk", settings.helpDesk());
        values.put("reference", about.reference());
        values.put(MessageText.FEWER, message.quiet() == null ? "" : message.quiet());
        var filled = about.texts().text(message.kind()).fill(about.language(), values, about.attributes());
        if (message.kind().news() && message.channel() == Channel.TEXT) {
            // A page of text is no text message: what it is about, and the link.
            values.put("what", filled.subject());
            filled = about.texts().text(Message.TEXT_NEWS).fill(about.language(), values, about.attributes());
        }
        var letter = new Letter(
                about.to(),
                filled.subject(),
                filled.text(),
                message.channel() == Channel.MAIL ? filled.html() : null,
                filled.language(),
                message.quiet());
        insert(new Row(
                about.attempt(),
                about.texts().revision(),
                message.kind().label(),
                message.channel().label(),
                about.person(),
                about.administrator(),
                about.to() == null ? null : Hint.of(about.to()),
                message.kind().news(),
                Reference.parse(about.reference()).map(Reference::digits).orElse(null),
                message.expires(),
                message.origin(),
                null,
                letter));
    }

    private record Row(
            UUID attempt,
            int revision,
            String kind,
            String channel,
            UUID person,
            String administrator,
            String recipient,
            boolean news,
            String reference,
            Instant expires,
            byte[] origin,
            UUID againOf,
            Letter letter) {}

    /** Those that wait for the same person, or come from the same place, stand behind each other. */
    private UUID insert(Row row) {
        var id = UUID.randomUUID();
        Sql.change(database, """
                        INSERT INTO notification (id, attempt, revision, kind, payload, state, next_try, created_at, expires_at,
                            origin, channel, person, administrator, recipient, news, reference, again_of, lane)
                        VALUES (:id, cast(:attempt AS uuid), :revision, :kind, :payload, 'queued', :now, :now, :expires,
                            cast(:origin AS bytea), :channel, cast(:person AS uuid), cast(:administrator AS text),
                            cast(:recipient AS text), :news, cast(:reference AS text), cast(:again AS uuid),
                            CASE WHEN :news THEN (SELECT count(*) FROM notification
                                    WHERE person = cast(:person AS uuid) AND news AND state IN ('queued', 'sending'))
                                ELSE (SELECT count(*) FROM notification
                                    WHERE origin = cast(:origin AS bytea) AND state IN ('queued', 'sending')) END)""")
                .setParameter("id", id)
                .setParameter("attempt", row.attempt())
                .setParameter("revision", row.revision())
                .setParameter("kind", row.kind())
                .setParameter("payload", keys.encrypt("notification " + id, json.writeValueAsString(row.letter())))
                .setParameter("now", clock.instant())
                .setParameter("expires", row.expires())
                .setParameter("origin", row.origin())
                .setParameter("channel", row.channel())
                .setParameter("person", row.person())
                .setParameter("administrator", row.administrator())
                .setParameter("recipient", row.recipient())
                .setParameter("news", row.news())
                .setParameter("reference", row.reference())
                .setParameter("again", row.againOf())
                .executeUpdate();
        events.write(Notifications.about(row.attempt(), "notification.queued", row.revision())
                .with("message", row.kind())
                .with("language", row.letter().language())
                .with("notification", id.toString())
                .with("channel", row.channel()));
        wakeUps.message(Channel.labelled(row.channel()).filter(Channel::costs).isPresent());
        return id;
    }

    private record Listed(
            UUID id,
            String kind,
            String channel,
            String state,
            UUID person,
            String administrator,
            String recipient,
            String reference,
            boolean news,
            boolean kept,
            int tries,
            String why,
            String arrival,
            String gateway,
            UUID againOf,
            Instant createdAt,
            Instant nextTry,
            Instant endedAt) {
        NotificationApi.Notification shown(NotificationApi.Text text) {
            return new NotificationApi.Notification(
                    id,
                    kind,
                    channel,
                    state,
                    person,
                    administrator,
                    recipient,
                    reference == null ? null : new Reference(reference).toString(),
                    news && kept && endedAt != null,
                    tries,
                    why,
                    arrival,
                    gateway,
                    againOf,
                    createdAt,
                    state.equals("queued") ? nextTry : null,
                    endedAt,
                    text);
        }
    }

    private static final String LISTED = """
            SELECT id, kind, channel, state, person, administrator, recipient, reference, news,
                payload IS NOT NULL AND coalesce(ended_at > :kept, true) AS kept, tries,
                why, arrival, gateway, again_of, created_at, next_try, ended_at FROM notification""";

    /**
     * What a list of messages is narrowed down to; null for whatever.
     *
     * @param reference ten digits
     * @param since the first moment
     * @param until the moment after the last
     */
    record Filter(
            String state, String kind, String channel, UUID person, String reference, Instant since, Instant until) {
        /** Everything about an attempt. */
        static Filter of(String reference) {
            return new Filter(null, null, null, null, reference, null, null);
        }
    }

    /** Messages, newest first. */
    @Transactional(readOnly = true)
    public List<NotificationApi.Notification> list(Filter filter, UUID after, int limit) {
        return Sql.rows(database, LISTED + """
                         WHERE (cast(:state AS text) IS NULL OR state = :state)
                            AND (cast(:kind AS text) IS NULL OR kind = :kind)
                            AND (cast(:channel AS text) IS NULL OR channel = :channel)
                            AND (cast(:person AS uuid) IS NULL OR person = :person)
                            AND (cast(:reference AS text) IS NULL OR reference = :reference)
                            AND created_at >= :since AND created_at < :until
                            AND (cast(:after AS uuid) IS NULL OR (created_at, id) <
                                (SELECT created_at, id FROM notification WHERE id = :after))
                        ORDER BY created_at DESC, id DESC LIMIT :limit""", Listed.class)
                .setParameter("state", filter.state())
                .setParameter("kind", filter.kind())
                .setParameter("channel", filter.channel())
                .setParameter("person", filter.person())
                .setParameter("reference", filter.reference())
                .setParameter("since", filter.since() == null ? Instant.EPOCH : filter.since())
                .setParameter("until", filter.until() == null ? Instant.ofEpochSecond(4_000_000_000L) : filter.until())
                .setParameter("after", after)
                .setParameter("kept", clock.instant().minus(KEPT))
                .setParameter("limit", limit)
                .getResultStream()
                .map(row -> row.shown(null))
                .toList();
    }

    /** One message, with what it says while that is kept. Links in it are cut off where they become somebody's own. */
    @Transactional(readOnly = true)
    public NotificationApi.Notification show(UUID id) {
        var row = named(id);
        // A code is nobody's business but the person's.
        var letter = row.news() && row.kept() ? letter(id) : null;
        return row.shown(
                letter == null
                        ? null
                        : new NotificationApi.Text(
                                // Telephones are sent no subject.
                                letter.html() == null ? null : letter.subject(),
                                letter.text().replaceAll("#[A-Za-z0-9_-]{16,}", "#…"),
                                letter.language()));
    }

    private Listed named(UUID id) {
        return Sql.rows(database, LISTED + " WHERE id = :id", Listed.class)
                .setParameter("id", id)
                .setParameter("kept", clock.instant().minus(KEPT))
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.of("notification-not-found").with("id", id));
    }

    private record Kept(UUID attempt, int revision, byte[] payload) {}

    private Letter letter(UUID id) {
        return json.readValue(keys.decrypt("notification " + id, kept(id).payload()), Letter.class);
    }

    private Kept kept(UUID id) {
        return Sql.rows(database, "SELECT attempt, revision, payload FROM notification WHERE id = :id", Kept.class)
                .setParameter("id", id)
                .getSingleResult();
    }

    /** Sends news again that has been sent, or could not be. */
    public NotificationApi.Notification again(UUID id, String administrator) {
        var row = named(id);
        if (!row.news()) {
            throw Problem.of("message-not-repeatable");
        }
        if (row.endedAt() == null) {
            throw Problem.of("message-waits");
        }
        if (!row.kept()) {
            throw Problem.of("message-gone");
        }
        var kept = kept(id);
        var again = insert(new Row(
                kept.attempt(),
                kept.revision(),
                row.kind(),
                row.channel(),
                row.person(),
                row.administrator(),
                row.recipient(),
                true,
                row.reference(),
                clock.instant().plus(AGAIN_LIFE),
                null,
                id,
                letter(id)));
        events.write(NewEvent.administration("notification.repeated", administrator)
                .with("message", row.kind())
                .with("notification", id.toString())
                .with("again", again.toString()));
        return show(again);
    }
}
