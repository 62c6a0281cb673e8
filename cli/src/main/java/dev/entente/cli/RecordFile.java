package dev.entente.cli;

import com.fasterxml.jackson.annotation.JsonUnwrapped;
import dev.entente.core.audit.Checkpoint;
import dev.entente.core.audit.RecordLine;
import dev.entente.core.audit.RecordReader;
import dev.entente.core.audit.RecordVerifier;
import dev.entente.core.audit.RecordVerifier.Kept;
import dev.entente.core.audit.RecordVerifier.Verdict;
import dev.entente.core.audit.SignedCheckpoint;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.OrNull;
import dev.entente.wire.RecordApi.SealedPart;
import java.io.IOException;
import java.io.RandomAccessFile;
import java.nio.charset.MalformedInputException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayDeque;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.function.Consumer;
import java.util.function.Predicate;
import java.util.stream.IntStream;

/**
 * The sealed record in a file: a line with its format and key, then a line for each event and each checkpoint, in their order
 * (docs/protocol.md). Needs no more memory than a few parts of it.
 */
final class RecordFile {
    /** Parts requested ahead of the one being worked on. */
    private static final int AHEAD = 2;

    private final Entente entente;

    RecordFile(Entente entente) {
        this.entente = entente;
    }

    private SealedPart part(long from) {
        return entente.api().get("/record?from=" + from, SealedPart.class);
    }

    /** The latest signed checkpoint. */
    String checkpoint() {
        var size = part(0).size();
        var signed = size == 0 ? List.<SignedCheckpoint>of() : part(size - 1).checkpoints();
        if (signed.isEmpty()) {
            throw new IllegalArgumentException("nothing is sealed yet");
        }
        return signed.get(signed.size() - 1).statement();
    }

    int export(Path file) throws IOException {
        var from = Files.exists(file) ? whole(file) : 0;
        try (var out = Files.newBufferedWriter(file, StandardOpenOption.CREATE, StandardOpenOption.APPEND)) {
            parts(from, part(from), (at, part) -> {
                if (at == 0) {
                    write(out::append, RecordLine.head(part.key()));
                }
                lines(part, line -> write(out::append, line));
                if (part.after() == null) {
                    write(out::append, RecordLine.end(part.size()));
                }
                out.flush();
                progress(part.after() == null ? part.size() : part.after(), part.size());
                if (part.after() == null) {
                    System.err.println((System.console() == null ? "" : "\r") + part.size() + " events are in " + file
                            + (from == 0 ? "." : ", " + (part.size() - from) + " of them new."));
                }
            });
        }
        System.err.println("Its checksum is in " + Checksums.beside(file) + ".");
        return Entente.DONE;
    }

    private interface EachPart {
        void take(long from, SealedPart part) throws IOException;
    }

    /** One part after the other; the next ones are on their way while one is worked on. @return the last */
    private SealedPart parts(long from, SealedPart first, EachPart each) throws IOException {
        var at = from;
        var part = first;
        var coming = new ArrayDeque<Coming>();
        while (part.after() != null) {
            long next = part.after();
            // Parts have one length, except the last. If one differs, those requested ahead begin at the wrong
            // position.
            if (!coming.isEmpty() && coming.peek().from() != next) {
                coming.clear();
            }
            for (var more = coming.isEmpty() ? next : coming.peekLast().from() + next - at;
                    coming.size() < AHEAD && more < part.size();
                    more += next - at) {
                coming.add(coming(more));
            }
            each.take(at, part);
            part = came(coming.isEmpty() ? coming(next) : coming.poll());
            at = next;
        }
        each.take(at, part);
        return part;
    }

    private record Coming(long from, CompletableFuture<SealedPart> part) {}

    private Coming coming(long from) {
        return new Coming(from, CompletableFuture.supplyAsync(() -> part(from)));
    }

    private static SealedPart came(Coming coming) {
        try {
            return coming.part().join();
        } catch (CompletionException e) {
            // What part(…) throws needs no declaration.
            throw (RuntimeException) e.getCause();
        }
    }

    private interface Out {
        void write(String text) throws IOException;
    }

    private static void write(Out out, RecordLine line) {
        try {
            out.write(Api.JSON.writeValueAsString(line) + "\n");
        } catch (IOException e) {
            throw new IllegalArgumentException("the file can't be written: " + e.getMessage());
        }
    }

    /**
     * Events, behind each what it tells that it took out, behind the last that it covers each checkpoint, and behind the last that the key
     * of before signed each change of keys.
     */
    private static void lines(SealedPart part, Consumer<RecordLine> each) {
        var gone = new ArrayDeque<>(part.gone());
        var checkpoints = new ArrayDeque<>(part.checkpoints());
        var changes = new ArrayDeque<>(part.keyChanges());
        var at = part.events().isEmpty() ? part.size() : part.events().get(0).seq();
        while (!changes.isEmpty() && changes.peek().size() <= at) {
            each.accept(RecordLine.of(changes.poll().change()));
        }
        for (var event : part.events()) {
            each.accept(RecordLine.of(event));
            while (!gone.isEmpty() && gone.peek().seq() <= event.seq()) {
                each.accept(RecordLine.of(gone.poll()));
            }
            while (!checkpoints.isEmpty() && checkpoints.peek().size() <= event.seq() + 1) {
                each.accept(RecordLine.of(checkpoints.poll()));
            }
            while (!changes.isEmpty() && changes.peek().size() <= event.seq() + 1) {
                each.accept(RecordLine.of(changes.poll().change()));
            }
        }
    }

    /**
     * How many events a file holds, after cutting off a last line that was not written whole, and whatever follows the last checkpoint.
     *
     * @throws IllegalArgumentException if it is no export
     */
    private static long whole(Path file) throws IOException {
        var events = 0L;
        var kept = 0L;
        var at = 0L;
        var end = 0L;
        try (var lines = Files.newBufferedReader(file)) {
            for (var text = lines.readLine(); text != null; text = lines.readLine()) {
                RecordLine line;
                try {
                    line = RecordLine.read(text);
                } catch (InvalidDocument e) {
                    break;
                }
                at += text.getBytes(StandardCharsets.UTF_8).length + 1L;
                events += line.event() == null ? 0 : 1;
                if (line.checkpoint() != null) {
                    kept = events;
                    end = at;
                }
            }
        }
        if (end == 0 && Files.size(file) > 0) {
            throw new IllegalArgumentException(file + " is there already and is no export; choose another name");
        }
        try (var cut = new RandomAccessFile(file.toFile(), "rw")) {
            cut.setLength(end);
        }
        return kept;
    }

    /**
     * What came of verifying.
     *
     * @param waiting how many events wait to be sealed; null for a file
     * @param key thumbprint of the one that the record names
     * @param keyCompared whether it is the one that was expected; false if none was
     */
    private record Verified(
            @JsonUnwrapped Verdict verdict, @OrNull Long waiting, String key, boolean keyCompared) {}

    int verify(Path file, String thumbprint, Path kept) throws IOException {
        var keptElsewhere = kept == null ? List.<Kept>of() : kept(kept);
        var expected = Optional.ofNullable(thumbprint).or(() -> entente.home.recordKey(entente.profile()));
        var verified = file == null ? service(expected, keptElsewhere) : file(file, expected, keptElsewhere);
        entente.printer().one(verified, () -> told(verified, thumbprint != null, !keptElsewhere.isEmpty()));
        if (!verified.verdict().whole()) {
            return Entente.REFUSED;
        }
        if (file == null && expected.isEmpty()) {
            entente.home.keepRecordKey(entente.profile(), verified.key());
            System.err.println("This profile now expects the key " + verified.key() + ".");
        }
        return verified.keyCompared() ? Entente.DONE : Entente.KEY_NOT_COMPARED;
    }

    private static void told(Verified verified, boolean named, boolean kept) {
        var verdict = verified.verdict();
        verdict.faults().forEach(System.out::println);
        System.out.printf(
                "Read %,d events; %s proven by %,d checkpoints%s.%n",
                verdict.events(),
                verdict.proven() == verdict.events() ? "all are" : "%,d are".formatted(verdict.proven()),
                verdict.checkpoints(),
                verdict.signedAt() == null ? "" : ", the last signed " + Printer.time(verdict.signedAt()));
        count("Never signed", verdict.loose());
        count("Missing", verdict.missing());
        count("Removed", verdict.removed());
        count("Cut off (in sealed lists)", verdict.cut());
        count("Values erased (in sealed lists)", verdict.erased());
        count("Waiting to be sealed, not checked", verified.waiting() == null ? 0 : verified.waiting());
        System.out.println(
                kept
                        ? "Compared with "
                                + (verdict.kept() == 1 ? "1 kept checkpoint." : verdict.kept() + " kept checkpoints.")
                        : "No kept checkpoint was compared, so an older copy of the record would look the same.");
        System.out.println("Signed with key " + verified.key()
                + (verified.keyCompared()
                        ? named ? ", as expected." : ", the one that this profile knows."
                        : ", according to the record itself. To compare it, pass the key that you know with --key."));
        System.out.println(
                !verdict.whole()
                        ? "The record is not what was sealed."
                        : verified.keyCompared()
                                ? "The record is what was sealed."
                                : "The record is what this key sealed. Whether it is the service's key wasn't checked.");
    }

    private static void count(String what, long many) {
        if (many > 0) {
            System.out.printf("%s: %,d.%n", what, many);
        }
    }

    /** @throws IllegalArgumentException if there is none in it, or something else */
    private static List<Kept> kept(Path file) throws IOException {
        var lines = Files.readAllLines(file);
        var kept = IntStream.range(0, lines.size())
                .mapToObj(i -> new Kept(i + 1, lines.get(i).strip()))
                .filter(one -> !one.statement().isEmpty())
                .toList();
        for (var one : kept) {
            if (!Checkpoint.isOne(one.statement())) {
                throw new IllegalArgumentException("line " + one.line() + " of " + file + " isn't a checkpoint");
            }
        }
        if (kept.isEmpty()) {
            throw new IllegalArgumentException(
                    file + " contains no checkpoint; add one with entente event checkpoint >> " + file);
        }
        return kept;
    }

    /** The key is among those of the record, which all led to each other. */
    private static boolean compared(Optional<String> expected, Predicate<String> signedBy, EcKey first) {
        if (expected.isPresent() && !signedBy.test(expected.get())) {
            throw new IllegalArgumentException("the record is signed with key " + first.thumbprint()
                    + ", not with the expected " + expected.get());
        }
        return expected.isPresent();
    }

    private Verified service(Optional<String> expected, List<Kept> kept) throws IOException {
        var first = part(0);
        var verifier = new RecordVerifier(first.key(), kept);
        var last = parts(0, first, (at, part) -> {
            var weighed = new ArrayDeque<>(
                    part.events().parallelStream().map(RecordVerifier::weigh).toList());
            lines(part, line -> verifier.line(line, line.event() == null ? null : weighed.remove()));
            progress(verifier.read(), part.size());
        });
        var compared = compared(expected, verifier::signedBy, first.key());
        return new Verified(
                verifier.verdict(Math.max(first.size(), last.size())),
                last.waiting(),
                first.key().thumbprint(),
                compared);
    }

    private static Verified file(Path file, Optional<String> expected, List<Kept> kept) throws IOException {
        try (var lines = Files.newBufferedReader(file)) {
            var reader = new RecordReader(lines, kept, read -> progress(read, -1));
            var verdict = reader.verdict();
            var key = reader.head().key();
            return new Verified(verdict, null, key.thumbprint(), compared(expected, reader::signedBy, key));
        } catch (InvalidDocument e) {
            throw new IllegalArgumentException(file + ": " + e.getMessage());
        } catch (MalformedInputException e) {
            throw new IllegalArgumentException(file + ": it isn't an export of a record");
        }
    }

    /** @param of how many there are; -1 if that isn't known */
    private static void progress(long read, long of) {
        if (System.console() != null) {
            System.err.print("\r" + read + (of < 0 ? " events" : " of " + of) + (read == of ? "\r" : ""));
        }
    }
}
