package dev.entente.service.portal;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.service.platform.Problem;
import dev.entente.service.platform.SampleSettings;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** How long an answer takes says nothing about what was found. */
class DeadlineTest {
    private static final long STEP = 300;

    private final ScheduledExecutorService timer = Executors.newScheduledThreadPool(2);
    private final Deadline deadline =
            new Deadline(SampleSettings.of(Path.of("unused"), Duration.ofMillis(STEP), List.of()), timer);

    @AfterEach
    void stop() {
        timer.shutdownNow();
    }

    private record Answer(Object what, long millis) {}

    private Answer answer(Supplier<String> work) throws Exception {
        var begun = System.nanoTime();
        var told = new CompletableFuture<Object>();
        deadline.answer(work).setResultHandler(told::complete);
        var what = told.get(5, TimeUnit.SECONDS);
        return new Answer(what, (System.nanoTime() - begun) / 1_000_000);
    }

    private static String after(long millis, String what) {
        try {
            Thread.sleep(millis);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        return what;
    }

    @ParameterizedTest(name = "work of {0} ms is told after {1} steps")
    @CsvSource({"0, 1", "200, 1", "350, 2"})
    void an_answer_leaves_at_a_multiple_of_the_step(long works, long steps) throws Exception {
        var answer = answer(() -> after(works, "done"));
        assertThat(answer.what()).isEqualTo("done");
        // Later is a busy machine's doing; earlier would tell something.
        assertThat(answer.millis()).isGreaterThanOrEqualTo(steps * STEP - 1);
    }

    @Test
    void an_error_leaves_no_earlier_than_a_result() throws Exception {
        var answer = answer(() -> {
            throw Problem.of("internal");
        });
        assertThat(answer.what()).isInstanceOf(Problem.class);
        assertThat(answer.millis()).isGreaterThanOrEqualTo(STEP - 1);
    }
}
