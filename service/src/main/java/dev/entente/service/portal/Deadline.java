package dev.entente.service.portal;

import dev.entente.service.platform.ServiceSettings;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.springframework.stereotype.Component;
import org.springframework.web.context.request.async.DeferredResult;

/**
 * Lets answers leave at a fixed time after the question, or at the next multiple of it, so that how long the work took says
 * nothing about what was found.
 */
@Component
class Deadline {
    private final ServiceSettings settings;
    private final ScheduledExecutorService timer;
    private final ExecutorService working = Executors.newFixedThreadPool(8);

    Deadline(ServiceSettings settings, ScheduledExecutorService timer) {
        this.settings = settings;
        this.timer = timer;
    }

    /** Does the work and answers at the deadline, with an error just as with a result. */
    <T> DeferredResult<T> answer(Supplier<T> work) {
        return answer(work, 0);
    }

    /** @param slower how many steps later than it has to */
    <T> DeferredResult<T> answer(Supplier<T> work, int slower) {
        var answer = new DeferredResult<T>(60_000L);
        var begun = System.nanoTime();
        working.execute(() -> {
            Runnable leave;
            try {
                var result = work.get();
                leave = () -> answer.setResult(result);
            } catch (RuntimeException e) {
                leave = () -> answer.setErrorResult(e);
            }
            var step = settings.answerDeadline().toNanos();
            var taken = System.nanoTime() - begun;
            timer.schedule(leave, (taken / step + 1 + slower) * step - taken, TimeUnit.NANOSECONDS);
        });
        return answer;
    }
}
