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

    /** A steward is missed after 20 s in this world. */
    private static final Duration MISSED = Duration.ofSeconds(60);

    @Test
    void a_steward_on_no_roster_demands_nothing_and_orders_pass_over_one_that_demands_less() throws Exception {
        var crew = world.crew();
        pilot("prove:\n  reset: { any-of: [email-code] }\n", crew);
        var second = world.join("fleet", "fleet-2");
        second.demand(new StewardApi.Demand(List.of(), List.of("*"), List.of("passkey")));
        second.start();
        Installation.waitUntil(
                SOON,
                "it says what it demands",
                () -> world.query("SELECT count(*) FROM steward WHERE name = 'fleet-2' AND demand IS NOT NULL")
                        .equals("1"));
        assertThat(world.entente("explain", crew.shore()).expect(0).out()).doesNotContain("demand");
        assertThat(reset(crew, "Demand-Quay-1"))
                .as("before it is on the roster")
                .isEqualTo("fleet-1");
        try {
            second.demand(new StewardApi.Demand(List.of("cn=Pilots,dc=skerry,dc=test"), List.of(), List.of("passkey")));
            world.roster("fleet", world.stewards.get("fleet"), second);
            second.offerSealingKey();
            Installation.waitUntil(
                    SOON,
                    "preflight names the weaker one",
                    () -> world.entente("directory", "preflight", "fleet")
                            .out()
                            .contains("The stewards demand different proofs: fleet-1 demands less than others."));
            assertThat(reset(crew, "Demand-Quay-2")).as("of the two").isEqualTo("fleet-2");
            second.stop();
            Installation.waitUntil(
                    MISSED,
                    "explain says that orders wait",
                    () -> world.entente("explain", crew.shore())
                            .out()
                            .contains("No steward of fleet that gets orders is connected"));
            assertThat(world.entente("status").out())
                    .contains("No steward of fleet that gets orders is connected; nothing can be delivered.");
        } finally {
            world.roster("fleet", world.stewards.get("fleet"));
        }
        assertThat(world.entente("explain", crew.shore()).expect(0).out()).doesNotContain("gets orders");
        assertThat(reset(crew, "Demand-Quay-3")).as("after the other one went").isEqualTo("fleet-1");
    }

    /** Resets a password; the steward that was given the order. */
    private String reset(Crew crew, String password) {
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        assertThat(person.choose(password).waitForOutcome(SOON).state()).isEqualTo("completed");
        return world.query(
                        "SELECT s.name FROM delivery d JOIN attempt a ON a.id = d.attempt JOIN steward s ON s.id = d.steward"
                                + " WHERE s.name LIKE 'fleet%' AND a.reference = '"
                                + person.attempt.reference().replaceAll("[^0-9]", "") + "'")
                .strip();
    }
}
