package dev.entente.service.outlet;

import dev.entente.service.audit.AuditTrail;
import dev.entente.service.platform.WhenDue;
import jakarta.annotation.PreDestroy;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Tells outlets what was sealed. One node has an outlet at a time, by a lease whose number is asked for whenever the cursor moves: a node
 * that was held up for longer than its lease may tell something twice, and moves nothing. An outlet that has to wait holds up no other.
 */
@Component
class OutletWorker {
    private static final Logger log = LoggerFactory.getLogger(OutletWorker.class);
    /** Longer than a receiver may take for one lot of events. */
    private static final Duration TURN = Duration.ofMinutes(2);
    /** Events that are looked at together. */
    private static final int AT_ONCE = 200;
    /** Between two tries of a receiver that is away. */
    private static final Duration LONGEST_WAIT = Duration.ofMinutes(5);

    private final Outlets outlets;
    private final AuditTrail trail;
    private final InstantSource clock;
    private final TransactionTemplate transaction;
    private final ExecutorService telling = Executors.newCachedThreadPool();

    OutletWorker(Outlets outlets, AuditTrail trail, InstantSource clock, TransactionTemplate transaction) {
        this.outlets = outlets;
        this.trail = trail;
        this.clock = clock;
        this.transaction = transaction;
    }

    @PreDestroy
    void stop() {
        telling.shutdown();
    }

    @WhenDue("""
            SELECT FROM outlet WHERE state = 'FOLLOWING' AND next_try <= entente_now() AND leased_until <= entente_now()
                AND kind <> 'SECURITY_EVENTS_FETCHED' AND position < (SELECT size FROM sealed_events)""")
    void tell() {
        transaction.execute(status -> outlets.take(TURN)).forEach(one -> telling.execute(() -> tell(one)));
    }

    private void tell(Outlet mine) {
        try {
            var end = clock.instant().plus(TURN);
            for (var outlet = mine; outlet != null; ) {
                outlet = step(outlet, end);
            }
        } catch (RuntimeException e) {
            // Such as a database that is away: the lease ends by itself.
            log.warn("the outlet {} waits: {}", mine.name(), e.getClass().getSimpleName());
        }
    }

    /** The outlet to go on with; null if there is nothing more to do now. */
    private Outlet step(Outlet outlet, Instant end) {
        var stretch = transaction.execute(status -> trail.stretch(outlet.position(), AT_ONCE));
        var wanted = stretch.events().stream()
                .filter(outlet::wants)
                .map(outlet::told)
                .toList();
        try {
            if (!wanted.isEmpty()) {
                outlets.receiver(outlet.kind()).send(outlet, wanted);
            }
        } catch (NotTaken e) {
            // From the first that was not taken; what stands before it was taken or is not wanted.
            var position = wanted.get(e.taken()).seq();
            transaction.executeWithoutResult(status ->
                    outlets.failed(outlet, position, e, clock.instant().plus(pause(outlet.failures()))));
            return null;
        }
        var over = stretch.last() || clock.instant().isAfter(end);
        var now = clock.instant();
        return transaction
                .execute(
                        status -> outlets.came(outlet, stretch.next(), !wanted.isEmpty(), over ? null : now.plus(TURN)))
                .filter(next -> !over)
                .orElse(null);
    }

    private static Duration pause(int failures) {
        var wait = Duration.ofSeconds(1L << Math.min(failures, 10));
        return wait.compareTo(LONGEST_WAIT) > 0 ? LONGEST_WAIT : wait;
    }
}
