package dev.entente.service.notification;

import dev.entente.core.policy.Occasion;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import java.time.Duration;
import java.time.InstantSource;
import java.util.Base64;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** What people chose not to be told of. Each message that they may do without has a link for that. */
@Component
@Transactional
public class Quiet {
    private static final Duration LINKS_LAST = Duration.ofDays(90);

    private final Session database;
    private final KeyRing keys;
    private final EventLog events;
    private final ServiceSettings settings;
    private final InstantSource clock;

    Quiet(Session database, KeyRing keys, EventLog events, ServiceSettings settings, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.events = events;
        this.settings = settings;
        this.clock = clock;
    }

    /** Whether the person does not want to be told. */
    @Transactional(readOnly = true)
    public boolean about(UUID person, Occasion occasion) {
        return Sql.values(database, "SELECT count(*) FROM quiet WHERE person = :person AND kind = :kind", Long.class)
                        .setParameter("person", person)
                        .setParameter("kind", occasion.label())
                        .getSingleResult()
                > 0;
    }

    /** Where the person can choose. */
    @Transactional(propagation = Propagation.MANDATORY)
    public String link(UUID person, Occasion occasion) {
        var token = Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(24));
        Sql.change(database, """
                        INSERT INTO quiet_link (token_hash, person, kind, made_at) VALUES (:hash, :person, :kind, :now)""")
                .setParameter("hash", keys.blind("quiet", token))
                .setParameter("person", person)
                .setParameter("kind", occasion.label())
                .setParameter("now", clock.instant())
                .executeUpdate();
        return settings.publicUrl().resolve("/quiet#") + token;
    }

    private record Link(UUID person, String kind) {}

    /**
     * Somebody followed such a link and chose.
     *
     * @param off whether they do not want to be told any more
     * @return of what
     * @throws Problem 404 if there is no such link, or it is too old
     */
    public Occasion choose(String token, boolean off) {
        var link = Sql.rows(
                        database,
                        "SELECT person, kind FROM quiet_link WHERE token_hash = :hash AND made_at > :since",
                        Link.class)
                .setParameter("hash", keys.blind("quiet", token == null ? "" : token))
                .setParameter("since", clock.instant().minus(LINKS_LAST))
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.of("message-not-found/older-link"));
        var changed = off
                ? Sql.change(database, """
                                INSERT INTO quiet (person, kind, since) VALUES (:person, :kind, :now)
                                ON CONFLICT DO NOTHING""").setParameter("now", clock.instant())
                : Sql.change(database, "DELETE FROM quiet WHERE person = :person AND kind = :kind");
        var done = changed.setParameter("person", link.person())
                .setParameter("kind", link.kind())
                .executeUpdate();
        if (done > 0) {
            events.write(NewEvent.operation("notification.switched-off")
                    .with("message", link.kind())
                    .with("person", link.person().toString())
                    .with("off", off));
        }
        return Occasion.labelled(link.kind()).orElseThrow();
    }

    @Scheduled(fixedDelay = 3_600_000, initialDelay = 180_000)
    void forget() {
        Sql.change(database, "DELETE FROM quiet_link WHERE made_at < :before")
                .setParameter("before", clock.instant().minus(LINKS_LAST))
                .executeUpdate();
    }
}
