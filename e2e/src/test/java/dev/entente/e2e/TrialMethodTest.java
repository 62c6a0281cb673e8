package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.wire.PortalApi;
import java.io.IOException;
import org.junit.jupiter.api.Test;

/** A method that lives only in the tests, added to the packaged service as a folder in core and one in the service. */
class TrialMethodTest extends PublishingTest {
    @Test
    void it_is_named_in_policies_set_up_asked_for_judged_stopped_and_explained() throws IOException {
        var crew = world.crew();
        write("methods.yaml", "trial-stamp: { tries: 2 }\n");
        pilot("prove:\n  reset: { any-of: [trial-stamp] }\n  details: { any-of: [email-code] }\n", crew);
        assertThat(world.entente("explain", crew.shore()).expect(1).out()).contains("trial-stamp: not enrolled");

        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = person.setUp("trial-stamp", null);
        var number = offered.parts().get("number");
        var path = "/attempt/enrolments/" + offered.id() + "/confirmation";
        assertThat(person.call("POST", path, PortalApi.Answer.typed("something else"))
                        .body())
                .contains("code-wrong", "on the card");
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
