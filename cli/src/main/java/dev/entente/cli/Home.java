package dev.entente.cli;

import dev.entente.core.seal.SigningKey;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.util.Optional;
import tools.jackson.databind.json.JsonMapper;

/** The administrator's own folder: sign-in and record key of each profile, and the operator key of each directory. */
final class Home {
    private static final JsonMapper JSON = JsonMapper.shared();

    private final Path folder;

    /** @param folder {@code ENTENTE_HOME}, or {@code ~/.config/entente} */
    Home(Path folder) {
        this.folder = folder;
    }

    static Home ofUser() {
        var said = System.getenv("ENTENTE_HOME");
        return new Home(said != null ? Path.of(said) : Path.of(System.getProperty("user.home"), ".config", "entente"));
    }

    /**
     * Where and as whom a profile signed in.
     *
     * @param device what this machine is known by there; null for one that signed in before there was such a thing
     */
    record SignedIn(String server, String token, long expiresAt, String device) {}

    Optional<SignedIn> signedIn(String profile) {
        var file = folder.resolve("profiles").resolve(profile + ".json");
        try {
            return Files.exists(file)
                    ? Optional.of(JSON.readValue(Files.readString(file), SignedIn.class))
                    : Optional.empty();
        } catch (IOException e) {
            throw new UncheckedIOException(
                    "your sign-in can't be read (" + file + "); sign in again with entente sign-in", e);
        }
    }

    void signIn(String profile, SignedIn signedIn) {
        write(folder.resolve("profiles").resolve(profile + ".json"), JSON.writeValueAsString(signedIn), true);
    }

    /** The operator key of a directory; made when the directory is added. */
    SigningKey operatorKey(String directory) {
        var file = operatorFile(directory);
        try {
            return SigningKey.decode(Files.readString(file));
        } catch (IOException e) {
            throw new UncheckedIOException(
                    "the operator key of " + directory + " is not on this machine (" + file
                            + "); run this where the directory was added, or bring the file here",
                    e);
        }
    }

    SigningKey makeOperatorKey(String directory) {
        var key = SigningKey.generate(new SecureRandom());
        write(operatorFile(directory), key.encoded() + "\n", false);
        return key;
    }

    /** Takes back a key whose directory could not be added. */
    void forgetOperatorKey(String directory) {
        try {
            Files.deleteIfExists(operatorFile(directory));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Sets the key of a directory that was removed aside: another of that name gets a key of its own. */
    void setOperatorKeyAside(String directory) {
        var file = operatorFile(directory);
        try {
            if (Files.exists(file)) {
                Files.move(file, file.resolveSibling(directory + ".removed-" + System.currentTimeMillis() + ".key"));
            }
        } catch (IOException e) {
            throw new UncheckedIOException("can't move " + file + " aside: " + e.getMessage(), e);
        }
    }

    /** Thumbprint of the key that signs the record of a profile's service, as it was seen first; empty before that. */
    Optional<String> recordKey(String profile) {
        var file = recordFile(profile);
        try {
            return Files.exists(file) ? Optional.of(Files.readString(file).strip()) : Optional.empty();
        } catch (IOException e) {
            throw new UncheckedIOException("can't read " + file + ": " + e.getMessage(), e);
        }
    }

    /** Keeps it, so that another one is noticed. */
    void keepRecordKey(String profile, String thumbprint) {
        write(recordFile(profile), thumbprint + "\n", false);
    }

    Path recordFile(String profile) {
        return folder.resolve("record").resolve(profile + ".key");
    }

    Path operatorFile(String directory) {
        return folder.resolve("operator").resolve(directory + ".key");
    }

    private static void write(Path file, String text, boolean replace) {
        try {
            Files.createDirectories(
                    file.getParent(),
                    PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rwx------")));
            if (replace) {
                Files.deleteIfExists(file);
            } else if (Files.exists(file)) {
                throw new IOException("it already exists; move it away first");
            }
            Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
            Files.writeString(file, text, StandardOpenOption.WRITE);
        } catch (IOException e) {
            throw new UncheckedIOException("can't write " + file + ": " + e.getMessage(), e);
        }
    }
}
