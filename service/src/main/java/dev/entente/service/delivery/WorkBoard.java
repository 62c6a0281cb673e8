package dev.entente.service.delivery;

import dev.entente.service.directory.Jobs;
import dev.entente.service.directory.StewardCalls.Caller;
import dev.entente.service.platform.WakeUps;
import dev.entente.wire.StewardApi;
import java.time.Duration;
import java.util.Map;
import java.util.Optional;
import java.util.Queue;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.EventListener;
import org.springframework.http.ResponseEntity;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.web.context.request.async.DeferredResult;

/**
 * Stewards that wait for work, on this node. A waiting steward holds neither a thread nor a database connection; a wake-up
 * hands it an order within milliseconds, and a slow look makes up for a lost wake-up.
 */
@Component
class WorkBoard {
    private static final Logger log = LoggerFactory.getLogger(WorkBoard.class);

    private final Deliveries deliveries;
    private final Jobs jobs;
    private final ScheduledExecutorService timer;
    private final ExecutorService handing = Executors.newFixedThreadPool(4);
    private final Map<UUID, Queue<Waiting>> waiting = new ConcurrentHashMap<>();

    WorkBoard(Deliveries deliveries, Jobs jobs, ScheduledExecutorService timer) {
        this.deliveries = deliveries;
        this.jobs = jobs;
        this.timer = timer;
    }

    private record Waiting(Caller caller, DeferredResult<ResponseEntity<StewardApi.Work>> answer) {}

    /** Answers with work as soon as there is some, or with nothing when the time is up. */
    DeferredResult<ResponseEntity<StewardApi.Work>> ask(Caller caller, Duration wait) {
        var answer = new DeferredResult<ResponseEntity<StewardApi.Work>>(wait.toMillis() + 30_000);
        var entry = new Waiting(caller, answer);
        var queue = waiting.computeIfAbsent(caller.directory(), d -> new ConcurrentLinkedQueue<>());
        // A steward waits once: an older call of its own is of a process that died, and would swallow an order.
        queue.removeIf(older -> older.caller().steward().equals(caller.steward()));
        queue.add(entry);
        // Not after the queue's work is given away: an answer that was set twice would lose an order.
        timer.schedule(
                () -> {
                    if (queue.remove(entry)) {
                        answer.setResult(ResponseEntity.noContent().build());
                    }
                },
                wait.toMillis(),
                TimeUnit.MILLISECONDS);
        answer.onCompletion(() -> queue.remove(entry));
        hand(caller.directory());
        return answer;
    }

    @EventListener
    void wake(WakeUps.WorkWaits work) {
        hand(UUID.fromString(work.directory()));
    }

    @Scheduled(fixedDelay = 2000)
    void look() {
        waiting.forEach((directory, queue) -> {
            if (!queue.isEmpty()) {
                hand(directory);
            }
        });
    }

    private void hand(UUID directory) {
        handing.execute(() -> {
            var queue = waiting.get(directory);
            for (var next = queue == null ? null : queue.poll(); next != null; next = queue.poll()) {
                var work = workFor(next.caller());
                if (work.isEmpty()) {
                    queue.add(next);
                    return;
                }
                next.answer().setResult(ResponseEntity.ok(work.get()));
            }
        });
    }

    private Optional<StewardApi.Work> workFor(Caller caller) {
        try {
            var order = deliveries.lease(caller.directory(), caller.steward(), caller.name());
            return order.isPresent()
                    ? order.map(o -> new StewardApi.Work(o, null))
                    : jobs.lease(caller.directory(), caller.steward()).map(t -> new StewardApi.Work(null, t));
        } catch (RuntimeException e) {
            log.warn("no work could be handed out: {}", e.getClass().getSimpleName());
            return Optional.empty();
        }
    }
}
