package dev.entente.steward.settings;

import dev.entente.steward.settings.StewardFile.DirectoryPart;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;

/** A steward's file as an administrator writes it, of which a test cares about the directory only. */
public final class SampleFile {
    private SampleFile() {}

    /** @param directory what stands under {@code directory}, a line each, without indentation */
    public static DirectoryPart directory(Path folder, String... directory) throws IOException {
        var file = Files.writeString(
                folder.resolve("steward.yaml"),
                """
                service: http://localhost:9
                state: state
                guard: { bases: ['*'] }
                directory:
                """ + String.join("\n", directory).indent(2));
        try {
            return StewardFile.read(file).directory();
        } catch (StewardFile.Unusable e) {
            throw new IllegalArgumentException(e.getMessage(), e);
        }
    }
}
