package dev.entente.bench;

import dev.entente.core.audit.AuditEvent;
import dev.entente.core.audit.MerkleFrontier;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import org.openjdk.jmh.annotations.Benchmark;
import org.openjdk.jmh.annotations.BenchmarkMode;
import org.openjdk.jmh.annotations.Fork;
import org.openjdk.jmh.annotations.Measurement;
import org.openjdk.jmh.annotations.Mode;
import org.openjdk.jmh.annotations.OutputTimeUnit;
import org.openjdk.jmh.annotations.Scope;
import org.openjdk.jmh.annotations.State;
import org.openjdk.jmh.annotations.Warmup;
import org.openjdk.jmh.runner.Runner;
import org.openjdk.jmh.runner.RunnerException;
import org.openjdk.jmh.runner.options.OptionsBuilder;
import org.openjdk.jmh.runner.options.TimeValue;

/** What it costs to put an event into the tree: canonical form, leaf hash and append, beside one bare SHA-256 of its bytes. */
@State(Scope.Thread)
@BenchmarkMode(Mode.AverageTime)
@OutputTimeUnit(TimeUnit.NANOSECONDS)
@Fork(1)
@Warmup(iterations = 3, time = 1)
@Measurement(iterations = 3, time = 1)
public class RecordBench {
    private final AuditEvent event = new AuditEvent(
            AuditEvent.VERSION,
            UUID.fromString("00000000-0000-4000-8000-000000000001"),
            1_800_000_000_000L,
            "order.done",
            "attempt",
            UUID.fromString("00000000-0000-4000-8000-000000000002"),
            "2291407513",
            12,
            3,
            Map.of("directory", "shore", "versionBefore", "1", "versionAfter", "2", "bind", "0"),
            Map.of("login", "a".repeat(64)));
    private static final TimeValue SHORT = TimeValue.milliseconds(200);
    private final byte[] bytes = event.canonical();
    private final MerkleFrontier frontier = new MerkleFrontier();

    /** The whole. */
    @Benchmark
    public long append() {
        frontier.append(event.leafHash());
        return frontier.size();
    }

    /** The bare cost. */
    @Benchmark
    public byte[] bare() throws NoSuchAlgorithmException {
        return MessageDigest.getInstance("SHA-256").digest(bytes);
    }

    /** Runs both and prints their ratio as the last line; {@code quick} measures for a moment only, in this very process. */
    public static void main(String[] arguments) throws RunnerException {
        var options = new OptionsBuilder().include(RecordBench.class.getName());
        if (List.of(arguments).contains("quick")) {
            options.forks(0)
                    .warmupIterations(1)
                    .measurementIterations(1)
                    .warmupTime(SHORT)
                    .measurementTime(SHORT);
        }
        var results = new Runner(options.build()).run();
        double append = 0;
        double bare = 0;
        for (var result : results) {
            var score = result.getPrimaryResult().getScore();
            if (result.getParams().getBenchmark().endsWith("append")) {
                append = score;
            } else {
                bare = score;
            }
        }
        System.out.printf("record append-ns=%.0f append-over-bare=%.1f%n", append, append / bare);
    }
}
