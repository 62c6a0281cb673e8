package dev.entente.service.portal;

import dev.entente.service.platform.WakeUps;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.util.Map;
import java.util.Queue;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.locks.Lock;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Supplier;
import org.springframework.context.event.EventListener;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

/** Pages that wait, on this node. A waiting page holds neither a thread nor a database connection. */
@Component
class AttemptUpdates {
    private static final long LONGEST = 90_000;
    private static final int MOST_FOR_ONE = 4;

    private final Map<UUID, Queue<Page>> pages = new ConcurrentHashMap<>();
    private final ExecutorService telling = Executors.newFixedThreadPool(4);

    private record Page(SseEmitter emitter, Supplier<PortalApi.Attempt> view, Lock lock) {}

    SseEmitter follow(UUID attempt, Supplier<PortalApi.Attempt> view) {
        var emitter = new SseEmitter(LONGEST);
        var page = new Page(emitter, view, new ReentrantLock());
        var queue = pages.computeIfAbsent(attempt, a -> new ConcurrentLinkedQueue<>());
        while (queue.size() >= MOST_FOR_ONE) {
            var oldest = queue.poll();
            if (oldest != null) {
                oldest.emitter().complete();
            }
        }
        queue.add(page);
        Runnable forget = () -> {
            queue.remove(page);
            pages.computeIfPresent(attempt, (a, q) -> q.isEmpty() ? null : q);
        };
        emitter.onCompletion(forget);
        emitter.onError(e -> forget.run());
        telling.execute(() -> tell(page));
        return emitter;
    }

    @EventListener
    void changed(WakeUps.AttemptChanged change) {
        tellAll(UUID.fromString(change.attempt()));
    }

    /** Makes up for a lost wake-up, and finds out about pages that went away. */
    @Scheduled(fixedDelay = 3000)
    void look() {
        pages.keySet().forEach(this::tellAll);
    }

    private void tellAll(UUID attempt) {
        var queue = pages.get(attempt);
        if (queue != null) {
            queue.forEach(page -> telling.execute(() -> tell(page)));
        }
    }

    private static void tell(Page page) {
        // One at a time for a page, so that an older view never follows a newer one.
        page.lock().lock();
        try {
            page.emitter().send(page.view().get());
        } catch (IOException | RuntimeException e) {
            // The page went away or its attempt did; it asks again by itself if it is still there.
            page.emitter().complete();
        } finally {
            page.lock().unlock();
        }
    }
}
