package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** Each benchmark that needs service and directories runs, brief, and ends with its line of figures. Nothing judges how fast. */
class ShortBenchmarksTest extends PublishingWithDirectoriesTest {
    private String lastLine(String bench) throws IOException {
        // As many people as passwords are carried at once: none is set by two at the same time.
        var lines = world.bench(bench, Stream.generate(world::crew).limit(6).toList())
                .expect(0)
                .out()
                .strip()
                .lines()
                .toList();
        return lines.get(lines.size() - 1);
    }

    @Test
    void deliver() throws IOException {
        assertThat(lastLine("DeliverBench"))
                .matches("deliver slapd=\\d+\\.\\d+ active-directory=\\d+\\.\\d+ added-p50-ms=-?\\d+\\.\\d");
    }

    @Test
    void names() throws IOException {
        assertThat(lastLine("NamesBench"))
                .matches(
                        "names start-auc=\\d\\.\\d{3} ask-auc=\\d\\.\\d{3} answer-auc=\\d\\.\\d{3} planted-2ms-auc=\\d\\.\\d{3}");
    }

    @Test
    void sync() throws IOException {
        assertThat(lastLine("SyncBench"))
                .matches("sync slapd=\\d+\\.\\d+ active-directory=\\d+\\.\\d+ peak-heap-mb=[1-9]\\d*");
    }

    @Test
    void cost() throws IOException {
        assertThat(lastLine("CostBench"))
                .matches("cost statements=-?\\d+ commits=-?\\d+ cpu-ms=-?\\d+\\.\\d idle-per-steward=\\d+\\.\\d+"
                        + " wake-ms=\\d+\\.\\d");
        assertThat(world.entente("directory", "list").expect(0).out()).doesNotContain("crowd-");
    }
}
