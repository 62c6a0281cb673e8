package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.wire.PortalApi;
import dev.entente.wire.StewardApi;
import java.io.IOException;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Explain and the portal show what stewards demand; a demand that can't be looked up breaks nothing. */
class DemandsToldTest extends PublishingTest {
    @AfterEach
    void demandsNothing() {
        demand(null);
    }

    private void demand(StewardApi.Demand wanted) {
        var steward = world.stewards.get("fleet");
        steward.demand(wanted);
        // It says so with its next question for work, which an order brings about.
        Installation.waitUntil(Duration.ofSeconds(60), "the demand is told", () -> {
            world.entente("directory", "preflight", "fleet");
            var told = world.query("SELECT coalesce(cast(demand AS text), 'none') FROM steward WHERE name = 'fleet-1'");
            return wanted == null
                    ? told.strip().equals("none")
                    : told.contains(
                            wanted.groups().isEmpty()
                                    ? wanted.bases().get(0)
                                    : wanted.groups().get(0));
        });
    }

    @Test
    void a_group_that_has_no_distinguished_name_is_said_to_be_unknown_and_breaks_nothing() throws IOException {
        var crew = world.crew();
        pilot("prove:\n  reset: { any-of: [email-code] }\n", crew);
        demand(new StewardApi.Demand(List.of("Watch officers"), List.of(), List.of("passkey")));
        var told = world.entente("explain", crew.shore());
        assertThat(told.out() + told.err())
                .contains("of members of Watch officers")
                .contains("isn't known here");
        // The portal goes on as for everybody.
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        assertThat(person.attempt.state()).isEqualTo("proved");
        assertThat(person.call("GET", "/attempt/sealing", null).status()).isEqualTo(200);
        assertThat(world.entente("directory", "preflight", "fleet").out()).contains("Who is in Watch officers");
    }

    @Test
    void in_every_situation_a_demand_stands_in_the_way_as_it_does_in_an_attempt() throws IOException {
        var crew = world.crew();
        pilot("prove:\n  reset: { any-of: [email-code, known-device], must-include: [email-code] }\n", crew);
        demand(new StewardApi.Demand(List.of(), List.of("*"), List.of("passkey")));
        assertThat(world.entente("explain", crew.shore()).expect(1).out())
                .contains("impossible  on a known device: The stewards of fleet demand a passkey")
                .contains("impossible  on an unknown device: The stewards of fleet demand a passkey");
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        assertThat(person.attempt.state())
                .as("nothing they have would help, so that the steward refuses it in the end")
                .isEqualTo("proved");
        assertThat(person.call("GET", "/attempt", null)
                        .as(PortalApi.Attempt.class)
                        .methods())
                .isEmpty();
    }
}
