package dev.entente.steward.settings;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class StewardFileTest {
    private static final String SOUND = """
            service: http://localhost:8080
            state: state
            directory:
              kind: ldap
              servers: [ldaps://localhost:636]
              ca: ca.pem
              base: dc=x
              bind: cn=svc,dc=x
              password-file: account.password
            guard:
              bases: ['ou=people,dc=x']
              seal-age: 20m
            """;

    @TempDir
    private Path folder;

    private StewardFile read(String text) throws IOException, StewardFile.Unusable {
        return StewardFile.read(Files.writeString(folder.resolve("steward.yaml"), text));
    }

    @Test
    void paths_are_taken_relative_to_the_file_and_the_rest_has_defaults() throws Exception {
        var file = read(SOUND);
        assertThat(file.state()).isEqualTo(folder.resolve("state"));
        assertThat(file.guard().sealAge()).isEqualTo(Duration.ofMinutes(20));
        assertThat(file.guard().writesPerMinute()).isEqualTo(60);
        assertThat(ldap(file).probe()).isNull();
    }

    @Test
    void other_systems_need_less_and_what_is_not_switched_on_is_off() throws Exception {
        var scim = read(SOUND.replace("kind: ldap", "kind: scim\n  token-file: token")
                        .replaceAll("(?m)^  (ca|base|bind|password-file): .*\n", "")
                        .replace("ldaps://localhost:636", "https://people.example.test/scim/v2"))
                .target();
        assertThat(scim)
                .isInstanceOfSatisfying(
                        TargetPart.Scim.class, s -> assertThat(s.tokenFile()).isEqualTo(folder.resolve("token")));
        assertThat(read(SOUND).guard().actions()).containsExactlyInAnyOrder("reset", "unlock", "change");
        assertThat(ldap(read(SOUND)).groupBase()).isEqualTo("dc=x");
    }

    private static TargetPart.Ldap ldap(StewardFile file) {
        return (TargetPart.Ldap) file.target();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "kind: ldap | kind: nis | directory.kind must be active-directory, ldap, scim or local, not nis",
                "servers: [ldaps://localhost:636] | servers: [localhost] | directory.servers must list addresses such as ldaps://host:636",
                "ca: ca.pem | probe: cn=x | directory needs one of ca",
                "password-file: account.password | probe: cn=x | directory needs exactly one way to sign in: password-file, certificate or kerberos",
                "seal-age: 20m | actions: [erase] | guard.actions can list only change, reset, temporary, unlock",
                "service: http://localhost:8080 | service: http://entente.example.test | https",
                "state: state | stat: state | stat isn't a known setting; there are",
                "service: http://localhost:8080 | # gone | service is missing",
                "bases: ['ou=people,dc=x'] | bases: [] | guard.bases is empty",
                "seal-age: 20m | seal-age: soon | guard.seal-age must be a time such as 30s, 15m or 2h, not soon",
                "seal-age: 20m | writes-per-day: 0 | guard.writes-per-day must be a whole number above zero, not 0",
                "guard: | guard: x: | not valid YAML"
            })
    void a_wrong_file_is_told_in_one_sentence(String right, String wrong, String message) {
        assertThatThrownBy(() -> read(SOUND.replace(right.strip(), wrong.strip())))
                .isInstanceOf(StewardFile.Unusable.class)
                .hasMessageContaining(message)
                .message()
                .hasLineCount(1);
    }

    @Test
    void a_file_that_is_not_there_or_no_text_says_so_and_what_to_do(@TempDir Path folder) throws IOException {
        var file = folder.resolve("steward.yaml");
        assertThatThrownBy(() -> StewardFile.read(file))
                .hasMessageContaining("there is no file " + file)
                .hasMessageContaining("--steward-file");
        Files.write(file, new byte[] {'x', (byte) 0xff, '\n'});
        assertThatThrownBy(() -> StewardFile.read(file)).hasMessageContaining("not text in UTF-8");
    }
}
