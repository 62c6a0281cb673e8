package dev.entente.service.attempt;

import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import jakarta.annotation.PreDestroy;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionSynchronization;
import org.springframework.transaction.support.TransactionSynchronizationManager;

/** Work that an answer must not wait for, since how long it takes depends on the name that was typed. In order, and bounded. */
@Component
class BehindAnswers {
    private static final Logger log = LoggerFactory.getLogger(BehindAnswers.class);
    private static final int THREADS = 4;
    private static final int MOST = 2000;
    private static final int TRIES = 20;
    private static final long AGAIN = 1000;
    private static final long A_WHILE = 150;

    private final ServiceSettings settings;
    private final ScheduledExecutorService timer;
    private final ThreadPoolExecutor working =
            new ThreadPoolExecutor(THREADS, THREADS, 0, TimeUnit.SECONDS, new LinkedBlockingQueue<>());

    BehindAnswers(ServiceSettings settings, ScheduledExecutorService timer) {
        this.settings = settings;
        this.timer = timer;
    }

    /** @throws Problem 503 if so much waits that it could not be done while somebody waits for it */
    void checkRoom() {
        if (working.getQueue().size() > MOST) {
            throw busy();
        }
    }

    /** The problem for a caller who should try again later. */
    Problem busy() {
        return Problem.of("busy/portal").with("helpDesk", settings.helpDesk()).with("retryAfter", 30);
    }

    /**
     * Does it as soon as somebody is free, and not before the transaction that runs has committed; while the database is away
     * it is tried again.
     */
    void run(Runnable work) {
        if (!TransactionSynchronizationManager.isSynchronizationActive()) {
            run(work, TRIES);
            return;
        }
        TransactionSynchronizationManager.registerSynchronization(new TransactionSynchronization() {
            @Override
            public void afterCommit() {
                run(work, TRIES);
            }
        });
    }

    /** Does it a while later, as when it has to wait for something else. */
    void later(Runnable work) {
        timer.schedule(() -> run(work), A_WHILE, TimeUnit.MILLISECONDS);
    }

    private void run(Runnable work, int tries) {
        working.execute(() -> {
            try {
                work.run();
            } catch (RuntimeException e) {
                log.warn("work behind an answer failed: {}", e.getClass().getSimpleName());
                if (tries > 1) {
                    timer.schedule(() -> run(work, tries - 1), AGAIN, TimeUnit.MILLISECONDS);
                }
            }
        });
    }

    @PreDestroy
    void stop() throws InterruptedException {
        working.shutdown();
        working.awaitTermination(3, TimeUnit.SECONDS);
    }
}
