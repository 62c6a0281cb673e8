package dev.entente.service.audit;

import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import java.sql.Timestamp;
import java.time.Duration;
import java.time.InstantSource;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Once an hour, if anything happened, the latest checkpoint is itself put on record. So it goes wherever events go, by outlets and in the
 * lists that administrators are sent, to places that whoever operates the service can't rewrite.
 */
@Component
class CheckpointTeller {
    private static final Duration EVERY = Duration.ofHours(1);

    private final Session database;
    private final RecordSigner signer;
    private final EventLog events;
    private final InstantSource clock;

    CheckpointTeller(Session database, RecordSigner signer, EventLog events, InstantSource clock) {
        this.database = database;
        this.signer = signer;
        this.events = events;
        this.clock = clock;
    }

    /**
     * That a checkpoint was told is an event as well, and nothing to tell of by itself. A clock that was set back makes nobody wait for the
     * time it showed before.
     */
    @WhenDue("""
            SELECT FROM checkpoint_told WHERE (next_at <= entente_now() OR next_at > entente_now() + interval '2 hours')
                AND size + 1 < (SELECT coalesce(max(seq) + 1, 0) FROM event_leaf)""")
    @Transactional
    public void tell() {
        var now = clock.instant();
        var latest = signer.latest();
        if (latest.isEmpty()) {
            return;
        }
        var mine = Sql.change(
                        database,
                        "UPDATE checkpoint_told SET size = :size, next_at = :next WHERE next_at <= :now OR next_at > :far")
                .setParameter("far", Timestamp.from(now.plus(EVERY.multipliedBy(2))))
                .setParameter("size", latest.get().size())
                .setParameter("next", Timestamp.from(now.plus(EVERY)))
                .setParameter("now", Timestamp.from(now))
                .executeUpdate();
        if (mine == 1) {
            events.write(NewEvent.operation("record.signed")
                    .with("size", latest.get().size())
                    .with("statement", latest.get().statement()));
        }
    }
}
