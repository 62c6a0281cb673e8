package dev.entente.service.notification;

import dev.entente.core.policy.Action;
import dev.entente.core.verify.OneTimeCode;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import java.util.List;
import java.util.UUID;
import org.hibernate.Session;
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
    private final ServiceSettings settings;
    private final JsonMapper json;
    private final InstantSource clock;

    Notifications(
            Session database,
            EventLog events,
            KeyRing keys,
            ServiceSettings settings,
            JsonMapper json,
            InstantSource clock) {
        this.database = database;
        this.events = events;
        this.keys = keys;
        this.settings = settings;
        this.json = json;
        this.clock = clock;
    }

    /** What is sent; {@code to} is null for decoys, which take the same path and are dropped at its end. */
    record Message(String to, String subject, String text) {}

    /** To whom a message goes and about what. */
    public record About(UUID attempt, int revision, String to, String name) {}

    /** A code for a challenge. Its payload is dropped when the code expires. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void code(About about, OneTimeCode code, String reference, Instant expires) {
        var text = """
                Hello %s,

                your code is

                    %s

                Type it on the page where you asked for it. It is valid for %s.
                Never tell it to anybody: nobody from %s will ask for it.

                If you did not ask for it, somebody typed your name by mistake or on purpose. Without the code nothing
                happens. If it repeats, tell the help desk: %s.

                Reference: %s
                """.formatted(
                about.name(), code.spaced(), minutes(expires), settings.organisation(), settings.helpDesk(), reference);
        queue(about, "code", new Message(about.to(), settings.organisation() + ": your code", text), expires);
    }

    private String minutes(Instant until) {
        var minutes = Math.max(
                1, Duration.between(clock.instant(), until).plusSeconds(30).toMinutes());
        return minutes + (minutes == 1 ? " minute" : " minutes");
    }

    /** Tells the person what was done, with a link to say that it was somebody else. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void done(About about, String reference, Action action, List<String> where) {
        var token = Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(24));
        database.createNativeMutationQuery("INSERT INTO alarm_link (token_hash, attempt) VALUES (:hash, :attempt)")
                .setParameter("hash", keys.blind("alarm", token))
                .setParameter("attempt", about.attempt())
                .executeUpdate();
        var said = switch (action) {
            case UNLOCK -> "your account was unlocked";
            case CHANGE -> "your password was changed";
            case TEMPORARY -> "an administrator gave you a temporary password";
            case DETAILS -> "the ways to prove who you are were changed";
            default -> "your password was reset";
        };
        var kind = switch (action) {
            case UNLOCK -> "account-unlocked";
            case CHANGE -> "password-changed";
            case TEMPORARY -> "temporary-password";
            case DETAILS -> "methods-changed";
            default -> "password-reset";
        };
        var text = """
                Hello %s,

                %s just now (%s).

                If it was you%s, there is nothing to do.

                If it was NOT you, open this link at once:
                %s
                or tell the help desk: %s.

                Reference: %s
                """.formatted(
                        about.name(),
                        said,
                        String.join(", ", where),
                        action == Action.TEMPORARY ? " who asked for it" : "",
                        settings.publicUrl().resolve("/not-me#") + token,
                        settings.helpDesk(),
                        reference);
        queue(
                about,
                kind,
                new Message(about.to(), settings.organisation() + ": " + said, text),
                clock.instant().plus(NOTICE_LIFE));
    }

    private void queue(About about, String kind, Message message, Instant expires) {
        var id = UUID.randomUUID();
        database.createNativeMutationQuery("""
                        INSERT INTO notification (id, attempt, kind, payload, state, next_try, created_at, expires_at)
                        VALUES (:id, :attempt, :kind, :payload, 'queued', :now, :now, :expires)""")
                .setParameter("id", id)
                .setParameter("attempt", about.attempt())
                .setParameter("kind", kind)
                .setParameter("payload", keys.encrypt("notification " + id, json.writeValueAsString(message)))
                .setParameter("now", clock.instant())
                .setParameter("expires", expires)
                .executeUpdate();
        events.write(NewEvent.of("notification.queued", about.attempt(), about.revision())
                .with("message", kind)
                .with("notification", id.toString()));
    }

    /**
     * Somebody followed a "this was not me" link.
     *
     * @return the attempt that it is about
     */
    @Transactional
    public UUID alarm(String token) {
        var rows = database.createNativeQuery("""
                        UPDATE alarm_link SET raised_at = coalesce(raised_at, :now) WHERE token_hash = :hash
                        RETURNING attempt""", UUID.class)
                .setParameter("now", clock.instant())
                .setParameter("hash", keys.blind("alarm", token == null ? "" : token))
                .getResultList();
        if (rows.isEmpty()) {
            throw Problem.missing("message with this link; tell the help desk: " + settings.helpDesk());
        }
        events.write(NewEvent.of("alarm.raised", rows.get(0), 0));
        return rows.get(0);
    }

    /** References of attempts that somebody raised an alarm about since a time. */
    @Transactional(readOnly = true)
    public List<String> alarms(Instant since) {
        return database.createNativeQuery("""
                        SELECT a.reference FROM alarm_link l JOIN attempt a ON a.id = l.attempt
                        WHERE l.raised_at > :since ORDER BY l.raised_at DESC""", String.class)
                .setParameter("since", since)
                .getResultList();
    }
}
