package dev.entente.core.audit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.audit.Positions.Run;
import java.util.ArrayList;
import java.util.Random;
import java.util.TreeSet;
import org.junit.jupiter.api.Test;

/** Runs of positions are the sets that they stand for. */
class PositionsTest {
    @Test
    void what_is_left_is_what_a_set_would_leave() {
        var random = new Random(5);
        for (var round = 0; round < 500; round++) {
            var here = new TreeSet<Long>();
            var there = new TreeSet<Long>();
            var left = Positions.of(some(random, here)).without(Positions.of(some(random, there)));
            here.removeAll(there);
            var those = new TreeSet<Long>();
            for (var run : left.runs()) {
                for (var at = run.first(); at <= run.last(); at++) {
                    those.add(at);
                }
            }
            assertThat(those).isEqualTo(here);
            assertThat(left.count()).isEqualTo(here.size());
        }
    }

    private static ArrayList<Run> some(Random random, TreeSet<Long> all) {
        var runs = new ArrayList<Run>();
        for (var i = random.nextInt(6); i > 0; i--) {
            var first = random.nextLong(40);
            var last = first + random.nextLong(6);
            runs.add(new Run(first, last));
            for (var at = first; at <= last; at++) {
                all.add(at);
            }
        }
        return runs;
    }
}
