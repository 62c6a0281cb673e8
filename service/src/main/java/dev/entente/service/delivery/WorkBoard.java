package dev.entente.service.delivery;

import dev.entente.service.directory.Directories;
import dev.entente.service.directory.Jobs;
import dev.entente.service.directory.StewardCalls.Caller;
import dev.entente.service.platform.WakeUps;
import dev.entente.wire.StewardApi;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Queue;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.EventListener;
import org.springframework.http.ResponseEntity;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;
import org.springframework.web.context.request.async.DeferredResult;

/**
 * Stewards that wait for work, on this node. A waiting steward holds neither a thread nor a database connection; a wake-up
 * hands it an order within milliseconds, and a slow look makes up for a lost wake-up.
 */
@Component
class WorkBoard {
    private static final Logger log = LoggerFactory.getLogger(WorkBoard.class);

    private final Leases leases;
    private final Jobs jobs;
    private final Directories directories;
    private final TransactionTemplate transaction;
    private final ScheduledExecutorService timer;
    private final ExecutorService handing = Executors.newFixedThreadPool(4);
    private final Map<UUID, Queue<Waiting>> waiting = new ConcurrentHashMap<>();
    /** Directories for which there may be work that no steward waited for when it came. */
    private final Set<UUID> missed = ConcurrentHashMap.newKeySet();

    WorkBoard(
            Leases leases,
            Jobs jobs,
            Directories directories,
            TransactionTemplate transaction,
            ScheduledExecutorService timer) {
        this.transaction = transaction;
        this.leases = leases;
        this.jobs = jobs;
        this.directories = directories;
        this.timer = timer;
    }

    private static final class Waiting {
        private final Caller caller;
        private final int room;
        private final DeferredResult<ResponseEntity<StewardApi.Work>> answer;
        private volatile boolean over;

        Waiting(Caller caller, int room, DeferredResult<ResponseEntity<StewardApi.Work>> answer) {
            this.caller = caller;
            this.room = room;
            this.answer = answer;
        }

        /** Answers with nothing, now or when the look that goes on for it has found nothing. */
        void end(Queue<Waiting> queue) {
            over = true;
            // Not after the queue's work is given away: an answer that was set twice would lose an order.
            if (queue.remove(this)) {
                answer.setResult(ResponseEntity.noContent().build());
            }
        }
    }

    /** Answers with work as soon as there is some, or with nothing when the time is up. */
    DeferredResult<ResponseEntity<StewardApi.Work>> ask(Caller caller, int room, Duration wait) {
        var answer = new DeferredResult<ResponseEntity<StewardApi.Work>>(wait.toMillis() + 30_000);
        var entry = new Waiting(caller, room, answer);
        var queue = waiting.computeIfAbsent(caller.directory(), d -> new ConcurrentLinkedQueue<>());
        // A steward waits once: an older call of its own is of a process that died, and would swallow an order.
        for (var older : queue) {
            if (older.caller.steward().equals(caller.steward())) {
                older.end(queue);
            }
        }
        queue.add(entry);
        timer.schedule(() -> entry.end(queue), wait.toMillis(), TimeUnit.MILLISECONDS);
        answer.onCompletion(() -> queue.remove(entry));
        // Otherwise it would have been handed to whoever waited, or the next look finds it.
        if (missed.remove(caller.directory())) {
            hand(caller.directory());
        }
        return answer;
    }

    @EventListener
    void wake(WakeUps.WorkWaits work) {
        var directory = UUID.fromString(work.directory());
        var queue = waiting.get(directory);
        if (queue == null || queue.isEmpty()) {
            missed.add(directory);
        }
        hand(directory);
    }

    /** One question for all that wait, whatever their number. */
    @Scheduled(fixedDelay = 1000)
    void look() {
        var those = waiting.entrySet().stream()
                .filter(entry -> !entry.getValue().isEmpty())
                .map(Map.Entry::getKey)
                .collect(Collectors.toSet());
        if (!those.isEmpty()) {
            transaction
                    .execute(status -> {
                        var wanted = new HashSet<>(leases.wanted(those));
                        wanted.addAll(jobs.wanted(those));
                        return wanted;
                    })
                    .forEach(this::hand);
        }
    }

    private void hand(UUID directory) {
        handing.execute(() -> {
            var queue = waiting.get(directory);
            var aside = new ArrayList<Waiting>();
            try {
                for (var next = queue == null ? null : queue.poll(); next != null; next = queue.poll()) {
                    // Whatever happens meanwhile, it goes on waiting.
                    aside.add(next);
                    var work = workFor(next);
                    if (work.isPresent()) {
                        aside.remove(next);
                        if (work.get().orders().isEmpty() || work.get().orders().size() >= next.room) {
                            // There may be more.
                            missed.add(directory);
                        }
                        next.answer.setResult(ResponseEntity.ok(work.get()));
                    } else if (leases.getsOrders(next.caller)) {
                        break;
                    }
                    // What one may not have, the next one may.
                }
            } finally {
                for (var one : aside) {
                    queue.add(one);
                    if (one.over) {
                        one.end(queue);
                    }
                }
            }
        });
    }

    private Optional<StewardApi.Work> workFor(Waiting waiting) {
        try {
            return transaction.execute(status -> workFor(waiting.caller, waiting.room));
        } catch (RuntimeException e) {
            log.warn("no work could be handed out: {}", e.getClass().getSimpleName());
            return Optional.empty();
        }
    }

    private Optional<StewardApi.Work> workFor(Caller caller, int room) {
        var leased = leases.lease(caller, room);
        if (!leased.isEmpty()) {
            return Optional.of(new StewardApi.Work(leased, null));
        }
        if (!directories.lists(caller.directory(), caller.steward())) {
            return Optional.empty();
        }
        return jobs.lease(caller.directory(), caller.steward())
                .or(() -> jobs.leaseChanges(caller.directory(), caller.steward()))
                .map(task -> new StewardApi.Work(List.of(), task));
    }
}
