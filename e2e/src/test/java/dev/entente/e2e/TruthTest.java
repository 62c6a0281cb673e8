package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** A steward that is killed at the worst moments: the truth is told, and the password set at most once. */
class TruthTest {
    private final World world = World.get();

    @ParameterizedTest(name = "steward of {0} killed {1}")
    @CsvSource({"shore, BEFORE_BEGIN", "shore, AFTER_BEGIN", "fleet, BEFORE_BEGIN", "fleet, AFTER_BEGIN"})
    void killed_before_the_write_another_takes_over_and_the_password_is_set_once(String directory, HoldingProxy.At at) {
        var crew = world.crew();
        var before = world.passwordsSet(directory, crew.login(directory));
        var person = new ApiPerson(world).prove(crew.login("shore"), crew.address());
        var hold = world.proxies.get(directory).hold(at, person);
        person.choose("Truth-Quay-101");
        hold.waitUntilReached();
        world.kill("steward-" + directory);
        assertThat(world.binds(directory, crew.login(directory), World.OLD_PASSWORD))
                .isTrue();
        assertThat(person.look().state()).isEqualTo("delivering");
        hold.release();
        world.startSteward(directory);
        assertSetOnce(person, crew, directory, before, "Truth-Quay-101");
        assertThat(shown(person)).contains("taking over");
    }

    @ParameterizedTest(name = "steward of {0} killed after the write, before it heard of it")
    @ValueSource(strings = {"shore", "fleet"})
    void killed_after_the_write_version_and_bind_tell_that_it_is_done(String directory) {
        var swallowed = swallow(directory, "Truth-Quay-103");
        world.kill("steward-" + directory);
        world.wires.get(directory).swallowAnswers(false);
        world.startSteward(directory);
        assertSetOnce(swallowed.person(), swallowed.crew(), directory, swallowed.before(), "Truth-Quay-103");
        assertThat(shown(swallowed.person())).contains("taking over");
    }

    private record Swallowed(Crew crew, ApiPerson person, int before) {}

    /** The directory took the write, but its answer never arrives: from now on none does. */
    private Swallowed swallow(String directory, String password) {
        var wire = world.wires.get(directory);
        for (var tries = 0; tries < 4; tries++) {
            var crew = world.crew();
            var before = world.passwordsSet(directory, crew.login(directory));
            var person = new ApiPerson(world).prove(crew.login("shore"), crew.address());
            var hold = world.proxies.get(directory).hold(HoldingProxy.At.AFTER_BEGIN, person);
            person.choose(password);
            hold.waitUntilReached();
            wire.swallowAnswers(true);
            hold.release();
            for (var looks = 0; looks < 30; looks++) {
                if (world.passwordsSet(directory, crew.login(directory)) == before + 1) {
                    return new Swallowed(crew, person, before);
                }
                World.pause(100);
            }
            // The write needed a new connection, which nobody answered either: it never went out.
            wire.swallowAnswers(false);
            person.waitForOutcome(Duration.ofSeconds(40));
        }
        throw new AssertionError("no write went out over a connection that was there");
    }

    @ParameterizedTest(name = "steward of {0} killed before its receipt was taken")
    @ValueSource(strings = {"shore", "fleet"})
    void killed_before_the_receipt_it_is_handed_in_later(String directory) {
        var crew = world.crew();
        var before = world.passwordsSet(directory, crew.login(directory));
        var person = new ApiPerson(world).prove(crew.login("shore"), crew.address());
        var hold = world.proxies.get(directory).hold(HoldingProxy.At.BEFORE_RECEIPT, person);
        person.choose("Truth-Quay-105");
        hold.waitUntilReached();
        world.kill("steward-" + directory);
        assertThat(world.binds(directory, crew.login(directory), "Truth-Quay-105"))
                .isTrue();
        assertThat(person.look().state()).isEqualTo("delivering");
        hold.release();
        world.startSteward(directory);
        assertSetOnce(person, crew, directory, before, "Truth-Quay-105");
    }

    private void assertSetOnce(ApiPerson person, Crew crew, String directory, int before, String password) {
        assertThat(person.waitForOutcome(Duration.ofSeconds(40)).state()).isEqualTo("completed");
        assertThat(world.binds(directory, crew.login(directory), password)).isTrue();
        assertThat(world.passwordsSet(directory, crew.login(directory)) - before)
                .isEqualTo(1);
    }

    private String shown(ApiPerson person) {
        return world.entente("attempt", "show", person.attempt.reference()).out();
    }

    @Test
    void what_version_and_bind_cannot_tell_is_told_as_unknown() throws LDAPException {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.login("shore"), crew.address());
        var hold = world.proxies.get("fleet").hold(HoldingProxy.At.AFTER_BEGIN, person);
        person.choose("Truth-Quay-201");
        hold.waitUntilReached();
        world.kill("steward-fleet");
        // Somebody else sets another password in the meantime.
        try (var connection = world.ldap("fleet")) {
            connection.bind("cn=admin,dc=fleet,dc=skerry,dc=test", "Root-Of-The-Fleet-1");
            connection.modify(
                    World.fleetDn(crew.login("fleet")),
                    new Modification(ModificationType.REPLACE, "userPassword", "Somebody-Else-77"));
        }
        hold.release();
        world.startSteward("fleet");

        assertThat(person.waitForOutcome(Duration.ofSeconds(40)).state()).isEqualTo("incomplete");
        assertThat(person.result("Fleet")).isEqualTo("unknown");
        assertThat(person.result("Shore")).isEqualTo("done");
        assertThat(person.attempt.accounts().stream().map(a -> String.valueOf(a.says())))
                .anyMatch(says -> says.contains("We can't tell whether"));
        assertThat(world.binds("fleet", crew.login("fleet"), "Somebody-Else-77"))
                .isTrue();
    }

    @Test
    void what_was_told_as_unknown_is_settled_by_a_later_look() {
        var swallowed = swallow("fleet", "Truth-Quay-251");
        var crew = swallowed.crew();
        var person = swallowed.person();
        world.kill("steward-fleet");
        world.wires.get("fleet").swallowAnswers(false);
        // As if two others had taken over and gone away, too.
        world.query("UPDATE delivery SET epoch = 3 WHERE state = 'begun'");
        assertThat(person.waitForOutcome(Duration.ofSeconds(30)).state()).isEqualTo("incomplete");
        assertThat(person.result("Fleet")).isEqualTo("unknown");

        world.startSteward("fleet");
        World.waitUntil(
                Duration.ofSeconds(60),
                "it is settled",
                () -> person.look().state().equals("completed"));
        assertThat(person.result("Fleet")).isEqualTo("done");
        assertThat(world.passwordsSet("fleet", crew.fleet()))
                .as("the later look wrote nothing")
                .isEqualTo(swallowed.before() + 1);
        assertThat(shown(person)).containsPattern("A later look by [a-z]+-\\d settled the delivery");
    }

    @Test
    void a_directory_that_is_away_is_told_as_not_changed() {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.login("shore"), crew.address());
        world.lab("ldap-down");
        try {
            person.choose("Truth-Quay-301");
            assertThat(person.waitForOutcome(Duration.ofSeconds(40)).state()).isEqualTo("incomplete");
            assertThat(person.result("Fleet")).isEqualTo("failed");
        } finally {
            world.lab("ldap-up");
        }
        assertThat(world.binds("fleet", crew.login("fleet"), World.OLD_PASSWORD))
                .isTrue();
        assertThat(world.binds("shore", crew.login("shore"), "Truth-Quay-301")).isTrue();
    }

    @Test
    void two_deliveries_that_end_in_the_same_moment_end_their_attempt() {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.login("shore"), crew.address());
        var holds = List.of(
                world.proxies.get("shore").hold(HoldingProxy.At.AFTER_BEGIN, person),
                world.proxies.get("fleet").hold(HoldingProxy.At.AFTER_BEGIN, person));
        person.choose("Truth-Quay-501");
        holds.forEach(HoldingProxy.Hold::waitUntilReached);
        // Whoever ends a delivery writes events of its attempt last of all, so both are in the middle of it now.
        var waiting = CompletableFuture.runAsync(() ->
                world.query("SELECT 1 FROM event_ordinal WHERE attempt = (SELECT id FROM attempt WHERE reference = '"
                        + person.attempt.reference().replaceAll("[^0-9]", "") + "') FOR UPDATE; SELECT pg_sleep(3)"));
        World.waitUntil(
                Duration.ofSeconds(10),
                "nobody can write events of the attempt",
                () -> world.query("SELECT count(*) FROM pg_stat_activity WHERE wait_event = 'PgSleep'")
                        .equals("1"));
        holds.forEach(HoldingProxy.Hold::release);
        waiting.join();
        assertThat(person.waitForOutcome(Duration.ofSeconds(20)).state()).isEqualTo("completed");
    }

    @Test
    void ciphertext_is_gone_when_the_delivery_has_ended() {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.login("shore"), crew.address());
        person.choose("Truth-Quay-401").waitForOutcome(Duration.ofSeconds(30));
        assertThat(world.query("SELECT count(*) FROM sealed_password WHERE attempt = (SELECT id FROM attempt WHERE"
                        + " reference = '" + person.attempt.reference().replaceAll("[^0-9]", "") + "')"))
                .isEqualTo("0");
    }
}
