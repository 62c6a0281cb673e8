package dev.entente.steward.link;

import dev.entente.core.audit.KeyChange;
import dev.entente.core.audit.RecordExtension;
import dev.entente.core.audit.RecordKeys;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
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
    synchronized void look(EcKey shownKey, List<KeyChange> changes, RecordExtension extension) throws IOException {
        if (extension == null || extension.checkpoint() == null && signed == null) {
            // A service of before, or one that has sealed nothing yet.
            return;
        }
        try {
            var keys = RecordKeys.of(shownKey, changes == null ? List.of() : changes);
            if (signed != null && !keys.has(key)) {
                // Nor did the one of before hand over to it.
                throw new InvalidDocument("record", "it is signed by another key than before");
            }
            if (signed != null) {
                extension.continues(keys.verify(signed).checkpoint(), keys);
            }
            var next = keys.verify(extension.checkpoint());
            if (signed == null || next.checkpoint().size() > size) {
                StewardState.writePrivately(
                        file,
                        next.by().thumbprint() + " " + next.checkpoint().size() + " " + extension.checkpoint() + "\n");
                key = next.by().thumbprint();
                size = next.checkpoint().size();
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
