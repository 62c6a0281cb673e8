package dev.entente.service;

import dev.entente.core.seal.SigningKey;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.security.SecureRandom;
import java.util.Map;

/**
 * The step that makes another key for the record: {@code java -jar … new-record-key}. The key of now stays in the folder: it lets the new
 * one follow when a node is started with it, and that is all it does from then on.
 */
final class NewRecordKey {
    private NewRecordKey() {}

    /** Adds a line to {@code record.key} in the folder that {@code ENTENTE_SECRETS} names; prints its thumbprint. */
    static int run(Map<String, String> environment) {
        var said = environment.get("ENTENTE_SECRETS");
        var file = Path.of(said == null ? "" : said).resolve("record.key");
        if (said == null || !Files.isRegularFile(file)) {
            System.err.println("entente: there is no " + file
                    + "; name the secrets folder of a service that was started before with ENTENTE_SECRETS");
            return 1;
        }
        try {
            var key = SigningKey.generate(new SecureRandom());
            var before = Files.readString(file);
            Files.writeString(
                    file, (before.endsWith("\n") ? "" : "\n") + key.encoded() + "\n", StandardOpenOption.APPEND);
            System.out.println(
                    "The key " + key.publicKey().thumbprint()
                            + " signs the record once a node is started with it. Copy the folder to every node, then restart them one after the other.");
            return 0;
        } catch (IOException e) {
            System.err.println("entente: " + file + " could not be written: " + e.getMessage());
            return 1;
        }
    }
}
