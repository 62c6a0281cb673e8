package dev.entente.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class HomeTest {
    @TempDir
    private Path folder;

    @Test
    void an_operator_key_is_its_owners_alone_and_never_overwritten() throws IOException {
        var home = new Home(folder);
        var key = home.makeOperatorKey("shore");
        assertThat(home.operatorKey("shore").publicKey()).isEqualTo(key.publicKey());
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(home.operatorFile("shore"))))
                .isEqualTo("rw-------");
        assertThatThrownBy(() -> home.makeOperatorKey("shore")).hasMessageContaining("it already exists");
        assertThat(home.operatorKey("shore").publicKey()).isEqualTo(key.publicKey());
        home.forgetOperatorKey("shore");
        assertThatThrownBy(() -> home.operatorKey("shore")).hasMessageContaining("is not on this machine");
    }

    @Test
    void profiles_keep_their_own_sign_ins() {
        var home = new Home(folder);
        assertThat(home.signedIn("default")).isEmpty();
        home.signIn("default", new Home.SignedIn("http://one", "a", 1, null));
        home.signIn("other", new Home.SignedIn("http://two", "b", 2, null));
        home.signIn("default", new Home.SignedIn("http://one", "c", 3, null));
        assertThat(home.signedIn("default").orElseThrow().token()).isEqualTo("c");
        assertThat(home.signedIn("other").orElseThrow().server()).isEqualTo("http://two");
    }

    @Test
    void wrong_words_end_with_usage_and_an_absent_service_with_unreachable() {
        var home = new Home(folder);
        assertThat(Entente.run(home, "draft", "lod")).isEqualTo(Entente.USAGE);
        assertThat(Entente.run(home, "person", "show")).isEqualTo(Entente.USAGE);
        assertThat(Entente.run(home, "--server", "http://127.0.0.1:1", "policy", "list"))
                .isEqualTo(Entente.UNREACHABLE);
        assertThat(Entente.run(home, "--help")).isEqualTo(Entente.DONE);
    }

    @ParameterizedTest
    @ValueSource(strings = {"-V", "-h", "-x", "--", "V-"})
    void a_thumbprint_may_begin_with_a_dash(String begin) {
        var home = new Home(folder);
        var thumbprint = begin + "A".repeat(43 - begin.length());
        assertThat(Entente.run(home, "steward", "withdraw-credential", "--directory", "fleet", "astrid", thumbprint))
                .as("there is no operator key")
                .isEqualTo(Entente.REFUSED);
        assertThat(Entente.run(home, "steward", "sign-roster", "--directory", "fleet", "--expect", thumbprint))
                .isEqualTo(Entente.REFUSED);
        assertThat(Entente.run(home, "event", "check", folder + "/none", "--key", thumbprint))
                .isEqualTo(Entente.REFUSED);
        assertThat(new Thumbprint().convert(Thumbprint.marked(thumbprint)[0])).isEqualTo(thumbprint);
    }
}
