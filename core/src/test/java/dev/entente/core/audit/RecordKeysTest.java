package dev.entente.core.audit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.SigningKey;
import java.security.SecureRandom;
import java.util.List;
import org.junit.jupiter.api.Test;

class RecordKeysTest {
    private static final SecureRandom RANDOM = new SecureRandom();
    private static final String ROOT = "00".repeat(32);
    private final SigningKey first = SigningKey.generate(RANDOM);
    private final SigningKey second = SigningKey.generate(RANDOM);
    private final SigningKey third = SigningKey.generate(RANDOM);
    private final SigningKey stranger = SigningKey.generate(RANDOM);
    private final List<KeyChange> changes = List.of(change(first, second, 10), change(second, third, 20));
    private final RecordKeys keys = RecordKeys.of(third.publicKey(), changes);

    private static KeyChange change(SigningKey from, SigningKey to, long size) {
        return KeyChange.sign(from, to, size, ROOT, 1_000);
    }

    private static String checkpoint(SigningKey by, long size) {
        return new Checkpoint(1, size, ROOT, 1_000).sign(by);
    }

    @Test
    void each_signs_what_is_of_its_time() {
        assertThat(keys.verify(checkpoint(first, 1)).by()).isEqualTo(first.publicKey());
        assertThat(keys.verify(checkpoint(first, 10)).by()).isEqualTo(first.publicKey());
        assertThat(keys.verify(checkpoint(second, 11)).by()).isEqualTo(second.publicKey());
        assertThat(keys.verify(checkpoint(third, 21)).by()).isEqualTo(third.publicKey());
        assertThat(keys.at(0)).isEqualTo(first.publicKey());
        assertThat(keys.at(20)).isEqualTo(second.publicKey());
        assertThat(keys.now()).isEqualTo(third.publicKey());
        assertThat(keys.changes()).isEqualTo(2);
    }

    @Test
    void a_key_that_was_replaced_or_is_not_in_force_yet_signs_nothing() {
        for (var signed : List.of(
                checkpoint(first, 11),
                checkpoint(first, 21),
                checkpoint(second, 10),
                checkpoint(second, 21),
                checkpoint(third, 20),
                checkpoint(stranger, 5))) {
            assertThatThrownBy(() -> keys.verify(signed))
                    .isInstanceOf(InvalidDocument.class)
                    .hasMessageContaining("the key of its time");
        }
    }

    @Test
    void whoever_knows_one_of_them_knows_them_all_and_no_stranger() {
        for (var key : List.of(first, second, third)) {
            assertThat(keys.has(key.publicKey().thumbprint())).isTrue();
        }
        assertThat(keys.has(stranger.publicKey().thumbprint())).isFalse();
    }

    @Test
    void nobody_follows_without_both_signatures() {
        var good = change(first, second, 10);
        var taken = change(stranger, second, 10);
        for (var wrong : List.of(
                // The key of before did not agree.
                new KeyChange(taken.byOld(), good.byNew()),
                // The one that follows says something else.
                new KeyChange(good.byOld(), change(first, second, 11).byNew()),
                new KeyChange(good.byOld(), taken.byNew()),
                new KeyChange(good.byOld(), null))) {
            assertThatThrownBy(() -> wrong.after(first.publicKey())).isInstanceOf(InvalidDocument.class);
            assertThatThrownBy(() -> RecordKeys.of(second.publicKey(), List.of(wrong)))
                    .isInstanceOf(InvalidDocument.class);
        }
        assertThatThrownBy(() -> good.after(stranger.publicKey())).isInstanceOf(InvalidDocument.class);
        assertThatThrownBy(() -> RecordKeys.of(stranger.publicKey(), changes)).isInstanceOf(InvalidDocument.class);
        // They did not follow in this order.
        assertThatThrownBy(() ->
                        RecordKeys.of(third.publicKey(), List.of(change(first, second, 10), change(second, third, 9))))
                .isInstanceOf(InvalidDocument.class);
    }
}
