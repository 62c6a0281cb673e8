package dev.entente.cli;

import dev.entente.core.audit.KeyChange;
import dev.entente.core.audit.RecordVerifier;
import dev.entente.core.audit.RecordVerifier.Sealed;
import dev.entente.core.seal.EcKey;
import dev.entente.wire.RecordApi.SealedPart;
import dev.entente.wire.RecordApi.SignedCheckpoint;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.RandomAccessFile;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayDeque;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.function.Consumer;
import tools.jackson.core.JacksonException;

/**
 * The sealed record in a file: a line with its format and key, then a line for each event and each checkpoint, in their order
 * (docs/protocol.md). Needs no more memory than one part of it.
 */
final class RecordFile {
    private final Entente entente;

    RecordFile(Entente entente) {
        this.entente = entente;
    }

    /**
     * One line; all of the parts but one are null.
     *
     * @param record what the file begins with
     * @param keyChange another key that signs from here on
     */
    private record Line(Head record, Sealed event, SignedCheckpoint checkpoint, KeyChange keyChange) {}

    /**
     * @param v format version, 1
     * @param key that signed the first checkpoints
     */
    private record Head(int v, EcKey key) {}

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
                    write(out::append, new Line(new Head(1, part.key()), null, null, null));
                }
                lines(part, line -> write(out::append, line));
                out.flush();
                if (System.console() != null) {
                    System.err.print("\r" + (part.after() == null ? part.size() : part.after()) + " of " + part.size());
                }
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

    /** One part after the other; the next is on its way while one is worked on. @return the last */
    private SealedPart parts(long from, SealedPart first, EachPart each) throws IOException {
        var at = from;
        var part = first;
        while (part.after() != null) {
            var next = part.after();
            var coming = CompletableFuture.supplyAsync(() -> part(next));
            each.take(at, part);
            part = came(coming);
            at = next;
        }
        each.take(at, part);
        return part;
    }

    private static SealedPart came(CompletableFuture<SealedPart> coming) {
        try {
            return coming.join();
        } catch (CompletionException e) {
            // What part(…) throws needs no declaration.
            throw (RuntimeException) e.getCause();
        }
    }

    private interface Out {
        void write(String text) throws IOException;
    }

    private static void write(Out out, Line line) {
        try {
            out.write(Api.JSON.writeValueAsString(line) + "\n");
        } catch (IOException e) {
            throw new IllegalArgumentException("the file can't be written: " + e.getMessage());
        }
    }

    /** Events, after the last that it covers each checkpoint, and after the last that the key of before signed each change of keys. */
    private static void lines(SealedPart part, Consumer<Line> each) {
        var checkpoints = new ArrayDeque<>(part.checkpoints());
        var changes = new ArrayDeque<>(part.keyChanges());
        var at = part.events().isEmpty() ? part.size() : part.events().get(0).seq();
        while (!changes.isEmpty() && changes.peek().size() <= at) {
            each.accept(new Line(null, null, null, changes.poll().change()));
        }
        for (var event : part.events()) {
            each.accept(new Line(null, event, null, null));
            while (!checkpoints.isEmpty() && checkpoints.peek().size() <= event.seq() + 1) {
                each.accept(new Line(null, null, checkpoints.poll(), null));
            }
            while (!changes.isEmpty() && changes.peek().size() <= event.seq() + 1) {
                each.accept(new Line(null, null, null, changes.poll().change()));
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
                Line line;
                try {
                    line = Api.JSON.readValue(text, Line.class);
                } catch (JacksonException e) {
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

    int verify(Path file, String thumbprint, Path kept) throws IOException {
        var keptElsewhere = kept == null
                ? List.<String>of()
                : Files.readAllLines(kept).stream().filter(l -> !l.isBlank()).toList();
        var verdict = file == null ? service(thumbprint, keptElsewhere) : file(file, thumbprint, keptElsewhere);
        entente.printer().one(verdict, () -> {
            verdict.faults().forEach(System.out::println);
            System.out.println(verdict.events() + " events"
                    + (verdict.gone() == 0 ? "" : ", of " + verdict.gone() + " only the hash is left") + "; "
                    + (verdict.proven() == verdict.events() ? "all" : verdict.proven()) + " proven by "
                    + verdict.checkpoints() + " checkpoints"
                    + (verdict.signedAt() == null ? "" : ", the last signed " + Printer.time(verdict.signedAt()))
                    + ".");
            System.out.println(
                    verdict.whole() ? "The record is what was sealed." : "The record is not what was sealed.");
        });
        return verdict.whole() ? Entente.DONE : Entente.REFUSED;
    }

    /** The key is among those of the record, which all led to each other. */
    private static void expected(RecordVerifier verifier, EcKey first, String thumbprint) {
        if (thumbprint != null && !verifier.signedBy(thumbprint)) {
            throw new IllegalArgumentException("the record names another key, " + first.thumbprint());
        }
        if (thumbprint == null) {
            System.err.println(
                    "Signed by the key " + first.thumbprint()
                            + ", as the record says itself. Name it with --key next time, so that no other can take its place.");
        }
    }

    private RecordVerifier.Verdict service(String thumbprint, List<String> kept) throws IOException {
        var first = part(0);
        var verifier = new RecordVerifier(first.key(), kept);
        var last = parts(0, first, (at, part) -> lines(part, line -> take(verifier, line)));
        expected(verifier, first.key(), thumbprint);
        return verifier.verdict(last.size());
    }

    private static RecordVerifier.Verdict file(Path file, String thumbprint, List<String> kept) throws IOException {
        try (var lines = Files.newBufferedReader(file)) {
            var first = line(lines, file);
            if (first == null || first.record() == null || first.record().v() != 1) {
                throw new IllegalArgumentException(file + " is no export of a record");
            }
            var verifier = new RecordVerifier(first.record().key(), kept);
            for (var line = line(lines, file); line != null; line = line(lines, file)) {
                take(verifier, line);
            }
            expected(verifier, first.record().key(), thumbprint);
            return verifier.verdict(-1);
        }
    }

    private static Line line(BufferedReader lines, Path file) throws IOException {
        var text = lines.readLine();
        try {
            return text == null ? null : Api.JSON.readValue(text, Line.class);
        } catch (JacksonException e) {
            throw new IllegalArgumentException(file + " is no export of a record, or was cut off");
        }
    }

    private static void take(RecordVerifier verifier, Line line) {
        if (line.event() != null) {
            verifier.event(line.event());
        } else if (line.checkpoint() != null) {
            verifier.checkpoint(line.checkpoint().statement());
        } else if (line.keyChange() != null) {
            verifier.keyChange(line.keyChange());
        }
    }
}
