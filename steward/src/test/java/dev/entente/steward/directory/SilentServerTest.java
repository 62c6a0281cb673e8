package dev.entente.steward.directory;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.steward.settings.SampleFile;
import dev.entente.steward.settings.TargetPart;
import dev.entente.steward.target.Target;
import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** A server that takes connections and then says nothing, as behind a firewall that drops what it does not like. */
class SilentServerTest {
    @TempDir
    private Path folder;

    private LdapTarget target(ServerSocket silent, String scheme) throws IOException {
        var password = Files.writeString(folder.resolve("password"), "Svc-Peer-1\n");
        return new LdapTarget(
                SampleFile.target(
                        TargetPart.Ldap.class,
                        folder,
                        "kind: active-directory",
                        "servers: ['" + scheme + "://127.0.0.1:" + silent.getLocalPort() + "']",
                        "pin: nobody",
                        "base: DC=peer,DC=test",
                        "bind: CN=svc,DC=peer,DC=test",
                        "password-file: " + password,
                        "timeout: 1s"),
                SampleFile.guard(),
                (from, to, why) -> {});
    }

    @ParameterizedTest
    @ValueSource(strings = {"ldaps", "ldap"})
    @Timeout(value = 20, unit = TimeUnit.SECONDS, threadMode = Timeout.ThreadMode.SEPARATE_THREAD)
    void nobody_waits_for_ever(String scheme) throws IOException {
        try (var silent = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
                var target = target(silent, scheme)) {
            assertThatThrownBy(target::visit).isInstanceOf(Target.Lost.class);
        }
    }

    @Test
    @Timeout(value = 30, unit = TimeUnit.SECONDS, threadMode = Timeout.ThreadMode.SEPARATE_THREAD)
    void preflight_says_that_no_protected_connection_can_be_made() throws IOException {
        try (var silent = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
                var target = target(silent, "ldaps")) {
            assertThat(target.examine(false)).anySatisfy(finding -> {
                assertThat(finding.severity()).isEqualTo("error");
                assertThat(finding.cause()).isEqualTo("No protected connection could be made.");
            });
        }
    }
}
