package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.standins.ScimStandin;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A whole recovery whose password also goes to a SCIM service and to a system that only a command of its own reaches. */
class OtherSystemsTest {
    private static final Duration SOON = Duration.ofSeconds(30);

    private final World world = World.get();

    @Test
    void one_reset_reaches_a_directory_a_scim_service_and_a_local_command(@TempDir Path folder) throws IOException {
        var crew = world.crew();
        var published = false;
        try (var service = new ScimStandin("the-token")) {
            var rostered = service.add("r-" + crew.number(), crew.number());
            var kept = command(folder, UUID.randomUUID(), crew.number());
            connect(
                    folder,
                    "rostering",
                    List.of(
                            "--kind",
                            "scim",
                            "--at",
                            service.url(),
                            "--token-file",
                            Files.writeString(folder.resolve("token"), "the-token\n")
                                    .toString(),
                            "--correlation",
                            "externalId"));
            connect(
                    folder,
                    "gangway",
                    List.of(
                            "--kind",
                            "local",
                            "--command",
                            folder.resolve("command").toString(),
                            "--correlation",
                            "badge"));
            publish(folder, "to: [shore, rostering, gangway]");
            published = true;

            assertThat(world.entente("person", "show", crew.shore()).expect(0).out())
                    .contains("rostering", "gangway");
            var person = new ApiPerson(world).prove(crew.shore(), crew.address());
            assertThat(person.choose("Systems-Quay-101").waitForOutcome(SOON).state())
                    .isEqualTo("completed");
            assertThat(world.binds("shore", crew.shore(), "Systems-Quay-101")).isTrue();
            assertThat(service.password(rostered)).isEqualTo("Systems-Quay-101");
            assertThat(Files.readString(kept)).isEqualTo("Systems-Quay-101");

            service.breakDown();
            var again = new ApiPerson(world).prove(crew.shore(), crew.address());
            assertThat(again.choose("Systems-Quay-102").waitForOutcome(SOON).state())
                    .isEqualTo("incomplete");
            assertThat(again.result("rostering")).isEqualTo("failed");
            assertThat(again.result("gangway")).isEqualTo("done");
            assertThat(service.password(rostered)).isEqualTo("Systems-Quay-101");
            assertThat(Files.readString(kept)).isEqualTo("Systems-Quay-102");
        } finally {
            if (published) {
                publish(folder, "to: [shore, fleet]");
            }
            for (var name : List.of("rostering", "gangway")) {
                if (world.processes.containsKey("steward-" + name)) {
                    world.kill("steward-" + name);
                }
                world.entente("directory", "remove", name, "--yes");
            }
        }
    }

    /** @return the file where it keeps the password */
    private static Path command(Path folder, UUID id, String number) throws IOException {
        var kept = folder.resolve("kept");
        var command = folder.resolve("command");
        Files.writeString(command, """
                #!/usr/bin/python3
                import json, os, sys
                q, kept = json.load(sys.stdin), "%s"
                now = open(kept).read() if os.path.exists(kept) else ""
                if q["operation"] == "list":
                    print(json.dumps({"accounts": [{"id": "%s", "login": "badge-%s", "name": "Somebody", "correlation": "%s"}]}))
                elif q["operation"] == "look":
                    print(json.dumps({"found": True, "login": "badge-%s", "version": str(os.path.getmtime(kept) if now else 0)}))
                elif q["operation"] == "set-password":
                    open(kept, "w").write(q["password"])
                    print("{}")
                elif q["operation"] == "verify":
                    print(json.dumps({"right": now == q["password"]}))
                else:
                    sys.exit(2)
                """.formatted(kept, id, number, number, number));
        assertThat(command.toFile().setExecutable(true)).isTrue();
        return kept;
    }

    private void connect(Path folder, String name, List<String> options) {
        var file = folder.resolve(name + ".yaml").toString();
        var add = new ArrayList<>(List.of("directory", "add", name, "--steward-file", file));
        add.addAll(options);
        world.entente(add.toArray(String[]::new)).expect(0);
        var code = world.entente("steward", "admit", "--directory", name, name + "-1")
                .expect(0)
                .out()
                .strip();
        world.joinAndSign(name, file, code);
        world.start("steward-" + name, World.ROOT.resolve("bin/entente").toString(), "steward", "run", "--file", file);
        World.waitUntil(
                SOON,
                name + "-1 is connected",
                () -> world.entente("--output", "csv", "steward", "list")
                        .out()
                        .contains(name + "-1," + name + ",listed,yes"));
        world.entente("directory", "sync", name).expect(0);
    }

    private void publish(Path folder, String to) throws IOException {
        var configuration = folder.resolve("configuration");
        World.run(
                        Map.of(),
                        "cp",
                        "-rT",
                        World.ROOT.resolve("demo/configuration").toString(),
                        configuration.toString())
                .expect(0);
        var policy = configuration.resolve("policies/deck-crew.yaml");
        Files.writeString(policy, Files.readString(policy).replace("to: [shore, fleet]", to));
        world.entente("draft", "start", "--name", "systems").expect(0);
        world.entente("draft", "load", configuration.toString()).expect(0);
        world.entente("draft", "publish", "--note", to).expect(0);
    }
}
