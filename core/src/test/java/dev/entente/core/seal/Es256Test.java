package dev.entente.core.seal;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.KeyPairGenerator;
import java.security.spec.ECGenParameterSpec;
import org.junit.jupiter.api.Test;

/** The native library and the JDK take each other's signatures and refuse the same ones. */
class Es256Test {
    @Test
    void each_verifies_what_the_other_signed_and_nothing_else() throws GeneralSecurityException {
        var library = Es256.provider();
        assertThat(library).as("it can be loaded here").isNotNull();
        var generator = KeyPairGenerator.getInstance("EC");
        generator.initialize(new ECGenParameterSpec("secp256r1"));
        var pair = generator.generateKeyPair();
        // Many, so that numbers of all lengths come up: one in 256 begins with a zero byte.
        for (var i = 0; i < 600; i++) {
            if (i % 30 == 0) {
                pair = generator.generateKeyPair();
            }
            var input = ("input " + i).getBytes(StandardCharsets.UTF_8);
            var fromLibrary = Es256.sign(pair.getPrivate(), input, library);
            assertThat(fromLibrary).hasSize(64);
            assertThat(Es256.verify(pair.getPublic(), input, fromLibrary, null)).isTrue();
            if (i % 10 == 0) {
                var fromJdk = Es256.sign(pair.getPrivate(), input, null);
                assertThat(Es256.verify(pair.getPublic(), input, fromJdk, library))
                        .isTrue();
                fromJdk[i % 64] ^= 1;
                assertThat(Es256.verify(pair.getPublic(), input, fromJdk, library))
                        .isFalse();
                assertThat(Es256.verify(pair.getPublic(), input, fromJdk, null)).isFalse();
            }
        }
    }

    @Test
    void what_is_no_signature_is_refused_by_both() throws GeneralSecurityException {
        var generator = KeyPairGenerator.getInstance("EC");
        generator.initialize(new ECGenParameterSpec("secp256r1"));
        var pair = generator.generateKeyPair();
        var input = new byte[] {1};
        for (var length : new int[] {0, 63, 64, 65, 70}) {
            assertThat(Es256.verify(pair.getPublic(), input, new byte[length], Es256.provider()))
                    .isFalse();
            assertThat(Es256.verify(pair.getPublic(), input, new byte[length], null))
                    .isFalse();
        }
    }
}
