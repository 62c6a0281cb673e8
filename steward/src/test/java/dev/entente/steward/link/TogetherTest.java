package dev.entente.steward.link;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;

/** Calls of the same moment travel in one, and nobody waits for ever. */
@Timeout(value = 20, unit = TimeUnit.SECONDS, threadMode = Timeout.ThreadMode.SEPARATE_THREAD)
class TogetherTest {
    private final List<List<Integer>> calls = new CopyOnWriteArrayList<>();

    @Test
    void whoever_comes_while_a_call_is_under_way_goes_with_the_next_one() throws Exception {
        var underWay = new CountDownLatch(1);
        var goOn = new CountDownLatch(1);
        var together = new Together<Integer>(all -> {
            calls.add(List.copyOf(all));
            if (calls.size() == 1) {
                underWay.countDown();
                goOn.await();
            }
            return all.stream().map(i -> i % 2 == 0).toList();
        });
        var first = together.hand(0);
        underWay.await();
        var others = new ArrayList<CompletableFuture<Boolean>>();
        for (var i = 1; i <= 10; i++) {
            others.add(together.hand(i));
        }
        goOn.countDown();
        assertThat(first.get()).isTrue();
        for (var i = 1; i <= 10; i++) {
            assertThat(others.get(i - 1).get()).as("the answer to " + i).isEqualTo(i % 2 == 0);
        }
        assertThat(calls).containsExactly(List.of(0), List.of(1, 2, 3, 4, 5, 6, 7, 8, 9, 10));
    }

    @Test
    void a_call_takes_no_more_along_than_the_service_takes() throws Exception {
        var goOn = new CountDownLatch(1);
        var together = new Together<Integer>(all -> {
            calls.add(List.copyOf(all));
            goOn.await();
            return all.stream().map(i -> true).toList();
        });
        var answers = new ArrayList<CompletableFuture<Boolean>>();
        for (var i = 0; i < 200; i++) {
            answers.add(together.hand(i));
        }
        goOn.countDown();
        for (var answer : answers) {
            assertThat(answer.get()).isTrue();
        }
        assertThat(calls).allSatisfy(call -> assertThat(call).hasSizeLessThanOrEqualTo(64));
        assertThat(calls.stream().flatMap(List::stream)).hasSize(200).doesNotHaveDuplicates();
    }

    @Test
    void a_call_that_fails_fails_for_those_in_it_and_the_next_one_is_made() throws Exception {
        var together = new Together<Integer>(all -> {
            calls.add(List.copyOf(all));
            switch (calls.size()) {
                case 1 -> throw new IOException("the service is away");
                case 2 -> throw new IllegalStateException("a fault");
                case 3 -> throw new StackOverflowError();
                default -> {
                    return all.stream().map(i -> true).toList();
                }
            }
        });
        assertThatThrownBy(() -> together.ask(1))
                .isInstanceOf(IOException.class)
                .hasMessage("the service is away");
        assertThatThrownBy(() -> together.ask(2)).isInstanceOf(IOException.class);
        assertThatThrownBy(() -> together.ask(3)).isInstanceOf(IOException.class);
        assertThat(together.ask(4)).isTrue();
    }

    @Test
    void an_answer_that_is_too_short_leaves_nobody_waiting() {
        var together = new Together<Integer>(all -> List.of());
        assertThatThrownBy(() -> together.ask(1)).isInstanceOf(IOException.class);
    }
}
