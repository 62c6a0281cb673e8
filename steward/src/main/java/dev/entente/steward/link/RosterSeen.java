package dev.entente.steward.link;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Roster;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;

/**
 * The newest roster that was seen, over restarts: a service that shows an older one, to bring a retired steward back, is
 * refused. The operator key signs ever higher versions.
 */
final class RosterSeen {
    private final Path file;
    private int version;
    private String digest;

    RosterSeen(Path stateFolder) throws IOException {
        this.file = stateFolder.resolve("roster.seen");
        if (Files.exists(file)) {
            var parts = Files.readString(file).strip().split(" ", 2);
            this.version = Integer.parseInt(parts[0]);
            this.digest = parts[1];
        }
    }

    /**
     * Looks at a roster whose signature was checked.
     *
     * @throws InvalidDocument if a newer one was seen, or another one of the same version
     */
    synchronized void accept(Roster roster, String signed) throws IOException {
        var shown = Roster.digest(signed);
        if (roster.version() < version) {
            throw new InvalidDocument(
                    "roster",
                    "the service shows roster " + roster.version() + ", but roster " + version
                            + " was signed before; it is refused");
        }
        if (roster.version() == version && !shown.equals(digest)) {
            throw new InvalidDocument(
                    "roster", "the service shows another roster " + version + " than before; it is refused");
        }
        if (roster.version() > version) {
            StewardState.writePrivately(file, roster.version() + " " + shown + "\n");
            version = roster.version();
            digest = shown;
        }
    }
}
