package dev.entente.cli;

import dev.entente.core.attempt.Reference;
import dev.entente.core.audit.AuditEvent;
import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.ProofFile;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.wire.RecordApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.HashMap;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/** Proofs about the record, for those who don't have it. */
final class ProofCommands {
    private final Entente entente;

    ProofCommands(Entente entente) {
        this.entente = entente;
    }

    int prove(Long seq, String reference, Path kept) throws IOException {
        if (Stream.of(seq, reference, kept).filter(said -> said != null).count() != 1) {
            throw new IllegalArgumentException("name one of --event, --reference and --kept");
        }
        if (reference != null) {
            return proveAttempt(reference);
        }
        print(
                seq != null
                        ? entente.api().get("/record/proofs/events/" + seq, ProofFile.class)
                        : entente.api()
                                .post(
                                        "/record/proofs/continuation",
                                        new RecordApi.KeptCheckpoint(
                                                Files.readString(kept).strip()),
                                        ProofFile.class));
        return Entente.DONE;
    }

    private static void print(ProofFile proof) {
        System.out.println(Api.JSON.writeValueAsString(proof));
    }

    /** What is gone of it, or was sealed under another reference, isn't left out in silence. */
    private int proveAttempt(String reference) {
        var of = entente.api().get(Api.at("/record/proofs/attempts/{}", reference), RecordApi.AttemptProofs.class);
        of.proofs().forEach(ProofCommands::print);
        if (of.waiting() > 0) {
            System.err.println("Events not sealed yet: " + of.waiting() + ". Try again in a moment.");
        }
        var wrong = false;
        if (!of.missing().isEmpty()) {
            wrong = true;
            System.err.println("Missing events of this attempt: number "
                    + of.missing().stream().map(String::valueOf).collect(Collectors.joining(", "))
                    + ". They were cut off or removed; entente event verify shows which.");
        }
        for (var other : of.proofs().stream()
                .map(proof -> proof.event().reference())
                .filter(Objects::nonNull)
                .map(digits -> new Reference(digits).toString())
                .filter(called -> !called.equals(of.reference()))
                .distinct()
                .toList()) {
            wrong = true;
            System.err.println("The service shows these events under " + of.reference()
                    + ", and they were sealed under " + other + ".");
        }
        return wrong ? Entente.REFUSED : Entente.DONE;
    }

    int check(Path file, String thumbprint) throws IOException {
        var expected = Optional.ofNullable(thumbprint).or(() -> entente.home.recordKey(entente.profile()));
        var wrong = 0;
        var number = 0;
        var keys = new TreeSet<String>();
        var attempts = new TreeMap<String, TreeSet<Integer>>();
        for (var line : Files.readAllLines(file)) {
            number++;
            if (line.isBlank()) {
                continue;
            }
            try {
                var proof = ProofFile.read(line);
                System.out.println(check(proof, expected));
                keys.add(proof.key().thumbprint());
                if (proof.event() != null && proof.event().attempt() != null) {
                    attempts.computeIfAbsent(called(proof.event()), attempt -> new TreeSet<>())
                            .add(proof.event().ordinal());
                }
            } catch (InvalidDocument e) {
                wrong++;
                System.out.println("NOT PROVEN: line " + number + ": " + e.getMessage() + ".");
            }
        }
        if (keys.isEmpty() && wrong == 0) {
            throw new IllegalArgumentException(file + " holds no proof");
        }
        attempts.forEach(ProofCommands::complete);
        if (wrong > 0) {
            return Entente.REFUSED;
        }
        if (expected.isEmpty()) {
            System.out.println("Signed with key " + String.join(", ", keys)
                    + ", according to the proofs themselves. Whether it is the service's key wasn't checked: pass the key that you"
                    + " know with --key.");
            return Entente.KEY_NOT_COMPARED;
        }
        return Entente.DONE;
    }

    /** Events of an attempt are numbered: which are not among the proofs, they say themselves. */
    private static void complete(String attempt, TreeSet<Integer> numbers) {
        var missing = IntStream.rangeClosed(1, numbers.last())
                .filter(number -> !numbers.contains(number))
                .mapToObj(String::valueOf)
                .toList();
        System.out.println(
                missing.isEmpty()
                        ? attempt + ": events 1 to " + numbers.last() + " are proven."
                        : attempt + ": of events 1 to " + numbers.last() + ", this file doesn't prove number "
                                + String.join(", ", missing) + ".");
    }

    private static String called(AuditEvent event) {
        return event.reference() == null ? "attempt " + event.attempt() : new Reference(event.reference()).toString();
    }

    private static String check(ProofFile proof, Optional<String> expected) {
        var checkpoint = proof.check();
        if (expected.isPresent() && !proof.keys().has(expected.get())) {
            throw new InvalidDocument(
                    "proof",
                    "it is signed with key " + proof.key().thumbprint() + ", not with the expected " + expected.get());
        }
        var at = Printer.time(Instant.ofEpochMilli(checkpoint.at()));
        if (proof.event() == null) {
            return "Proven: the record of " + checkpoint.size() + " events, signed " + at
                    + ", continues the checkpoint.";
        }
        var values = new HashMap<String, String>();
        proof.personal().forEach((name, salted) -> values.put(name, salted.value()));
        var event = proof.event();
        var without = new TreeSet<>(event.commitments().keySet());
        without.removeAll(values.keySet());
        return "Proven: event " + proof.seq() + " of " + checkpoint.size() + ", signed " + at + ": "
                + Printer.time(Instant.ofEpochMilli(event.at())) + "  "
                + (event.attempt() == null ? "" : called(event) + ", number " + event.ordinal() + "  ")
                + EventCatalogue.find(event.kind())
                        .map(kind -> kind.words(event.data(), values, "en"))
                        .orElse(event.kind())
                + (without.isEmpty() ? "" : " (values missing: " + String.join(", ", without) + ")");
    }
}
