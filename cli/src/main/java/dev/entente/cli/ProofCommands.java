package dev.entente.cli;

import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.ProofFile;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.wire.RecordApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.stream.Stream;
import tools.jackson.core.JacksonException;

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
        var proofs = seq != null
                ? List.of(entente.api().get("/record/proofs/events/" + seq, ProofFile.class))
                : reference != null
                        ? List.of(entente.api().get(Api.at("/record/proofs/attempts/{}", reference), ProofFile[].class))
                        : List.of(entente.api()
                                .post(
                                        "/record/proofs/continuation",
                                        new RecordApi.KeptCheckpoint(
                                                Files.readString(kept).strip()),
                                        ProofFile.class));
        proofs.forEach(proof -> System.out.println(Api.JSON.writeValueAsString(proof)));
        return Entente.DONE;
    }

    int check(Path file, String thumbprint) throws IOException {
        var wrong = 0;
        var number = 0;
        for (var line : Files.readAllLines(file)) {
            if (line.isBlank()) {
                continue;
            }
            number++;
            try {
                System.out.println(check(Api.JSON.readValue(line, ProofFile.class), thumbprint));
            } catch (JacksonException e) {
                throw new IllegalArgumentException(file + " holds something that is no proof, in line " + number);
            } catch (InvalidDocument e) {
                wrong++;
                System.out.println("NOT PROVEN: line " + number + ": " + e.getMessage() + ".");
            }
        }
        if (number == 0) {
            throw new IllegalArgumentException(file + " holds no proof");
        }
        return wrong == 0 ? Entente.DONE : Entente.REFUSED;
    }

    private static String check(ProofFile proof, String thumbprint) {
        if (thumbprint != null && !proof.keys().has(thumbprint)) {
            throw new InvalidDocument(
                    "proof", "it names another key, " + proof.key().thumbprint());
        }
        var checkpoint = proof.check();
        var at = Printer.time(Instant.ofEpochMilli(checkpoint.at()));
        if (proof.event() == null) {
            return "Proven: the record of " + checkpoint.size() + " events, signed " + at
                    + ", continues the checkpoint.";
        }
        var values = new HashMap<String, String>();
        proof.personal().forEach((name, salted) -> values.put(name, salted.value()));
        var event = proof.event();
        return "Proven: event " + proof.seq() + " of " + checkpoint.size() + ", signed " + at + ": "
                + Printer.time(Instant.ofEpochMilli(event.at())) + "  "
                + EventCatalogue.find(event.kind())
                        .map(kind -> kind.words(event.data(), values, "en"))
                        .orElse(event.kind());
    }
}
