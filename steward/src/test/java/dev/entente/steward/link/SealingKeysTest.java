package dev.entente.steward.link;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.SigningKey;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Somebody copies the disk of a steward a day later, and has every ciphertext that ever went through the service. */
class SealingKeysTest {
    private final EcKey other = SigningKey.generate(new SecureRandom()).publicKey();
    private final StewardState state = new StewardState(
            UUID.randomUUID(), UUID.randomUUID(), "shore", other, other, SigningKey.generate(new SecureRandom()));
    private final AtomicReference<Instant> now = new AtomicReference<>(Instant.parse("2026-11-02T06:00:00Z"));

    @TempDir
    private Path folder;

    private SealingKeys keys() throws IOException {
        return new SealingKeys(folder, state, now::get);
    }

    private List<Path> files() throws IOException {
        try (var found = Files.list(folder.resolve("sealing"))) {
            return found.toList();
        }
    }

    /** A second name for the same bytes, by which it shows what becomes of them when the first is gone. */
    private Path secondName() throws IOException {
        var file = files().get(0);
        return Files.createLink(folder.resolve("copy-" + file.getFileName()), file);
    }

    private static String privateHalf(Path file) throws IOException {
        var text = Files.readString(file);
        var from = text.indexOf("\\\"d\\\":\\\"") + 8;
        return text.substring(from, from + 43);
    }

    @Test
    void a_key_whose_time_is_over_is_overwritten_where_it_stood() throws IOException {
        var keys = keys();
        keys.current();
        var bytes = secondName();
        var secret = privateHalf(bytes);
        assertThat(secret).matches("[\\w-]{43}");
        now.set(now.get().plus(Duration.ofHours(12)));
        keys.current();
        assertThat(files()).as("a new one took its place").hasSize(1);
        assertThat(new String(Files.readAllBytes(bytes), StandardCharsets.ISO_8859_1))
                .doesNotContain(secret);
    }

    @Test
    void so_is_one_whose_time_passed_while_the_steward_was_down() throws IOException {
        keys().current();
        var bytes = secondName();
        var secret = privateHalf(bytes);
        now.set(now.get().plus(Duration.ofDays(1)));
        keys();
        assertThat(files()).isEmpty();
        assertThat(new String(Files.readAllBytes(bytes), StandardCharsets.ISO_8859_1))
                .doesNotContain(secret);
    }

    @Test
    void a_key_in_force_survives_a_restart_and_a_new_one_comes_before_its_end() throws IOException {
        assertThat(keys().current()).hasSize(1);
        now.set(now.get().plus(Duration.ofHours(7)));
        var restarted = keys();
        assertThat(restarted.current()).hasSize(2);
        for (var file : files()) {
            var thumbprint = file.getFileName().toString().replace(".json", "");
            assertThat(restarted.find(thumbprint)).isPresent();
        }
    }
}
