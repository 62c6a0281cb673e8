package dev.entente.service.overview;

import dev.entente.core.notice.Finding;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.notice.NoticeFollower;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import java.sql.Timestamp;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.HashSet;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Puts on record what begins to need attention, and when it is settled: administrators are told from there. What is no error is told when it
 * is still there a minute later, so that a steward that is started anew alarms nobody.
 */
@Component
class AttentionWatch {
    private static final Duration EVERY = Duration.ofMinutes(1);

    private final Session database;
    private final NeedsAttention needs;
    private final EventLog events;
    private final NoticeFollower notices;
    private final InstantSource clock;

    AttentionWatch(
            Session database, NeedsAttention needs, EventLog events, NoticeFollower notices, InstantSource clock) {
        this.database = database;
        this.needs = needs;
        this.events = events;
        this.notices = notices;
        this.clock = clock;
    }

    private record Known(String key, String what, String about, String says, Instant since, Instant toldAt) {}

    // A clock that was set back makes nobody wait for the time it showed before.
    @WhenDue("""
            SELECT FROM attention_look WHERE next_at <= entente_now() OR next_at > entente_now() + interval '2 minutes'""")
    @Transactional
    void look() {
        var now = clock.instant();
        var mine = Sql.change(
                        database, "UPDATE attention_look SET next_at = :next WHERE next_at <= :now OR next_at > :far")
                .setParameter("next", Timestamp.from(now.plus(EVERY)))
                .setParameter("far", Timestamp.from(now.plus(EVERY.multipliedBy(2))))
                .setParameter("now", Timestamp.from(now))
                .executeUpdate();
        if (mine == 0) {
            return;
        }
        var known = new HashMap<String, Known>();
        Sql.rows(database, "SELECT key, what, about, says, since, told_at FROM attention", Known.class)
                .getResultStream()
                .forEach(one -> known.put(one.key(), one));
        var there = new HashSet<String>();
        for (var need : needs.now()) {
            if (!need.shown().severity().equals("info") && there.add(need.id())) {
                found(need, known.get(need.id()), now);
            }
        }
        known.values().stream().filter(one -> !there.contains(one.key())).forEach(this::settled);
    }

    private void found(NeedsAttention.Need need, Known before, Instant now) {
        var tell = before == null ? need.shown().severity().equals("error") : before.toldAt() == null;
        if (before != null && !tell && before.says().equals(need.shown().text())) {
            return;
        }
        Sql.change(database, """
                        INSERT INTO attention (key, what, about, severity, says, since, told_at)
                        VALUES (:key, :what, cast(:about AS text), :severity, :says, :now, cast(:told AS timestamptz))
                        ON CONFLICT (key) DO UPDATE SET says = excluded.says, severity = excluded.severity,
                            told_at = coalesce(attention.told_at, excluded.told_at)""")
                .setParameter("key", need.id())
                .setParameter("what", need.what().label())
                .setParameter("about", need.about())
                .setParameter("severity", need.shown().severity())
                .setParameter("says", need.shown().text())
                .setParameter("now", Timestamp.from(now))
                .setParameter("told", tell ? Timestamp.from(now) : null)
                .executeUpdate();
        if (tell) {
            events.write(NewEvent.operation("attention.appeared")
                    .with("what", need.what().label())
                    .with("about", need.about())
                    .with("severity", need.shown().severity())
                    .withPersonal("says", need.shown().text()));
            if (need.what() == Finding.RECORD_IN_DOUBT) {
                notices.recordInDoubt(need.shown().text());
            }
        }
    }

    private void settled(Known gone) {
        Sql.change(database, "DELETE FROM attention WHERE key = :key")
                .setParameter("key", gone.key())
                .executeUpdate();
        if (gone.toldAt() != null) {
            events.write(NewEvent.operation("attention.settled")
                    .with("what", gone.what())
                    .with("about", gone.about())
                    .withPersonal("says", gone.says()));
        }
    }
}
