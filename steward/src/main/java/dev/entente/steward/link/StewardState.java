package dev.entente.steward.link;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.SigningKey;
import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.UUID;
import tools.jackson.databind.json.JsonMapper;

/**
 * What a steward became when it joined, and the keys that it pinned. Kept in its state folder, readable by its user alone.
 *
 * @param steward its id
 * @param directory the one directory it serves
 * @param directoryName for people
 * @param serviceKey signs orders
 * @param operatorKey signs the roster
 * @param identity its own key
 */
public record StewardState(
        UUID steward, UUID directory, String directoryName, EcKey serviceKey, EcKey operatorKey, SigningKey identity) {
    private static final JsonMapper JSON = JsonMapper.shared();

    private record Stored(UUID steward, UUID directory, String directoryName, EcKey serviceKey, EcKey operatorKey) {}

    /** Whether a steward joined from this folder. */
    public static boolean exists(Path folder) {
        return Files.exists(folder.resolve("steward.json"));
    }

    /** Reads it back. */
    public static StewardState read(Path folder) throws IOException {
        var stored = JSON.readValue(Files.readString(folder.resolve("steward.json")), Stored.class);
        return new StewardState(
                stored.steward,
                stored.directory,
                stored.directoryName,
                stored.serviceKey,
                stored.operatorKey,
                SigningKey.decode(Files.readString(folder.resolve("identity.key"))));
    }

    /** Writes it for the first time. */
    public void write(Path folder) throws IOException {
        makeFolder(folder);
        writePrivately(folder.resolve("identity.key"), identity.encoded() + "\n");
        writePrivately(
                folder.resolve("steward.json"),
                JSON.writerWithDefaultPrettyPrinter()
                                .writeValueAsString(
                                        new Stored(steward, directory, directoryName, serviceKey, operatorKey))
                        + "\n");
    }

    /** Makes a folder that only its user can enter. */
    public static void makeFolder(Path folder) throws IOException {
        Files.createDirectories(
                folder, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rwx------")));
    }

    /** Replaces a file as a whole, on disk before it is visible, readable by its user alone. */
    public static void writePrivately(Path file, String text) throws IOException {
        var next = file.resolveSibling(file.getFileName() + ".new");
        Files.deleteIfExists(next);
        Files.createFile(next, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
        try (var channel = FileChannel.open(next, StandardOpenOption.WRITE)) {
            channel.write(StandardCharsets.UTF_8.encode(text));
            channel.force(true);
        }
        Files.move(next, file, StandardCopyOption.ATOMIC_MOVE);
    }
}
