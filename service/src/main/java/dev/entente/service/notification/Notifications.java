package dev.entente.service.notification;

import static dev.entente.core.policy.Message.ACCOUNT_UNLOCKED;
import static dev.entente.core.policy.Message.ATTEMPT_FAILED;
import static dev.entente.core.policy.Message.CODE;
import static dev.entente.core.policy.Message.CODE_FOR_THE_HOUR;
import static dev.entente.core.policy.Message.LINK;
import static dev.entente.core.policy.Message.MANAGER_ASKED;
import static dev.entente.core.policy.Message.METHODS_CHANGED;
import static dev.entente.core.policy.Message.METHOD_ADDED;
import static dev.entente.core.policy.Message.METHOD_REMOVED;
import static dev.entente.core.policy.Message.PASSWORD_CHANGED;
import static dev.entente.core.policy.Message.PASSWORD_RESET;
import static dev.entente.core.policy.Message.PRIVILEGED_RESET;
import static dev.entente.core.policy.Message.SPOKEN_CODE;
import static dev.entente.core.policy.Message.STRANGERS;
import static dev.entente.core.policy.Message.STRANGERS_TRY;
import static dev.entente.core.policy.Message.TEMPORARY_PASSWORD;
import static dev.entente.core.policy.Message.TEXT_CODE;

import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Message;
import dev.entente.core.verify.Channel;
import dev.entente.core.verify.OneTimeCode;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.AttemptsPurged;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WakeUps;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** Queues messages in the transaction of their fact. Each is sent at least once, or its fate is on record. */
@Component
public class Notifications {
    private static final Duration NOTICE_LIFE = Duration.ofDays(2);

    private final Session database;
    private final EventLog events;
    private final KeyRing keys;
    private final MailChannel mail;
    private final WakeUps wakeUps;
    private final ServiceSettings settings;
    private final JsonMapper json;
    private final InstantSource clock;
    private final ApplicationEventPublisher publisher;

    Notifications(
            Session database,
            EventLog events,
            KeyRing keys,
            MailChannel mail,
            WakeUps wakeUps,
            ServiceSettings settings,
            JsonMapper json,
            InstantSource clock,
            ApplicationEventPublisher publisher) {
        this.database = database;
        this.events = events;
        this.keys = keys;
        this.mail = mail;
        this.wakeUps = wakeUps;
        this.settings = settings;
        this.json = json;
        this.clock = clock;
        this.publisher = publisher;
    }

    /** What is sent; {@code to} is null for decoys, which take the same path and are dropped at its end. */
    record Letter(String to, String subject, String text, String language) {}

    /**
     * To whom a message goes and about what.
     *
     * @param texts the configuration that holds what is said
     * @param language what the reader wants to read, see {@link dev.entente.core.policy.Languages}; null if that is not known
     * @param attributes what the person's directories say, for texts that ask for it
     */
    public record About(
            UUID attempt,
            String reference,
            Configuration texts,
            String to,
            String name,
            String language,
            Map<String, Set<String>> attributes) {}

    /**
     * A code for a challenge. Its payload is dropped when the code expires.
     *
     * @param origin what it stands in one line with, see {@link MailWorker}; null for none
     * @param forTheHour whether it is the last one of an hour
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public void code(
            About about, Channel channel, OneTimeCode code, Instant expires, byte[] origin, boolean forTheHour) {
        var kind = switch (channel) {
            case MAIL -> forTheHour ? CODE_FOR_THE_HOUR : CODE;
            case TEXT -> TEXT_CODE;
            case VOICE -> SPOKEN_CODE;
        };
        queue(
                about,
                channel,
                kind,
                about.to(),
                Map.of("code", channel == Channel.VOICE ? code.spoken() : code.spaced(), "valid-for", minutes(expires)),
                expires,
                origin);
    }

    /** A link for a challenge. Its payload is dropped when the link expires. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void link(About about, Channel channel, String token, Instant expires, byte[] origin) {
        // What stands behind # is sent to no server and written to no log.
        var link = settings.publicUrl().resolve("/link#") + token;
        queue(about, channel, LINK, about.to(), Map.of("link", link, "valid-for", minutes(expires)), expires, origin);
    }

    /** A link for the manager of whom it is about. Its payload is dropped when the link expires. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void managerAsked(About about, String network, String token, Instant expires, byte[] origin) {
        var link = settings.publicUrl().resolve("/confirm#") + token;
        queue(
                about,
                Channel.MAIL,
                MANAGER_ASKED,
                about.to(),
                Map.of("link", link, "valid-for", minutes(expires), "where", network),
                expires,
                origin);
    }

    private String minutes(Instant until) {
        return Math.max(
                        1,
                        Duration.between(clock.instant(), until).plusSeconds(30).toMinutes())
                + " min";
    }

    /** Tells the person what was done, with a link to say that it was somebody else. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void done(About about, Action action, List<String> where) {
        var kind = switch (action) {
            case UNLOCK -> ACCOUNT_UNLOCKED;
            case CHANGE -> PASSWORD_CHANGED;
            case TEMPORARY -> TEMPORARY_PASSWORD;
            case DETAILS -> METHODS_CHANGED;
            case RESET -> PASSWORD_RESET;
        };
        notice(about, kind, where);
    }

    /** Tells the person that somebody did not get through in their name, or that nothing took a new password. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void failed(About about, String why) {
        notice(about, ATTEMPT_FAILED, List.of(why));
    }

    /** Tells the person that an administrator gave them a method, or took one away from them. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void methodChanged(
            Configuration texts,
            String to,
            String name,
            String language,
            Map<String, Set<String>> attributes,
            String label,
            boolean added) {
        notice(
                new About(null, "", texts, to, name, language, attributes),
                added ? METHOD_ADDED : METHOD_REMOVED,
                List.of(label));
    }

    /** Tells the person that strangers try in their name. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void strangers(About about, String what) {
        notice(about, STRANGERS, List.of(what));
    }

    /** Tells administrators that strangers try in somebody's name. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void strangersForAdministrators(About about, String what) {
        forAdministrators(about, STRANGERS_TRY, what);
    }

    /** Tells administrators that a privileged account has a new password, where they are to be told of such things. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void privileged(About about, List<String> where) {
        forAdministrators(about, PRIVILEGED_RESET, String.join(", ", where));
    }

    private void forAdministrators(About about, Message kind, String where) {
        for (var administrator : mail.administrators()) {
            queue(
                    about,
                    kind,
                    administrator,
                    Map.of("where", where),
                    clock.instant().plus(NOTICE_LIFE),
                    null);
        }
    }

    private void notice(About about, Message kind, List<String> where) {
        var token = Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(24));
        Sql.change(
                        database,
                        "INSERT INTO alarm_link (token_hash, attempt, revision, reference)"
                                + " VALUES (:hash, cast(:attempt AS uuid), :revision, :reference)")
                .setParameter("hash", keys.blind("alarm", token))
                .setParameter("attempt", about.attempt())
                .setParameter("revision", about.texts().revision())
                .setParameter(
                        "reference",
                        Reference.parse(about.reference())
                                .map(Reference::digits)
                                .orElse(null))
                .executeUpdate();
        queue(
                about,
                kind,
                about.to(),
                Map.of(
                        "where",
                        String.join(", ", where),
                        "link",
                        settings.publicUrl().resolve("/not-me#") + token),
                clock.instant().plus(NOTICE_LIFE),
                null);
    }

    private void queue(About about, Message kind, String to, Map<String, String> own, Instant expires, byte[] origin) {
        queue(about, Channel.MAIL, kind, to, own, expires, origin);
    }

    private void queue(
            About about,
            Channel channel,
            Message kind,
            String to,
            Map<String, String> own,
            Instant expires,
            byte[] origin) {
        var values = new HashMap<>(own);
        values.put("name", about.name());
        values.put("organisation", settings.organisation());
        values.put("help-desk", settings.helpDesk());
        values.put("reference", about.reference());
        var filled = about.texts().text(kind).fill(about.language(), values, about.attributes());
        var letter = new Letter(to, filled.subject(), filled.text(), filled.language());
        var id = UUID.randomUUID();
        Sql.change(database, """
                        INSERT INTO notification (id, attempt, revision, kind, payload, state, next_try, created_at, expires_at,
                            origin, channel, lane)
                        VALUES (:id, cast(:attempt AS uuid), :revision, :kind, :payload, 'queued', :now, :now, :expires,
                            cast(:origin AS bytea), :channel,
                            (SELECT count(*) FROM notification
                                WHERE origin = cast(:origin AS bytea) AND state IN ('queued', 'sending')))""")
                .setParameter("id", id)
                .setParameter("attempt", about.attempt())
                .setParameter("revision", about.texts().revision())
                .setParameter("kind", kind.label())
                .setParameter("payload", keys.encrypt("notification " + id, json.writeValueAsString(letter)))
                .setParameter("now", clock.instant())
                .setParameter("expires", expires)
                .setParameter("origin", origin)
                .setParameter("channel", channel.label())
                .executeUpdate();
        events.write(about(about.attempt(), "notification.queued", about.texts().revision())
                .with("message", kind.label())
                .with("language", filled.language())
                .with("notification", id.toString()));
        wakeUps.message(channel.costs());
    }

    /** An event of an attempt, or one of its own. */
    static NewEvent about(UUID attempt, String kind, int revision) {
        return attempt == null ? NewEvent.operation(kind).at(revision) : NewEvent.of(kind, attempt, revision);
    }

    /**
     * Somebody followed a "this was not me" link.
     *
     * @return the attempt that it is about; empty if it is about none
     */
    @Transactional
    public Optional<UUID> alarm(String token) {
        var raised = Sql.rows(database, """
                        UPDATE alarm_link SET raised_at = coalesce(raised_at, :now) WHERE token_hash = :hash
                        RETURNING attempt, revision""", Alarm.class)
                .setParameter("now", clock.instant())
                .setParameter("hash", keys.blind("alarm", token == null ? "" : token))
                .getResultStream()
                .findFirst()
                .orElseThrow(() ->
                        Problem.missing("message", "with this link. Contact the help desk: " + settings.helpDesk()));
        events.write(about(raised.attempt(), "alarm.raised", raised.revision()));
        if (raised.attempt() != null) {
            publisher.publishEvent(new AlarmRaised(raised.attempt()));
        }
        return Optional.ofNullable(raised.attempt());
    }

    private record Alarm(UUID attempt, int revision) {}

    /** Somebody said that an attempt was not theirs; published in the transaction that notes it. */
    public record AlarmRaised(UUID attempt) {}

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void purged(AttemptsPurged purged) {
        for (var table : List.of("alarm_link", "notification")) {
            Sql.change(database, "DELETE FROM " + table + " WHERE attempt IN (:ids)")
                    .setParameter("ids", purged.attempts())
                    .executeUpdate();
        }
    }

    /** References of attempts that somebody raised an alarm about since a time. */
    @Transactional(readOnly = true)
    public List<String> alarms(Instant since) {
        return Sql.values(database, """
                        SELECT reference FROM alarm_link WHERE raised_at > :since AND reference IS NOT NULL
                        ORDER BY raised_at DESC""", String.class)
                .setParameter("since", since)
                .getResultList();
    }
}
