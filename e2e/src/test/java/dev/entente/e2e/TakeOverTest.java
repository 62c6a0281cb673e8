package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Two stewards share a directory; one of them sleeps, or its directory's server goes away. */
class TakeOverTest {
    private static final Duration SOON = Duration.ofSeconds(40);
    private static World world;

    @BeforeAll
    static void start() {
        world = World.get();
    }

    @ParameterizedTest(name = "steward of {0} paused right after begin")
    @ValueSource(strings = "shore")
    void work_of_a_steward_that_sleeps_flows_to_the_other_and_its_late_write_makes_nothing_untrue(String directory)
            throws IOException {
        var crew = world.crew();
        var before = world.passwordsSet(directory, crew.login(directory));
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        try (var second = new SecondSteward(world, directory, directory + "-2", List.of())) {
            // The first is to begin: the second comes when it sleeps, and no call of the second waits for work before.
            world.kill(second.name);
            World.pause(4_000);
            var hold = world.proxies.get(directory).hold(HoldingProxy.At.AFTER_BEGIN, person);
            person.choose("TakeOver-Quay-101");
            hold.waitUntilReached();
            world.signal("steward-" + directory, "STOP");
            second.run();
            hold.release();
            assertThat(person.waitForOutcome(SOON).state()).isEqualTo("completed");
            assertThat(world.binds(directory, crew.login(directory), "TakeOver-Quay-101"))
                    .isTrue();
            var shown =
                    world.entente("attempt", "show", person.attempt.reference()).out();
            assertThat(shown).contains(second.name + " took the order", "taking over");

            world.signal("steward-" + directory, "CONT");
            World.pause(3000);
            assertThat(world.passwordsSet(directory, crew.login(directory)) - before)
                    .as("the one that woke up wrote nothing")
                    .isEqualTo(1);
            assertThat(person.look().state()).isEqualTo("completed");
            assertThat(world.binds(directory, crew.login(directory), "TakeOver-Quay-101"))
                    .isTrue();
        } finally {
            world.signal("steward-" + directory, "CONT");
        }
    }

    @Test
    void when_a_server_goes_away_the_next_one_takes_its_place_and_later_the_first_again() throws IOException {
        var second = new SwallowingWire("127.0.0.1", world.ldapsPort);
        world.startSecondSlapd();
        world.kill("steward-fleet");
        try (var steward = new SecondSteward(
                world,
                "fleet",
                "fleet-moving",
                List.of("ldaps://127.0.0.1:" + second.port(), "ldaps://127.0.0.1:" + world.secondLdapsPort))) {
            reset("TakeOver-Quay-201");
            second.cut(true);
            reset("TakeOver-Quay-202");
            World.waitUntil(
                    SOON,
                    "the move is on record",
                    () -> moves().contains("to ldaps://127.0.0.1:" + world.secondLdapsPort));
            second.cut(false);
            World.waitUntil(SOON, "the first is preferred again", () -> {
                reset("TakeOver-Quay-203");
                return moves().contains("to ldaps://127.0.0.1:" + second.port());
            });
            assertThat(world.entente("steward", "log", "--file", steward.file().toString())
                            .out())
                    .contains("work moved from");
            assertThat(moves()).contains("it is preferred and answers again");
        } finally {
            world.stopSecondSlapd();
            world.startSteward("fleet");
        }
    }

    private static String moves() {
        return world.entente("event", "list", "--limit", "200").out();
    }

    private static void reset(String password) {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        assertThat(person.choose(password).waitForOutcome(SOON).state()).isEqualTo("completed");
        assertThat(world.binds("fleet", crew.fleet(), password)).isTrue();
    }
}
