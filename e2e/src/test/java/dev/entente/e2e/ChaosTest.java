package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import org.junit.jupiter.api.Test;

/**
 * Stewards, the service, slapd and the domain controller are killed at random while attempts are delivered. What is told
 * at the end has to be what version and bind show, and every version has to have moved once at most. The usual run is short;
 * CONTRIBUTING.md says how to run 200 attempts.
 */
class ChaosTest {
    private static final int PEOPLE = Integer.getInteger("chaos.people", 12);
    private static final int ROUNDS = Integer.getInteger("chaos.rounds", 1);

    private static final int KILLS = Integer.getInteger("chaos.kills", 4);

    private final World world = World.get();

    private record Told(Crew crew, ApiPerson person, String password, Map<String, Integer> versions) {}

    @Test
    void whatever_is_killed_what_is_told_is_what_the_directories_show() throws Exception {
        var crew = new ArrayList<Crew>();
        var passwords = new HashMap<Crew, Map<String, String>>();
        for (var i = 0; i < PEOPLE; i++) {
            crew.add(world.crew());
            passwords.put(crew.get(i), new HashMap<>(Map.of("shore", World.OLD_PASSWORD, "fleet", World.OLD_PASSWORD)));
        }
        var outcomes = new TreeMap<String, Integer>();
        for (var round = 0; round < ROUNDS; round++) {
            var password = "Chaos-Quay-" + round + "-Tide";
            var proved = Installation.atOnce(PEOPLE, i -> prove(crew.get(i), password));
            var chaos = new Thread(() -> kill(new Random(20_261_123L + proved.size())));
            chaos.start();
            try {
                Installation.atOnce(PEOPLE, i -> handIn(proved.get(i).person(), password));
            } finally {
                chaos.join();
            }
            World.waitUntil(
                    Duration.ofSeconds(150),
                    "everything is told",
                    () -> world.query("SELECT count(*) FROM delivery WHERE ended_at IS NULL")
                            .equals("0"));
            for (var one : proved) {
                one.person().look();
                for (var directory : List.of("shore", "fleet")) {
                    var told = one.person().result(directory.equals("shore") ? "Shore" : "Fleet");
                    outcomes.merge(told, 1, Integer::sum);
                    assertTrue(one, directory, told, passwords.get(one.crew()));
                }
            }
        }
        System.out.println("chaos: " + outcomes);
        assertThat(outcomes.values().stream().mapToInt(Integer::intValue).sum()).isEqualTo(PEOPLE * ROUNDS * 2);
        assertThat(outcomes.getOrDefault("done", 0)).as("some get through").isPositive();
    }

    private Told prove(Crew one, String password) {
        return new Told(
                one,
                new ApiPerson(world).prove(one.shore(), one.address()),
                password,
                Map.of(
                        "shore", world.passwordsSet("shore", one.shore()),
                        "fleet", world.passwordsSet("fleet", one.fleet())));
    }

    private void assertTrue(Told one, String directory, String told, Map<String, String> passwords) {
        var login = one.crew().login(directory);
        var moved = world.passwordsSet(directory, login) - one.versions().get(directory);
        var about = told + " for " + login + " in " + directory + ", "
                + one.person().attempt.reference();
        assertThat(moved).as(about).isBetween(0, 1);
        switch (told) {
            case "done" -> {
                assertThat(world.binds(directory, login, one.password()))
                        .as(about)
                        .isTrue();
                assertThat(moved).as(about).isEqualTo(1);
                passwords.put(directory, one.password());
            }
            case "refused", "failed" -> {
                assertThat(moved).as(about).isZero();
                assertThat(world.binds(directory, login, passwords.get(directory)))
                        .as(about)
                        .isTrue();
            }
            default -> {
                // Unknown says nothing, so nothing can be untrue; what is there now is what the next round starts from.
                if (world.binds(directory, login, one.password())) {
                    passwords.put(directory, one.password());
                }
            }
        }
    }

    /** A call that got lost with the service is made again, as a browser does. */
    private static ApiPerson.Answer handIn(ApiPerson person, String password) {
        var sealing = again(person::sealing);
        var sealed = sealing.targets().stream()
                .map(target -> person.seal(sealing, target, password))
                .toList();
        return again(() -> {
            var answer = person.handIn(sealed);
            if (answer.status() >= 500) {
                throw new IllegalStateException("status " + answer.status());
            }
            return answer;
        });
    }

    private static <T> T again(java.util.function.Supplier<T> call) {
        for (var tries = 0; ; tries++) {
            try {
                return call.get();
            } catch (IllegalStateException | AssertionError e) {
                if (tries > 120) {
                    throw e;
                }
                World.pause(250);
            }
        }
    }

    private void kill(Random random) {
        for (var i = 0; i < KILLS; i++) {
            World.pause(300 + random.nextInt(900));
            switch (random.nextInt(8)) {
                case 0, 1 -> restart("steward-shore", () -> world.startSteward("shore"));
                case 2, 3 -> restart("steward-fleet", () -> world.startSteward("fleet"));
                case 4 -> {
                    world.kill("service");
                    world.startService();
                }
                case 5, 6 -> {
                    world.killLab("ldap/pid");
                    world.lab("ldap-up");
                }
                default -> {
                    world.killLab("ad/pid");
                    world.lab("ad-up");
                }
            }
        }
    }

    private void restart(String process, Runnable start) {
        world.kill(process);
        start.run();
    }
}
