package dev.entente.bench;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import org.junit.jupiter.api.Test;

/** Each benchmark that needs no directories runs, short, and ends with its line of figures. Nothing here judges how fast. */
class BenchmarksTest {
    private interface Main {
        void run(String[] arguments) throws Exception;
    }

    private static String lastLine(Main main) throws Exception {
        var out = System.out;
        var kept = new ByteArrayOutputStream();
        System.setOut(new PrintStream(kept, true, StandardCharsets.UTF_8));
        try {
            main.run(new String[] {"quick"});
        } finally {
            System.setOut(out);
        }
        var lines = kept.toString(StandardCharsets.UTF_8).strip().lines().toList();
        return lines.get(lines.size() - 1);
    }

    @Test
    void record() throws Exception {
        assertThat(lastLine(RecordBench::main)).matches("record append-ns=\\d+ append-over-bare=\\d+\\.\\d");
    }

    @Test
    void decide() throws Exception {
        assertThat(lastLine(DecideBench::main))
                .matches(
                        "decide one-us=\\S+ explain-us=\\S+ rehearse-\\S+-s=\\S+ rehearse-over-bare=\\S+ ways-in-s=\\S+");
    }

    @Test
    void guess() throws Exception {
        var line = lastLine(GuessBench::main);
        assertThat(line)
                .matches("guess worst-day=\\S+ worst-year=\\S+ all-accounts-day=\\S+ owner-kept-out=\\S+")
                .endsWith("owner-kept-out=0.000");
        assertThat(figure(line, "worst-day")).isLessThanOrEqualTo(1e-6);
        assertThat(figure(line, "worst-year")).isLessThan(1e-4);
        assertThat(figure(line, "all-accounts-day")).isLessThanOrEqualTo(1e-3);
    }

    private static double figure(String line, String name) {
        return Double.parseDouble(line.replaceAll(".*" + name + "=(\\S+).*", "$1"));
    }
}
