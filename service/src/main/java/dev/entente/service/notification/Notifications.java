package dev.entente.service.notification;

import static dev.entente.core.policy.Message.ACCOUNT_UNLOCKED;
import static dev.entente.core.policy.Message.ADDRESS_CHANGED;
import static dev.entente.core.policy.Message.ATTEMPT_FAILED;
import static dev.entente.core.policy.Message.CODE;
import static dev.entente.core.policy.Message.CODE_FOR_THE_HOUR;
import static dev.entente.core.policy.Message.INVITATION;
import static dev.entente.core.policy.Message.LINK;
import static dev.entente.core.policy.Message.MANAGER_ASKED;
import static dev.entente.core.policy.Message.METHODS_CHANGED;
import static dev.entente.core.policy.Message.METHOD_ADDED;
import static dev.entente.core.policy.Message.METHOD_REMOVED;
import static dev.entente.core.policy.Message.PASSWORD_CHANGED;
import static dev.entente.core.policy.Message.PASSWORD_ENDS;
import static dev.entente.core.policy.Message.PASSWORD_RESET;
import static dev.entente.core.policy.Message.SPOKEN_CODE;
import static dev.entente.core.policy.Message.STRANGERS;
import static dev.entente.core.policy.Message.TEMPORARY_PASSWORD;
import static dev.entente.core.policy.Message.TEXT_CODE;

import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Message;
import dev.entente.core.policy.Occasion;
import dev.entente.core.verify.Channel;
import dev.entente.core.verify.OneTimeCode;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.AttemptsPurged;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.wire.NotificationApi;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Collections;
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

/** Queues messages in the transaction of their fact. Each is sent at least once, or its fate is on record. */
@Component
public class Notifications {
    private static final Duration NOTICE_LIFE = Duration.ofDays(2);

    private static final int MOST_TOLD = 300;

    private final Session database;
    private final EventLog events;
    private final KeyRing keys;
    private final Outbox outbox;
    private final Quiet quiet;
    private final ServiceSettings settings;
    private final InstantSource clock;
    private final ApplicationEventPublisher publisher;

    Notifications(
            Session database,
            EventLog events,
            KeyRing keys,
            Outbox outbox,
            Quiet quiet,
            ServiceSettings settings,
            InstantSource clock,
            ApplicationEventPublisher publisher) {
        this.database = database;
        this.events = events;
        this.keys = keys;
        this.outbox = outbox;
        this.quiet = quiet;
        this.settings = settings;
        this.clock = clock;
        this.publisher = publisher;
    }

    /**
     * To whom a message goes and about what.
     *
     * @param person whom it is for; null for nobody who exists, and for administrators
     * @param administrator whom it is for; null for everybody else
     * @param texts the configuration that holds what is said
     * @param language what the reader wants to read, see {@link dev.entente.core.policy.Languages}; null if that is not known
     * @param attributes what the person's directories say, for texts that ask for it
     * @param quiet what the reader may choose not to be told of any more
     */
    public record About(
            UUID attempt,
            String reference,
            UUID person,
            String administrator,
            Configuration texts,
            String to,
            String name,
            String language,
            Map<String, Set<String>> attributes,
            Optional<Occasion> quiet) {
        /** The same for another of the reader's addresses. */
        public About at(String address) {
            return new About(
                    attempt, reference, person, administrator, texts, address, name, language, attributes, quiet);
        }

        /** The same where the reader may choose not to be told of such any more. */
        public About dispensable(Occasion occasion) {
            return new About(
                    attempt,
                    reference,
                    person,
                    administrator,
                    texts,
                    to,
                    name,
                    language,
                    attributes,
                    Optional.of(occasion));
        }
    }

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
                Map.of("code", channel == Channel.VOICE ? code.spoken() : code.spaced(), "valid-for", minutes(expires)),
                expires,
                origin);
    }

    /** A link for a challenge. Its payload is dropped when the link expires. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void link(About about, Channel channel, String token, Instant expires, byte[] origin) {
        // What stands behind # is sent to no server and written to no log.
        var link = settings.publicUrl().resolve("/link#") + token;
        queue(about, channel, LINK, Map.of("link", link, "valid-for", minutes(expires)), expires, origin);
    }

    /** A link for the manager of whom it is about. Its payload is dropped when the link expires. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void managerAsked(About about, String network, String token, Instant expires, byte[] origin) {
        var link = settings.publicUrl().resolve("/confirm#") + token;
        queue(
                about,
                Channel.MAIL,
                MANAGER_ASKED,
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

    /** What tells a person that something was done. */
    public static Message of(Action action) {
        return switch (action) {
            case UNLOCK -> ACCOUNT_UNLOCKED;
            case CHANGE -> PASSWORD_CHANGED;
            case TEMPORARY -> TEMPORARY_PASSWORD;
            case DETAILS -> METHODS_CHANGED;
            case RESET -> PASSWORD_RESET;
        };
    }

    /** Tells the person what was done, with a link to say that it was somebody else. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void done(About about, Action action, List<String> where) {
        notice(about, of(action), where);
    }

    /** Tells the person that somebody did not get through in their name, or that nothing took a new password. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void failed(About about, String why) {
        notice(about, ATTEMPT_FAILED, List.of(why));
    }

    /** Tells the person that an administrator gave them a method, or took one away from them. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void methodChanged(About about, String label, boolean added) {
        notice(about, added ? METHOD_ADDED : METHOD_REMOVED, List.of(label));
    }

    /** Tells the person, at one of their addresses, that the directory has others now. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void addressChanged(About about, String now) {
        notice(about, ADDRESS_CHANGED, List.of(now));
    }

    /**
     * Tells the person that their password ends.
     *
     * @param when such as "on 7 December 2026"
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public void passwordEnds(About about, String when) {
        ahead(
                about,
                PASSWORD_ENDS,
                Map.of("when", when, "link", settings.publicUrl().toString()));
    }

    /** Invites the person to set up a method. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void invitation(About about) {
        ahead(about, INVITATION, Map.of("link", settings.publicUrl().toString()));
    }

    /** Nothing happened, so there is nothing to raise an alarm about. */
    private void ahead(About about, Message kind, Map<String, String> own) {
        outbox.put(new Outbox.Outgoing(
                about, Channel.MAIL, kind, own, clock.instant().plus(NOTICE_LIFE), null, quietLink(about)));
    }

    private String quietLink(About about) {
        return about.quiet()
                .map(occasion -> quiet.link(about.person(), occasion))
                .orElse(null);
    }

    /** Tells the person that strangers try in their name. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void strangers(About about, String what) {
        notice(about, STRANGERS, List.of(what));
    }

    /**
     * Tells an administrator.
     *
     * @param own what stands in braces
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public void administrator(About about, Message kind, Map<String, String> own) {
        outbox.put(new Outbox.Outgoing(
                about,
                Channel.MAIL,
                kind,
                own,
                clock.instant().plus(NOTICE_LIFE),
                null,
                settings.publicUrl().resolve("/console/settings").toString()));
    }

    private void notice(About about, Message kind, List<String> where) {
        var token = Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(24));
        Sql.change(
                        database,
                        "INSERT INTO alarm_link (token_hash, attempt, revision, reference, person)"
                                + " VALUES (:hash, cast(:attempt AS uuid), :revision, :reference, cast(:person AS uuid))")
                .setParameter("hash", keys.blind("alarm", token))
                .setParameter("attempt", about.attempt())
                .setParameter("revision", about.texts().revision())
                .setParameter("person", about.person())
                .setParameter(
                        "reference",
                        Reference.parse(about.reference())
                                .map(Reference::digits)
                                .orElse(null))
                .executeUpdate();
        var own = Map.of(
                "where", String.join(", ", where), "link", settings.publicUrl().resolve("/not-me#") + token);
        var channel = about.to().startsWith("+") ? Channel.TEXT : Channel.MAIL;
        outbox.put(new Outbox.Outgoing(
                about,
                channel,
                kind,
                own,
                clock.instant().plus(NOTICE_LIFE),
                null,
                channel == Channel.MAIL ? quietLink(about) : null));
    }

    private void queue(
            About about, Channel channel, Message kind, Map<String, String> own, Instant expires, byte[] origin) {
        outbox.put(new Outbox.Outgoing(about, channel, kind, own, expires, origin, null));
    }

    /**
     * Every message about an attempt that is kept still, to whomever, oldest first; at most some hundred.
     *
     * @param reference ten digits
     */
    @Transactional(readOnly = true)
    public List<NotificationApi.Notification> about(String reference) {
        var found = new ArrayList<>(outbox.list(Outbox.Filter.of(reference), null, MOST_TOLD));
        Collections.reverse(found);
        return found;
    }

    /** An event of an attempt, or one of its own. */
    static NewEvent about(UUID attempt, String kind, int revision) {
        return attempt == null ? NewEvent.operation(kind).at(revision) : NewEvent.of(kind, attempt, revision);
    }

    /**
     * What an alarm by this link would bring about; nothing is changed.
     *
     * @throws Problem 404 if there is no such link
     */
    @Transactional
    public List<Done> asked(String token) {
        var link = Sql.rows(
                        database,
                        "SELECT attempt, revision, person, raised_at IS NULL AS first FROM alarm_link WHERE token_hash = :hash",
                        Alarm.class)
                .setParameter("hash", keys.blind("alarm", token == null ? "" : token))
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.of("message-not-found").with("helpDesk", settings.helpDesk()));
        var asked = new AlarmAsked(link.attempt(), link.first(), new ArrayList<>());
        publisher.publishEvent(asked);
        return List.copyOf(asked.possible());
    }

    /**
     * Raises the alarm of a "this was not me" link.
     *
     * @param close whether self-service is to be closed, where the policy offers that
     * @throws Problem 404 if there is no such link
     */
    @Transactional
    public Raised alarm(String token, boolean close) {
        var raised = Sql.rows(database, """
                        WITH before AS (SELECT token_hash, raised_at FROM alarm_link WHERE token_hash = :hash FOR UPDATE)
                        UPDATE alarm_link a SET raised_at = coalesce(a.raised_at, :now) FROM before b
                        WHERE a.token_hash = b.token_hash
                        RETURNING a.attempt, a.revision, a.person, b.raised_at IS NULL AS first""", Alarm.class)
                .setParameter("now", clock.instant())
                .setParameter("hash", keys.blind("alarm", token == null ? "" : token))
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.of("message-not-found").with("helpDesk", settings.helpDesk()));
        events.write(about(raised.attempt(), "alarm.raised", raised.revision()));
        var alarm = new AlarmRaised(raised.attempt(), raised.first(), close, new ArrayList<>());
        publisher.publishEvent(alarm);
        return new Raised(Optional.ofNullable(raised.attempt()), List.copyOf(alarm.done()));
    }

    /**
     * An alarm that was raised.
     *
     * @param attempt that it is about; empty if it is about none
     * @param done what was done because of it
     */
    public record Raised(Optional<UUID> attempt, List<Done> done) {}

    /** What can be done because of an alarm. */
    public enum Done {
        ATTEMPT_ENDED,
        SELF_SERVICE_CLOSED
    }

    private record Alarm(UUID attempt, int revision, UUID person, boolean first) {}

    /**
     * An alarm was raised; published in the transaction that notes it.
     *
     * @param attempt null if it is about none
     * @param first whether no alarm was raised by this link before
     * @param close whether self-service is to be closed
     * @param done each listener adds what it did
     */
    public record AlarmRaised(UUID attempt, boolean first, boolean close, List<Done> done) {}

    /**
     * Asks what an alarm would do, without doing it.
     *
     * @param attempt null if it is about none
     * @param first whether no alarm was raised by this link before
     * @param possible each listener adds what it would do
     */
    public record AlarmAsked(UUID attempt, boolean first, List<Done> possible) {}

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
