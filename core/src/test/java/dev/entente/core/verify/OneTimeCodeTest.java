package dev.entente.core.verify;

import static org.assertj.core.api.Assertions.assertThat;

import java.security.SecureRandom;
import java.util.UUID;
import org.junit.jupiter.api.Test;

class OneTimeCodeTest {
    private final byte[] key = new byte[32];
    private final UUID challenge = UUID.randomUUID();

    @Test
    void a_code_is_read_however_it_is_spaced() {
        assertThat(OneTimeCode.parse(" 1234-5678 ")).contains(new OneTimeCode("12345678"));
        assertThat(OneTimeCode.parse("1234 567")).isEmpty();
        assertThat(OneTimeCode.parse("١٢٣٤٥٦٧٨")).isEmpty();
        assertThat(OneTimeCode.parse(null)).isEmpty();
        assertThat(OneTimeCode.parse("1".repeat(10_000))).isEmpty();
    }

    @Test
    void where_eight_digits_could_be_guessed_it_has_sixteen_characters_that_nobody_guesses() {
        var code = OneTimeCode.beyondGuessing(new SecureRandom());
        assertThat(code.spaced()).matches("([a-z2-9]{4}-){3}[a-z2-9]{4}");
        assertThat(OneTimeCode.parse(" " + code.spaced().toUpperCase(java.util.Locale.ROOT)))
                .contains(code);
        assertThat(OneTimeCode.LONG_SPACE.beyondGuessing()).isTrue();
        assertThat(OneTimeCode.SHORT_SPACE.beyondGuessing()).isFalse();
    }

    @Test
    void it_matches_its_own_challenge_alone() {
        var code = OneTimeCode.random(new SecureRandom());
        var kept = code.hash(key, challenge);
        assertThat(code.matches(kept, key, challenge)).isTrue();
        assertThat(code.matches(kept, key, UUID.randomUUID())).isFalse();
        assertThat(code.matches(kept, new byte[] {1}, challenge)).isFalse();
    }

    @Test
    void it_is_never_printed() {
        assertThat(new OneTimeCode("12345678").toString()).doesNotContain("1234");
        assertThat(new OneTimeCode("12345678").spaced()).isEqualTo("1234 5678");
    }

    @Test
    void all_digits_occur_and_leading_zeros_stay() {
        var random = new SecureRandom();
        for (var i = 0; i < 2000; i++) {
            assertThat(OneTimeCode.random(random).text()).hasSize(8).containsOnlyDigits();
        }
    }
}
