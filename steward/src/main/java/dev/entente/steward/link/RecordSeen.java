package dev.entente.steward.link;

import dev.entente.core.audit.Checkpoint;
import dev.entente.core.audit.RecordExtension;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The newest checkpoint of the service's record that was seen, over restarts, so that a record that is rolled back or rewritten does
 * not go unnoticed. What was seen once stays: a steward that finds another record says so with every look until somebody removes its
 * file.
 */
final class RecordSeen {
    private static final Logger log = LoggerFactory.getLogger(RecordSeen.class);

    private final Path file;
    /** Thumbprint of the key that signed it; null before the first. */
    private String key;

    private String signed;
    private long size;
    private volatile String doubt;

    RecordSeen(Path stateFolder) throws IOException {
        this.file = stateFolder.resolve("record.seen");
        if (Files.exists(file)) {
            var parts = Files.readString(file).strip().split(" ");
            this.key = parts[0];
            this.size = Long.parseLong(parts[1]);
            this.signed = parts[2];
        }
    }

    /** How many events the kept checkpoint covers; 0 before the first. */
    synchronized long size() {
        return size;
    }

    /** What is wrong with the record; null if nothing is. */
    String doubt() {
        return doubt;
    }

    /** Looks at what the service shows now. */
    synchronized void look(EcKey shownKey, RecordExtension extension) throws IOException {
        if (extension == null || extension.checkpoint() == null && signed == null) {
            // A service of before, or one that has sealed nothing yet.
            return;
        }
        try {
            Checkpoint next;
            if (signed == null) {
                next = Checkpoint.verify(extension.checkpoint(), shownKey);
            } else if (!shownKey.thumbprint().equals(key)) {
                throw new InvalidDocument("record", "it is signed by another key than before");
            } else {
                next = extension.continues(Checkpoint.verify(signed, shownKey), shownKey);
            }
            if (signed == null || next.size() > size) {
                StewardState.writePrivately(
                        file, shownKey.thumbprint() + " " + next.size() + " " + extension.checkpoint() + "\n");
                key = shownKey.thumbprint();
                size = next.size();
                signed = extension.checkpoint();
            }
            doubt = null;
        } catch (InvalidDocument e) {
            if (!e.getMessage().equals(doubt)) {
                log.error(
                        "The service's record is not what it was: {}. If a backup was restored on purpose, remove {}.",
                        e.getMessage(),
                        file);
            }
            doubt = e.getMessage();
        }
    }
}
