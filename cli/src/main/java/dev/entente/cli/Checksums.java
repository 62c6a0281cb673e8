package dev.entente.cli;

import java.io.IOException;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.DigestOutputStream;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;

/** SHA-256 of what was written, as {@code sha256sum -c} reads it. */
final class Checksums {
    private Checksums() {}

    /** In hexadecimal. */
    static String of(byte[] bytes) {
        return HexFormat.of().formatHex(sha256().digest(bytes));
    }

    /** Writes the checksum of a file into one beside it. @return the other file */
    static Path beside(Path file) throws IOException {
        var digest = sha256();
        try (var out = new DigestOutputStream(OutputStream.nullOutputStream(), digest)) {
            Files.copy(file, out);
        }
        var beside = file.resolveSibling(file.getFileName() + ".sha256");
        Files.writeString(beside, HexFormat.of().formatHex(digest.digest()) + "  " + file.getFileName() + "\n");
        return beside;
    }

    private static MessageDigest sha256() {
        try {
            return MessageDigest.getInstance("SHA-256");
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
