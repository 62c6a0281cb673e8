package dev.entente.steward.settings;

import dev.entente.steward.settings.StewardFile.Guard;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Set;

/** A steward's file as an administrator writes it, of which a test cares about the directory only. */
public final class SampleFile {
    private SampleFile() {}

    /** Guard rails that are in nobody's way. */
    public static Guard guard() {
        return new Guard(
                List.of("*"),
                List.of(),
                List.of(),
                Duration.ofMinutes(15),
                1000,
                1000,
                Duration.ZERO,
                Set.of("reset"),
                StewardFile.Demand.NONE);
    }

    /** @param directory what stands under {@code directory}, a line each, without indentation */
    public static <T extends TargetPart> T target(Class<T> kind, Path folder, String... directory) throws IOException {
        var file = Files.writeString(
                folder.resolve("steward.yaml"),
                """
                service: http://localhost:9
                state: state
                guard: { bases: ['*'] }
                directory:
                """ + String.join("\n", directory).indent(2));
        try {
            return kind.cast(StewardFile.read(file).target());
        } catch (StewardFile.Unusable e) {
            throw new IllegalArgumentException(e.getMessage(), e);
        }
    }
}
