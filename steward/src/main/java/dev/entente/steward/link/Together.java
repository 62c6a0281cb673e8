package dev.entente.steward.link;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.LinkedBlockingQueue;

/**
 * Lets those who ask at the same time ask in one call: whoever comes while a call is under way waits for the next one, which
 * takes all of them along. Alone, nobody waits.
 *
 * @param <T> what is asked
 */
final class Together<T> {
    private static final int MOST = 64;

    private final Call<T> call;
    private final BlockingQueue<Asked<T>> waiting = new LinkedBlockingQueue<>();

    /** One call for several; answers come in the same order. */
    interface Call<T> {
        List<Boolean> ask(List<T> all) throws IOException, InterruptedException;
    }

    private record Asked<T>(T what, CompletableFuture<Boolean> answer) {}

    Together(Call<T> call) {
        this.call = call;
        var thread = new Thread(this::run, "together");
        thread.setDaemon(true);
        thread.start();
    }

    /** Does not wait; the answer, or why there is none, comes later. */
    CompletableFuture<Boolean> hand(T what) {
        var asked = new Asked<>(what, new CompletableFuture<>());
        waiting.add(asked);
        return asked.answer();
    }

    /** Waits for the answer. */
    boolean ask(T what) throws IOException, InterruptedException {
        try {
            return hand(what).get();
        } catch (ExecutionException e) {
            if (e.getCause() instanceof IOException io) {
                // Thrown anew, so that it tells where it was asked.
                throw new IOException(io.getMessage(), io);
            }
            throw new IOException("the service couldn't be asked", e.getCause());
        }
    }

    private void run() {
        var all = new ArrayList<Asked<T>>();
        while (true) {
            try {
                all.add(waiting.take());
                waiting.drainTo(all, MOST - 1);
                var answers = call.ask(all.stream().map(Asked::what).toList());
                for (var i = 0; i < all.size(); i++) {
                    all.get(i).answer().complete(answers.get(i));
                }
            } catch (IOException | RuntimeException | Error e) {
                // Whatever it is, nobody may wait for ever, and the next ones are asked for again.
                all.forEach(asked -> asked.answer().completeExceptionally(e));
            } catch (InterruptedException e) {
                all.forEach(asked -> asked.answer().completeExceptionally(e));
                return;
            }
            all.clear();
        }
    }
}
