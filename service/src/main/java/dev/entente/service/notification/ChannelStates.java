package dev.entente.service.notification;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.Standing;
import java.sql.Timestamp;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Objects;
import java.util.Optional;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/** Whether ways to send work, as the last message or test showed; a change of it is on record. */
@Component
class ChannelStates {
    private final Session database;
    private final EventLog events;
    private final Standing standing;
    private final InstantSource clock;
    private final TransactionTemplate transaction;

    ChannelStates(
            Session database,
            EventLog events,
            Standing standing,
            InstantSource clock,
            TransactionTemplate transaction) {
        this.database = database;
        this.events = events;
        this.standing = standing;
        this.clock = clock;
        this.transaction = transaction;
    }

    /** @param why it does not work; null if it does */
    record State(boolean works, String why, Instant since) {}

    private record Shown(Optional<State> state) {}

    /** @return empty if nothing was sent that way yet */
    Optional<State> of(String way) {
        return transaction
                .execute(status -> standing.kept(
                        Standing.Topic.CHANNEL,
                        "state of " + way,
                        Shown.class,
                        () -> new Shown(Sql.rows(
                                        database,
                                        "SELECT works, why, since FROM channel_state WHERE channel = :way",
                                        State.class)
                                .setParameter("way", way)
                                .getResultStream()
                                .findFirst())))
                .state();
    }

    /** What the last try showed. */
    void showed(String way, boolean works, String why) {
        if (of(way).filter(s -> s.works() == works && Objects.equals(s.why(), why))
                .isPresent()) {
            return;
        }
        transaction.executeWithoutResult(status -> {
            var changed = Sql.change(database, """
                            INSERT INTO channel_state (channel, works, why, since) VALUES (:way, :works, :why, :now)
                            ON CONFLICT (channel) DO UPDATE SET works = :works, why = :why,
                                since = CASE WHEN channel_state.works = :works THEN channel_state.since ELSE :now END
                            WHERE channel_state.works <> :works OR channel_state.why IS DISTINCT FROM :why""")
                    .setParameter("way", way)
                    .setParameter("works", works)
                    .setParameter("why", why)
                    .setParameter("now", Timestamp.from(clock.instant()))
                    .executeUpdate();
            if (changed == 1) {
                events.write(NewEvent.operation(works ? "channel.works" : "channel.broken")
                        .with("channel", way)
                        .with("why", why));
            }
        });
    }

    /** What was removed has no state any more. */
    void forget(String way) {
        Sql.change(database, "DELETE FROM channel_state WHERE channel = :way")
                .setParameter("way", way)
                .executeUpdate();
    }
}
