package dev.entente.service.portal;

import dev.entente.service.attempt.Attempts;
import dev.entente.service.delivery.Deliveries;
import dev.entente.service.platform.WakeUps;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Supplier;
import org.springframework.context.event.EventListener;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

/**
 * Pages that wait, on this node: one for an attempt, the latest. A waiting page holds neither a thread nor a database
 * connection, and is told only what changed. What cannot be told at once, since too much is to be told, is told by the next
 * look.
 */
@Component
class AttemptUpdates {
    private static final long LONGEST = 90_000;
    /** Of several directories, the next one is mostly done within that. */
    private static final long PROGRESS = 400;

    private static final int WAITING_TO_BE_TOLD = 1000;

    private final Map<UUID, Page> pages = new ConcurrentHashMap<>();
    private final Attempts attempts;
    private final Deliveries deliveries;
    private final ScheduledExecutorService timer;
    private final ExecutorService telling = new ThreadPoolExecutor(
            4,
            4,
            0,
            TimeUnit.SECONDS,
            new ArrayBlockingQueue<>(WAITING_TO_BE_TOLD),
            new ThreadPoolExecutor.DiscardPolicy());

    AttemptUpdates(Attempts attempts, Deliveries deliveries, ScheduledExecutorService timer) {
        this.timer = timer;
        this.attempts = attempts;
        this.deliveries = deliveries;
    }

    private static final class Page {
        private final SseEmitter emitter = new SseEmitter(LONGEST);
        private final Supplier<PortalApi.Attempt> view;
        private final AtomicBoolean waits = new AtomicBoolean();
        private final AtomicBoolean progressed = new AtomicBoolean();
        private volatile String stamp = "";
        private PortalApi.Attempt told;

        Page(Supplier<PortalApi.Attempt> view) {
            this.view = view;
        }

        /** One at a time for a page, so that an older view never follows a newer one. */
        synchronized void tell() {
            waits.set(false);
            progressed.set(false);
            try {
                send(view.get());
            } catch (IOException | RuntimeException e) {
                // The page went away or its attempt did; it asks again by itself if it is still there.
                emitter.complete();
            }
        }

        /** What is known already; not if something newer was told meanwhile. */
        synchronized void tell(PortalApi.Attempt first) {
            try {
                if (told == null) {
                    send(first);
                }
            } catch (IOException | RuntimeException e) {
                emitter.complete();
            }
        }

        private void send(PortalApi.Attempt now) throws IOException {
            if (!Objects.equals(now, told)) {
                emitter.send(now);
                told = now;
            }
        }
    }

    /** An attempt as it is when somebody begins to follow it. */
    record Now(UUID attempt, PortalApi.Attempt view) {}

    SseEmitter follow(Now now, Supplier<PortalApi.Attempt> view) {
        var attempt = now.attempt();
        var page = new Page(view);
        var before = pages.put(attempt, page);
        if (before != null) {
            before.emitter.complete();
        }
        Runnable forget = () -> pages.remove(attempt, page);
        page.emitter.onCompletion(forget);
        page.emitter.onTimeout(page.emitter::complete);
        page.emitter.onError(e -> forget.run());
        telling.execute(() -> page.tell(now.view()));
        return page.emitter;
    }

    private void tell(Page page) {
        // However often it changes until its turn comes, the page is told once.
        if (page.waits.compareAndSet(false, true)) {
            telling.execute(page::tell);
        }
    }

    @EventListener
    void changed(WakeUps.AttemptChanged change) {
        var page = pages.get(UUID.fromString(change.attempt()));
        if (page == null) {
            return;
        }
        if (!change.more()) {
            tell(page);
        } else if (page.progressed.compareAndSet(false, true)) {
            timer.schedule(
                    () -> {
                        // Unless it was told meanwhile, together with what followed.
                        if (page.progressed.get()) {
                            tell(page);
                        }
                    },
                    PROGRESS,
                    TimeUnit.MILLISECONDS);
        }
    }

    /** Makes up for a lost wake-up: one question for all pages, and nothing is put together where nothing changed. */
    @Scheduled(fixedDelay = 3000)
    void look() {
        var waiting = Set.copyOf(pages.keySet());
        if (waiting.isEmpty()) {
            return;
        }
        var standing = attempts.stamps(waiting);
        var carried = deliveries.stamps(waiting);
        waiting.forEach(attempt -> {
            var page = pages.get(attempt);
            if (page == null) {
                return;
            }
            var stamp = standing.get(attempt) + " " + carried.get(attempt);
            if (!stamp.equals(page.stamp)) {
                page.stamp = stamp;
                page.waits.set(false);
                tell(page);
            }
        });
    }
}
