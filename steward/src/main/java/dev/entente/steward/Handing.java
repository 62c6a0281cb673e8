package dev.entente.steward;

import dev.entente.steward.target.Target;
import dev.entente.wire.StewardApi;
import java.io.IOException;
import java.util.List;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicReference;

/**
 * Hands batches to the service while the next are read. A few wait in between and no more: a slow service makes the directory
 * wait, and memory stays as it is.
 */
final class Handing implements Target.Sink, AutoCloseable {
    private static final int WAITING = 4;
    private static final int THREADS = 2;
    private static final StewardApi.Batch END = StewardApi.Batch.ous(List.of());

    private final BlockingQueue<StewardApi.Batch> queue = new ArrayBlockingQueue<>(WAITING);
    private final AtomicReference<String> failed = new AtomicReference<>();
    private final Thread[] threads = new Thread[THREADS];

    /** Takes one batch. */
    interface Receiver {
        void take(StewardApi.Batch batch) throws IOException, InterruptedException;
    }

    /** The service did not take a batch. */
    static final class NotTaken extends RuntimeException {
        NotTaken(String message) {
            super(message, null, false, false);
        }
    }

    Handing(Receiver receiver) {
        for (var i = 0; i < THREADS; i++) {
            threads[i] = new Thread(() -> run(receiver), "handing");
            threads[i].start();
        }
    }

    private void run(Receiver receiver) {
        try {
            for (var batch = queue.take(); batch != END; batch = queue.take()) {
                if (failed.get() == null) {
                    receiver.take(batch);
                }
            }
        } catch (IOException | RuntimeException e) {
            failed.compareAndSet(null, String.valueOf(e.getMessage()));
        } catch (InterruptedException e) {
            failed.compareAndSet(null, "interrupted");
        }
    }

    @Override
    public void take(StewardApi.Batch batch) {
        try {
            while (!queue.offer(batch, 1, TimeUnit.SECONDS)) {
                complain();
            }
            complain();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new NotTaken("interrupted");
        }
    }

    private void complain() {
        if (failed.get() != null) {
            throw new NotTaken(failed.get());
        }
    }

    /** Waits until everything was taken. */
    void finish() throws InterruptedException {
        for (var i = 0; i < THREADS; i++) {
            take(END);
        }
        for (var thread : threads) {
            thread.join();
        }
        complain();
    }

    @Override
    public void close() {
        for (var thread : threads) {
            thread.interrupt();
        }
    }
}
