package dev.entente.e2e;

import java.util.Optional;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.Semaphore;
import java.util.concurrent.atomic.AtomicInteger;

/**
 * The installations of one kind that the tests of a run share: started when they are first needed, never more than a few. A class of
 * tests has one for itself, from its first test to its last; whoever finds none waits until another class has ended.
 */
final class Pool<W extends Installation> {
    /** How one is started. */
    interface Start<W> {
        W number(int number) throws Exception;
    }

    private final Start<W> start;
    // Who came first is served first.
    private final Semaphore free;
    private final Queue<W> idle = new ConcurrentLinkedQueue<>();
    private final AtomicInteger started = new AtomicInteger();
    private final ThreadLocal<W> taken = new ThreadLocal<>();
    private volatile RuntimeException broken;

    /** @param start starts the one of this number, from one on */
    Pool(int most, Start<W> start) {
        this.start = start;
        this.free = new Semaphore(most, true);
    }

    /** The one that the class of tests on this thread has. */
    W get() {
        var mine = taken.get();
        if (mine == null) {
            mine = take();
            taken.set(mine);
        }
        return mine;
    }

    /** The one that the class of tests on this thread has, if it asked for any. */
    Optional<W> mine() {
        return Optional.ofNullable(taken.get());
    }

    private W take() {
        try {
            free.acquire();
            if (broken != null) {
                throw broken;
            }
            var one = idle.poll();
            return one != null ? one : start.number(started.incrementAndGet());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        } catch (Exception | AssertionError e) {
            // Nobody else waits for what will not come.
            broken = broken != null
                    ? broken
                    : new IllegalStateException("it could not be started: " + e.getMessage(), e);
            free.release();
            throw broken;
        }
    }

    /** The class of tests on this thread has ended. */
    void giveBack() {
        mine().ifPresent(one -> {
            taken.remove();
            idle.add(one);
            free.release();
        });
    }
}
