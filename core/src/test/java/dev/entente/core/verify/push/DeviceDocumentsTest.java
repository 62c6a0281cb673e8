package dev.entente.core.verify.push;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.SigningKey;
import java.security.SecureRandom;
import java.time.Instant;
import java.util.HashSet;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** The documents that devices sign. */
class DeviceDocumentsTest {
    private static final SecureRandom RANDOM = new SecureRandom();
    private static final Instant NOW = Instant.ofEpochSecond(1_764_400_000);

    @Test
    void a_document_counts_for_its_device_its_kind_and_its_time() {
        var key = SigningKey.generate(RANDOM);
        var device = UUID.randomUUID();
        var look = DeviceDocuments.sign(key, new DeviceDocuments.Look(1, device, NOW.getEpochSecond()));
        assertThat(DeviceDocuments.look(look, device, key.publicKey(), NOW).device())
                .isEqualTo(device);
        var other = SigningKey.generate(RANDOM).publicKey();
        assertThatThrownBy(() -> DeviceDocuments.look(look, device, other, NOW)).isInstanceOf(InvalidDocument.class);
        assertThatThrownBy(() -> DeviceDocuments.look(look, UUID.randomUUID(), key.publicKey(), NOW))
                .isInstanceOf(InvalidDocument.class);
        assertThatThrownBy(() -> DeviceDocuments.look(look, device, key.publicKey(), NOW.plusSeconds(301)))
                .isInstanceOf(InvalidDocument.class);
        assertThatThrownBy(() -> DeviceDocuments.answer(look, device, key.publicKey(), NOW))
                .as("a question is no answer")
                .isInstanceOf(InvalidDocument.class);
        var version = DeviceDocuments.sign(key, new DeviceDocuments.Look(2, device, NOW.getEpochSecond()));
        assertThatThrownBy(() -> DeviceDocuments.look(version, device, key.publicKey(), NOW))
                .isInstanceOf(InvalidDocument.class);
    }

    @Test
    void the_digits_follow_from_device_and_key() {
        var key = SigningKey.generate(RANDOM).publicKey();
        var device = UUID.randomUUID();
        assertThat(DeviceDocuments.check(device, key))
                .matches("[0-9]{6}")
                .isEqualTo(DeviceDocuments.check(device, key));
        var others = new HashSet<String>();
        for (var i = 0; i < 50; i++) {
            others.add(DeviceDocuments.check(device, SigningKey.generate(RANDOM).publicKey()));
        }
        assertThat(others).hasSizeGreaterThan(45);
    }
}
