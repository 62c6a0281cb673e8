package dev.entente.service.audit;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.UUID;
import java.util.concurrent.Callable;
import java.util.concurrent.Executors;
import org.hibernate.Session;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.ApplicationArguments;
import org.springframework.boot.ApplicationRunner;
import org.springframework.boot.autoconfigure.condition.ConditionalOnProperty;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * For {@code bin/bench audit}: writes events as the service does, and the same number of bare rows, in transactions of a recovery's size
 * and on as many threads. Only there: the packaged service has no such class.
 */
@Component
@ConditionalOnProperty("entente.bench.events")
class RecordFiller implements ApplicationRunner {
    private static final int THREADS = 2;
    private static final int IN_ONE = 20;

    private final EventLog events;
    private final Session database;
    private final TransactionTemplate transaction;
    private final int many;
    private final Path out;

    RecordFiller(
            EventLog events,
            Session database,
            TransactionTemplate transaction,
            @Value("${entente.bench.events}") int many,
            @Value("${entente.bench.out}") Path out) {
        this.events = events;
        this.database = database;
        this.transaction = transaction;
        this.many = many;
        this.out = out;
    }

    @Override
    public void run(ApplicationArguments arguments) throws Exception {
        // Until both are compiled: while the first hundred thousand were written, compilers took over a quarter of the
        // processors' time.
        rate(this::ours, many / 2);
        rate(this::bare, many / 2);
        write("%.0f %.0f%n".formatted(rate(this::ours, many), rate(this::bare, many)));
    }

    private void write(String line) throws IOException {
        Files.writeString(out, line);
    }

    /** Events a second. */
    private double rate(Runnable lot, int of) throws Exception {
        var threads = Executors.newFixedThreadPool(THREADS);
        var begun = System.nanoTime();
        var all = new ArrayList<Callable<Object>>();
        for (var thread = 0; thread < THREADS; thread++) {
            all.add(Executors.callable(() -> {
                for (var done = 0; done < of / THREADS; done += IN_ONE) {
                    lot.run();
                }
            }));
        }
        for (var one : threads.invokeAll(all)) {
            one.get();
        }
        threads.shutdown();
        return of / (Duration.ofNanos(System.nanoTime() - begun).toMillis() / 1000.0);
    }

    private void ours() {
        var attempt = UUID.randomUUID();
        transaction.executeWithoutResult(status -> {
            for (var i = 0; i < IN_ONE; i++) {
                events.write(NewEvent.of("order.leased", attempt, 1)
                        .with("directory", "shore")
                        .with("action", "reset")
                        .with("order", attempt.toString())
                        .withPersonal("login", "person." + attempt.hashCode() % 5000)
                        .with("steward", "shore-1")
                        .with("epoch", i)
                        .with("takeOver", false));
            }
        });
    }

    private void bare() {
        var attempt = UUID.randomUUID();
        transaction.executeWithoutResult(status -> database.doWork(connection -> {
            try (var insert = connection.prepareStatement("""
                    INSERT INTO bench_event (id, retention_class, occurred_at, kind, attempt, ordinal, revision, data, commitments,
                        leaf_hash) VALUES (?, 'attempt', now(), 'order.leased', ?, ?, 1, cast(? AS jsonb), cast(? AS jsonb), ?)""")) {
                for (var i = 0; i < IN_ONE; i++) {
                    insert.setObject(1, UUID.randomUUID());
                    insert.setObject(2, attempt);
                    insert.setInt(3, i);
                    insert.setString(
                            4,
                            "{\"directory\":\"shore\",\"action\":\"reset\",\"order\":\"" + attempt
                                    + "\",\"steward\":\"shore-1\",\"epoch\":" + i + ",\"takeOver\":false}");
                    insert.setString(5, "{\"login\":\"" + "0".repeat(64) + "\"}");
                    insert.setBytes(6, new byte[32]);
                    insert.addBatch();
                }
                insert.executeBatch();
            }
        }));
    }
}
