package dev.entente.service.platform;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.SecureRandom;
import java.time.Duration;
import java.util.Base64;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What is stored encrypted reads only where it belongs, with keys that only their owner can read. */
class KeyRingTest {
    private static final String ABOUT = "mail of account 7 v1";

    @TempDir
    private Path folder;

    private final Map<String, String> remembered = new HashMap<>();
    private boolean inUse;

    private KeyRing ring() {
        return ring(folder.resolve("secrets"));
    }

    private KeyRing ring(Path secrets) {
        var thumbprints = new KeyThumbprints(null) {
            @Override
            Map<String, String> known() {
                return Map.copyOf(remembered);
            }

            @Override
            boolean inUse() {
                return inUse;
            }

            @Override
            Map<String, String> remember(Map<String, String> keys) {
                keys.forEach(remembered::putIfAbsent);
                return known();
            }
        };
        return new KeyRing(
                SampleSettings.of(secrets, Duration.ofMillis(1), List.of()), new SecureRandom(), thumbprints);
    }

    @Test
    void with_other_keys_than_the_database_was_made_with_nothing_starts_and_nothing_is_changed() throws IOException {
        ring();
        assertThatThrownBy(() -> ring(folder.resolve("other")))
                .isInstanceOf(NotReady.class)
                .hasMessageContaining("lacks data.keys");
        assertThat(folder.resolve("other")).doesNotExist();
        var secrets = folder.resolve("secrets");
        for (var file : List.of("lookup.key", "service.key", "record.key", "data.keys")) {
            var kept = Files.readString(secrets.resolve(file));
            Files.delete(secrets.resolve(file));
            assertThatThrownBy(this::ring).isInstanceOf(NotReady.class).hasMessageContaining("lacks " + file);
            assertThat(secrets.resolve(file)).doesNotExist();
            Files.writeString(secrets.resolve(file), kept);
            ring();
        }
        var mine = Files.readString(secrets.resolve("lookup.key"));
        Files.writeString(secrets.resolve("lookup.key"), Base64.getEncoder().encodeToString(new byte[32]));
        assertThatThrownBy(this::ring)
                .isInstanceOf(NotReady.class)
                .hasMessageContaining("The lookup key")
                .hasMessageContaining("is not the one");
        Files.writeString(secrets.resolve("lookup.key"), mine);
        ring();
    }

    @Test
    void a_database_that_was_used_before_thumbprints_were_kept_gets_no_new_keys_either() {
        inUse = true;
        assertThatThrownBy(this::ring).isInstanceOf(NotReady.class).hasMessageContaining("lacks data.keys");
        inUse = false;
        ring();
        inUse = true;
        remembered.clear();
        ring();
        assertThat(remembered).containsKeys("lookup", "service", "record", "data 1");
    }

    @Test
    void a_value_reads_again_also_on_another_node_with_the_same_folder() {
        var stored = ring().encrypt(ABOUT, "astrid@mail.skerry.test");
        assertThat(new String(stored, StandardCharsets.ISO_8859_1)).doesNotContain("astrid");
        assertThat(ring().decrypt(ABOUT, stored)).isEqualTo("astrid@mail.skerry.test");
    }

    @Test
    void the_same_value_is_never_stored_the_same_way_twice() {
        var ring = ring();
        assertThat(ring.encrypt(ABOUT, "x")).isNotEqualTo(ring.encrypt(ABOUT, "x"));
    }

    @ParameterizedTest
    @ValueSource(strings = {"mail of account 8 v1", "mail of account 7 v2", ""})
    void a_value_moved_to_another_row_does_not_read(String elsewhere) {
        var ring = ring();
        var stored = ring.encrypt(ABOUT, "astrid@mail.skerry.test");
        assertThatThrownBy(() -> ring.decrypt(elsewhere, stored))
                .isInstanceOf(IllegalStateException.class)
                .hasMessage("a stored value cannot be read");
    }

    @Test
    void a_value_with_one_bit_changed_anywhere_does_not_read() {
        var ring = ring();
        var stored = ring.encrypt(ABOUT, "x");
        for (var at = 0; at < stored.length; at++) {
            var changed = stored.clone();
            changed[at] ^= 1;
            assertThatThrownBy(() -> ring.decrypt(ABOUT, changed))
                    .as("byte %d", at)
                    .isInstanceOf(IllegalStateException.class);
        }
    }

    @Test
    void a_new_key_is_used_from_then_on_while_the_one_before_still_reads() throws IOException {
        var before = ring().encrypt(ABOUT, "old");
        var fresh = new byte[32];
        new SecureRandom().nextBytes(fresh);
        Files.writeString(
                folder.resolve("secrets/data.keys"),
                "2 " + Base64.getEncoder().encodeToString(fresh) + "\n",
                StandardOpenOption.APPEND);
        var ring = ring();
        var after = ring.encrypt(ABOUT, "new");
        assertThat(before[3]).isEqualTo((byte) 1);
        assertThat(after[3]).isEqualTo((byte) 2);
        assertThat(ring.decrypt(ABOUT, before)).isEqualTo("old");
        assertThat(ring.decrypt(ABOUT, after)).isEqualTo("new");

        var lines = Files.readAllLines(folder.resolve("secrets/data.keys"));
        Files.writeString(folder.resolve("secrets/data.keys"), lines.get(1) + "\n");
        assertThatThrownBy(this::ring).isInstanceOf(NotReady.class).hasMessageContaining("The data 1 key");
        remembered.remove("data 1");
        var without = ring();
        assertThatThrownBy(() -> without.decrypt(ABOUT, before)).hasMessage("data.keys lacks key 1");
    }

    @Test
    void blind_indexes_differ_by_purpose_and_by_installation() {
        var ring = ring();
        assertThat(ring.blind("login", "astrid")).isEqualTo(ring.blind("login", "astrid"));
        assertThat(ring.blind("login", "astrid")).isNotEqualTo(ring.blind("cookie", "astrid"));
        assertThat(ring.blind("login", "astrid")).isNotEqualTo(ring.blind("login", "astrie"));
        var here = ring.blind("login", "astrid");
        remembered.clear();
        assertThat(ring(folder.resolve("elsewhere")).blind("login", "astrid")).isNotEqualTo(here);
    }

    @Test
    void nobody_but_the_owner_can_read_the_keys() throws IOException {
        ring();
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(folder.resolve("secrets"))))
                .isEqualTo("rwx------");
        try (var files = Files.list(folder.resolve("secrets"))) {
            assertThat(files.toList())
                    .hasSize(4)
                    .allSatisfy(file -> assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(file)))
                            .isEqualTo("rw-------"));
        }
    }
}
