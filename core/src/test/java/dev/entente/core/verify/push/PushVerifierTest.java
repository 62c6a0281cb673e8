package dev.entente.core.verify.push;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.guess.Familiarity;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.SigningKey;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Verifier;
import java.security.SecureRandom;
import java.time.Instant;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** Approval by devices: what is shown, what waits, what counts once; and the documents that devices sign. */
class PushVerifierTest {
    private static final SecureRandom RANDOM = new SecureRandom();
    private static final Instant NOW = Instant.ofEpochSecond(1_764_400_000);
    private final Map<UUID, UUID> approved = new HashMap<>();
    private final Map<UUID, String> asked = new HashMap<>();
    private final PushVerifier verifier = new PushVerifier(
            new PushVerifier.Store() {
                @Override
                public void ask(Verifier.Ring ring, String number) {
                    asked.put(ring.challenge(), number);
                }

                @Override
                public boolean approved(UUID challenge) {
                    return approved.containsKey(challenge);
                }

                @Override
                public boolean take(UUID challenge, UUID person) {
                    return approved.remove(challenge, person);
                }
            },
            RANDOM);

    private static Verifier.Asked asked(UUID challenge) {
        return new Verifier.Asked(challenge, "key", null, false, Familiarity.NONE);
    }

    @Test
    void a_number_of_two_digits_is_shown_and_the_device_is_asked_for_the_same() {
        var numbers = new HashSet<String>();
        for (var i = 0; i < 500; i++) {
            var challenge = UUID.randomUUID();
            var shown = verifier.show(challenge, "key");
            verifier.ring(new Verifier.Ring(
                    challenge, UUID.randomUUID(), shown.kept(), "key", "reset", "192.0.2.1", Instant.now()));
            assertThat(shown.parts()).containsOnlyKeys("number");
            assertThat(shown.parts().get("number")).matches("[1-9][0-9]").isEqualTo(asked.get(challenge));
            numbers.add(asked.get(challenge));
        }
        assertThat(numbers).hasSizeGreaterThan(60);
    }

    @Test
    void an_approval_counts_for_its_person_once() {
        var challenge = UUID.randomUUID();
        var person = UUID.randomUUID();
        assertThat(verifier.waits(asked(challenge))).isTrue();
        approved.put(challenge, person);
        assertThat(verifier.waits(asked(challenge))).isFalse();
        assertThat(verifier.judge(asked(challenge), Optional.empty(), Answer.typed("")))
                .isEqualTo(Verifier.Judgement.WRONG);
        assertThat(verifier.judge(asked(challenge), Optional.of(UUID.randomUUID()), Answer.typed("")))
                .isEqualTo(Verifier.Judgement.WRONG);
        assertThat(verifier.judge(asked(challenge), Optional.of(person), Answer.typed("")))
                .isEqualTo(Verifier.Judgement.RIGHT);
        assertThat(verifier.judge(asked(challenge), Optional.of(person), Answer.typed("")))
                .isEqualTo(Verifier.Judgement.WRONG);
    }

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
