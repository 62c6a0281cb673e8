package dev.entente.wire;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.SigningKey;
import java.security.SecureRandom;
import java.time.Instant;
import java.util.UUID;
import org.junit.jupiter.api.Test;

class StewardCallTest {
    private final SigningKey key = SigningKey.generate(new SecureRandom());
    private final UUID steward = UUID.randomUUID();
    private final Instant now = Instant.ofEpochSecond(1_800_000_000L);
    private final String signed = StewardCall.sign(key, steward, "POST", "/work", "{}", now);

    @Test
    void a_call_is_about_its_method_path_and_body_alone() {
        var call = StewardCall.verify(signed, key.publicKey(), "POST", "/work", "{}", now);
        assertThat(call.iss()).isEqualTo(steward);
        assertRefused("PUT", "/work", "{}", now);
        assertRefused("POST", "/other", "{}", now);
        assertRefused("POST", "/work", "{ }", now);
    }

    @Test
    void it_is_too_old_or_too_new_after_a_minute() {
        StewardCall.verify(signed, key.publicKey(), "POST", "/work", "{}", now.plusSeconds(59));
        assertRefused("POST", "/work", "{}", now.plusSeconds(61));
        assertRefused("POST", "/work", "{}", now.minusSeconds(61));
    }

    @Test
    void two_calls_are_never_the_same() {
        var other = StewardCall.sign(key, steward, "POST", "/work", "{}", now);
        assertThat(StewardCall.verify(other, key.publicKey(), "POST", "/work", "{}", now)
                        .jti())
                .isNotEqualTo(StewardCall.verify(signed, key.publicKey(), "POST", "/work", "{}", now)
                        .jti());
    }

    @Test
    void another_steward_cannot_sign_it() {
        var other = SigningKey.generate(new SecureRandom());
        assertThatThrownBy(() -> StewardCall.verify(signed, other.publicKey(), "POST", "/work", "{}", now))
                .isInstanceOf(InvalidDocument.class);
    }

    private void assertRefused(String method, String path, String body, Instant at) {
        assertThatThrownBy(() -> StewardCall.verify(signed, key.publicKey(), method, path, body, at))
                .isInstanceOf(InvalidDocument.class);
    }
}
