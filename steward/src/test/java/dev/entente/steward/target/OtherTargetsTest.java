package dev.entente.steward.target;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.attempt.Cause;
import dev.entente.standins.ScimStandin;
import dev.entente.steward.local.LocalTarget;
import dev.entente.steward.scim.ScimTarget;
import dev.entente.steward.settings.SampleFile;
import dev.entente.steward.settings.TargetPart;
import dev.entente.steward.target.Target.Lost;
import dev.entente.steward.target.Target.Proof;
import dev.entente.steward.target.Target.Reading;
import dev.entente.steward.target.Target.Refused;
import dev.entente.wire.StewardApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.io.TempDir;

/** Systems that are no directories: a SCIM service, and a command beside the steward. */
class OtherTargetsTest {
    private static final Reading READING = new Reading("externalId", List.of(), List.of(), null);

    @TempDir
    private Path folder;

    private ScimTarget scim(ScimStandin service, String token) throws IOException {
        return new ScimTarget(SampleFile.target(
                TargetPart.Scim.class,
                folder,
                "kind: scim",
                "servers: ['" + service.url() + "']",
                "token-file: " + Files.writeString(folder.resolve("token"), token + "\n"),
                "timeout: 20s"));
    }

    @Test
    void scim_people_are_read_page_by_page() throws Exception {
        try (var service = new ScimStandin("t");
                var target = scim(service, "t")) {
            for (var i = 0; i < 450; i++) {
                service.add("user" + i, "e" + i);
            }
            var people = new ArrayList<StewardApi.Person>();
            target.read(READING, batch -> people.addAll(batch.people()));
            assertThat(people).hasSize(450);
            assertThat(people.get(449).correlation()).isEqualTo("e449");
            assertThat(people.get(449).mail()).isEqualTo("user449@mail.skerry.test");
        }
    }

    @Test
    void a_scim_password_is_patched_only_while_the_user_has_its_version() throws Exception {
        try (var service = new ScimStandin("t");
                var target = scim(service, "t");
                var visit = target.visit()) {
            var id = service.add("one", "e");
            var entry = visit.find(id).orElseThrow();
            visit.reset(entry, "Harbour-Quay-1", true, false);
            assertThat(service.password(id)).isEqualTo("Harbour-Quay-1");
            assertThat(visit.find(id).orElseThrow().version()).isNotEqualTo(entry.version());
            assertThatThrownBy(() -> visit.reset(entry, "Harbour-Quay-2", true, false))
                    .isInstanceOf(Refused.class)
                    .hasMessageContaining("changed while it was looked at");
            assertThat(service.password(id)).isEqualTo("Harbour-Quay-1");

            var now = visit.find(id).orElseThrow();
            assertThatThrownBy(() -> visit.reset(now, "short", true, false))
                    .isInstanceOfSatisfying(
                            Refused.class, e -> assertThat(e.reason()).isEqualTo(Cause.DIRECTORY_RULES));
            assertThat(visit.find(UUID.randomUUID())).isEmpty();
            service.breakDown();
            assertThatThrownBy(() -> visit.reset(now, "Harbour-Quay-3", true, false))
                    .isInstanceOf(Lost.class);
        }
    }

    @Test
    void a_scim_token_that_is_not_taken_is_a_finding() throws Exception {
        try (var service = new ScimStandin("t");
                var right = scim(service, "t")) {
            assertThat(right.examine(false)).noneMatch(f -> f.severity().equals("error"));
            try (var wrong = scim(service, "other")) {
                assertThat(wrong.examine(false))
                        .anyMatch(f -> f.severity().equals("error") && f.cause().contains("doesn't accept the token"));
            }
        }
    }

    private LocalTarget local(Path command) throws IOException {
        return new LocalTarget(
                SampleFile.target(TargetPart.Local.class, folder, "kind: local", "command: " + command, "timeout: 3s"));
    }

    private LocalTarget local(String script) throws IOException {
        var command = folder.resolve("command");
        Files.writeString(command, "#!/usr/bin/python3\nimport json, sys, time\nq = json.load(sys.stdin)\n" + script);
        assertThat(command.toFile().setExecutable(true)).isTrue();
        return local(command);
    }

    @Test
    void a_local_command_gets_json_on_standard_input_and_nothing_on_its_command_line() throws Exception {
        var kept = folder.resolve("kept");
        var target = local("""
                import os
                if q["operation"] == "look":
                    print(json.dumps({"found": True, "login": "one", "version": str(os.path.exists("%1$s"))}))
                elif q["operation"] == "set-password":
                    assert len(sys.argv) == 1 and "HOME" not in os.environ
                    open("%1$s", "w").write(q["password"])
                elif q["operation"] == "verify":
                    print(json.dumps({"right": open("%1$s").read() == q["password"]}))
                """.formatted(kept));
        try (var visit = target.visit()) {
            var entry = visit.find(UUID.randomUUID()).orElseThrow();
            visit.reset(entry, "Harbour-Quay-1", true, false);
            assertThat(Files.readString(kept)).isEqualTo("Harbour-Quay-1");
            assertThat(visit.find(entry.id()).orElseThrow().version()).isNotEqualTo(entry.version());
            assertThat(visit.judge(entry, "Harbour-Quay-1").proof()).isEqualTo(Proof.RIGHT);
            assertThat(visit.judge(entry, "another").proof()).isEqualTo(Proof.WRONG);
        }
    }

    @Test
    @Timeout(value = 30, unit = TimeUnit.SECONDS, threadMode = Timeout.ThreadMode.SEPARATE_THREAD)
    void a_child_that_a_command_leaves_behind_holds_nobody_up_and_does_not_live_on() throws Exception {
        var pid = folder.resolve("pid");
        try (var visit = local("import subprocess\np = subprocess.Popen(['sleep', '3600'])\nopen('" + pid
                        + "', 'w').write(str(p.pid))\ntime.sleep(3600)")
                .visit()) {
            var entry = new Target.Entry(UUID.randomUUID(), "one", "one", List.of(), "1", false, 0, null, false);
            assertThatThrownBy(() -> visit.reset(entry, "p", true, false))
                    .isInstanceOf(Lost.class)
                    .hasMessageContaining("did not end within 3 s");
        }
        var child = ProcessHandle.of(Long.parseLong(Files.readString(pid)));
        child.ifPresent(left -> assertThat(left.onExit()).succeedsWithin(Duration.ofSeconds(5)));
    }

    @Test
    void exit_codes_tell_refused_from_away_from_unknown() throws Exception {
        var entry = new Target.Entry(UUID.randomUUID(), "one", "one", List.of(), "1", false, 0, null, false);
        try (var visit = local("print(json.dumps({'cause': 'used-before'})); sys.exit(1)")
                .visit()) {
            assertThatThrownBy(() -> visit.reset(entry, "p", true, false))
                    .isInstanceOfSatisfying(
                            Refused.class, e -> assertThat(e.reason()).isEqualTo(Cause.USED_BEFORE));
        }
        try (var visit = local("sys.exit(75)").visit()) {
            assertThatThrownBy(() -> visit.reset(entry, "p", true, false))
                    .isInstanceOfSatisfying(
                            Refused.class, e -> assertThat(e.reason()).isEqualTo(Cause.UNREACHABLE));
        }
        try (var visit = local("sys.exit(9)").visit()) {
            assertThatThrownBy(() -> visit.reset(entry, "p", true, false)).isInstanceOf(Lost.class);
        }
        try (var visit = local("time.sleep(60)").visit()) {
            assertThatThrownBy(() -> visit.reset(entry, "p", true, false))
                    .as("its time is over")
                    .isInstanceOf(Lost.class);
        }
        assertThat(local(folder.resolve("none")).examine(false))
                .anyMatch(f -> f.code().equals("command") && f.severity().equals("error"));
    }
}
