package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A method that lives only in the tests, added to the packaged service as a folder in core and one in the service. */
class TrialMethodTest {
    private static final Duration SOON = Duration.ofSeconds(30);

    private final ServiceWorld world = ServiceWorld.get();

    @TempDir
    Path folder;

    @BeforeEach
    void withoutIt() throws IOException {
        world.later(Duration.ZERO);
        var demo = ServiceWorld.ROOT.resolve("demo/configuration");
        try (var files = Files.walk(demo)) {
            for (var file : files.filter(Files::isRegularFile).toList()) {
                var copy = folder.resolve(demo.relativize(file).toString());
                Files.createDirectories(copy.getParent());
                Files.copy(file, copy);
            }
        }
    }

    @AfterEach
    void back() {
        publish(ServiceWorld.ROOT.resolve("demo/configuration"));
    }

    private void publish(Path from) {
        world.entente("draft", "start", "--name", "trial").expect(0);
        world.entente("draft", "load", from.toString()).expect(0);
        var published = world.entente("draft", "publish", "--note", "trial");
        if (published.code() != 0) {
            var people = published.err().replaceAll("(?s)[^0-9]*([0-9]+).*", "$1");
            world.entente("draft", "publish", "--note", "trial", "--loses-way", people)
                    .expect(0);
        }
    }

    @Test
    void it_is_named_in_policies_set_up_asked_for_judged_stopped_and_explained() throws IOException {
        var crew = Crew.next();
        Files.writeString(
                folder.resolve("scopes/pilot.yaml"), "scope: pilot\nany:\n  - people: [" + crew.shore() + "]\n");
        Files.writeString(folder.resolve("policies/pilot.yaml"), """
                policy: pilot
                who: scope pilot
                allow: [reset, details]
                deliver: { to: [shore, fleet] }
                prove:
                  reset: { any-of: [trial-stamp] }
                  details: { any-of: [email-code] }
                """);
        Files.writeString(folder.resolve("methods.yaml"), "trial-stamp: { tries: 2 }\n");
        Files.writeString(folder.resolve("order.yaml"), "order: [pilot, deck-crew]\n");
        publish(folder);
        assertThat(world.entente("explain", crew.shore()).expect(1).out()).contains("trial-stamp: not enrolled");

        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = person.setUp("trial-stamp", null);
        var number = offered.parts().get("number");
        var path = "/attempt/enrolments/" + offered.id() + "/confirmation";
        assertThat(person.call("POST", path, PortalApi.Answer.typed("something else"))
                        .body())
                .contains("stamp-wrong");
        assertThat(person.call("POST", path, PortalApi.Answer.typed(number)).body())
                .contains("Stamp card");
        person.call("POST", "/attempt/end", null);
        assertThat(world.entente("explain", crew.shore()).expect(0).out()).contains("trial-stamp: enrolled");

        var reset = new ApiPerson(world);
        reset.start(crew.shore());
        reset.attempt = reset.ask("trial-stamp").as(PortalApi.Attempt.class);
        assertThat(reset.attempt.challenge().parts()).containsEntry("colour", "blue");
        assertThat(reset.attempt.challenge().triesLeft()).isEqualTo(2);
        assertThat(reset.answer("not the number").status()).isEqualTo(422);
        reset.attempt = reset.answer(number).as(PortalApi.Attempt.class);
        assertThat(reset.attempt.proved()).containsExactly("trial-stamp");
        assertThat(reset.choose("Attention-Quay-201").waitForOutcome(SOON).state())
                .isEqualTo("completed");

        world.entente("stop", "method:trial-stamp", "--reason", "trial").expect(0);
        try {
            assertThat(world.entente("explain", crew.shore()).expect(1).out()).contains("stopped");
        } finally {
            world.entente("resume", "method:trial-stamp").expect(0);
        }
    }
}
