package dev.entente.core.audit;

import dev.entente.core.audit.RecordVerifier.Kept;
import dev.entente.core.audit.RecordVerifier.Verdict;
import dev.entente.core.audit.RecordVerifier.Weighed;
import dev.entente.core.seal.InvalidDocument;
import java.io.BufferedReader;
import java.io.IOException;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.ForkJoinPool;
import java.util.function.LongConsumer;

/**
 * Verifies a record in a file, a line after the other as {@link RecordLine} has them, and reads it strictly: what is not exactly such a
 * line, stands twice or after the end is a fault. Lines are read and hashed on all cores, some thousands of them at once, and taken in
 * their order.
 */
public final class RecordReader {
    private static final int AT_ONCE = 2_000;

    private final BufferedReader lines;
    private final RecordLine.Head head;
    private final RecordVerifier verifier;
    private final LongConsumer progress;
    private RecordLine.End end;
    private boolean after;

    /**
     * @param kept checkpoints that the record has to extend
     * @param progress receives the number of events read so far, now and then
     * @throws InvalidDocument if it isn't an export of a record
     */
    public RecordReader(BufferedReader lines, List<Kept> kept, LongConsumer progress) throws IOException {
        this.lines = lines;
        this.progress = progress;
        RecordLine first;
        try {
            first = RecordLine.read(String.valueOf(lines.readLine()));
        } catch (InvalidDocument e) {
            throw new InvalidDocument("format", "it isn't an export of a record", e);
        }
        head = first.record();
        if (head == null || head.key() == null) {
            throw new InvalidDocument("format", "it isn't an export of a record");
        }
        if (head.v() < 1 || head.v() > RecordLine.VERSION) {
            throw new InvalidDocument(
                    "format", "it is of version " + head.v() + ", which this version doesn't support");
        }
        verifier = new RecordVerifier(head.key(), kept);
    }

    /** What it begins with. */
    public RecordLine.Head head() {
        return head;
    }

    /** Whether a key with this thumbprint is among those that signed what was read so far. */
    public boolean signedBy(String thumbprint) {
        return verifier.signedBy(thumbprint);
    }

    /** A line, or why it is none. */
    private record Taken(int number, RecordLine line, Weighed weighed, String why) {}

    /** Reads all of it. */
    public Verdict verdict() throws IOException {
        var coming = new ArrayDeque<CompletableFuture<List<Taken>>>();
        var most = 2 * ForkJoinPool.getCommonPoolParallelism() + 1;
        var number = 2;
        for (var batch = batch(); !batch.isEmpty() || !coming.isEmpty(); batch = batch()) {
            if (!batch.isEmpty()) {
                var first = number;
                var those = batch;
                number += batch.size();
                coming.add(CompletableFuture.supplyAsync(() -> taken(first, those)));
            }
            if (batch.isEmpty() || coming.size() >= most) {
                came(coming.poll()).forEach(this::take);
                progress.accept(verifier.read());
            }
        }
        return verifier.verdict(end == null ? -1 : end.events());
    }

    private List<String> batch() throws IOException {
        var batch = new ArrayList<String>(AT_ONCE);
        while (batch.size() < AT_ONCE) {
            var line = lines.readLine();
            if (line == null) {
                break;
            }
            batch.add(line);
        }
        return batch;
    }

    private static List<Taken> came(CompletableFuture<List<Taken>> coming) {
        try {
            return coming.join();
        } catch (CompletionException e) {
            throw new IllegalStateException("a part of the file could not be looked at", e.getCause());
        }
    }

    private static List<Taken> taken(int first, List<String> batch) {
        var taken = new ArrayList<Taken>(batch.size());
        for (var i = 0; i < batch.size(); i++) {
            RecordLine line;
            try {
                line = RecordLine.read(batch.get(i));
            } catch (InvalidDocument e) {
                taken.add(new Taken(first + i, null, null, e.getMessage()));
                continue;
            }
            taken.add(
                    new Taken(first + i, line, line.event() == null ? null : RecordVerifier.weigh(line.event()), null));
        }
        return taken;
    }

    private void take(Taken taken) {
        var line = taken.line();
        if (end != null) {
            if (!after) {
                verifier.unreadable("Line " + taken.number() + " follows the end mark.");
            }
            after = true;
        } else if (line == null) {
            verifier.unreadable("Line " + taken.number() + " can't be read: " + taken.why() + ".");
        } else if (line.record() != null) {
            verifier.unreadable("Line " + taken.number() + " starts a second record.");
        } else if (line.end() != null) {
            end = line.end();
        } else {
            verifier.line(line, taken.weighed());
        }
    }
}
