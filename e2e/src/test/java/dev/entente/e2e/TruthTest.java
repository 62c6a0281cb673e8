package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import java.time.Duration;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** A steward that is killed at the worst moments: the truth is told, and the password set at most once. */
class TruthTest {
    private final World world = World.get();

    @ParameterizedTest(name = "steward of {0} killed {1}")
    @CsvSource({
        "shore, BEFORE_BEGIN, Truth-Quay-101",
        "shore, AFTER_BEGIN, Truth-Quay-102",
        "shore, BEFORE_RECEIPT, Truth-Quay-103",
        "fleet, BEFORE_BEGIN, Truth-Quay-104",
        "fleet, AFTER_BEGIN, Truth-Quay-105",
        "fleet, BEFORE_RECEIPT, Truth-Quay-106"
    })
    void killed_at_any_point_the_password_is_set_once_and_told_as_done(
            String directory, HoldingProxy.At at, String password) {
        var crew = Crew.next();
        var before = World.passwordsSet(directory, crew.login(directory));
        var person = new ApiPerson(world).prove(crew.login("shore"), crew.address());
        var hold = world.proxies.get(directory).hold(at);
        person.choose(password);
        hold.waitUntilReached();
        world.kill("steward-" + directory);
        if (at == HoldingProxy.At.BEFORE_RECEIPT) {
            assertThat(World.binds(directory, crew.login(directory), password)).isTrue();
        } else {
            assertThat(World.binds(directory, crew.login(directory), World.OLD_PASSWORD))
                    .isTrue();
        }
        assertThat(person.look().state()).isEqualTo("delivering");
        hold.release();
        world.startSteward(directory);

        assertThat(person.waitForOutcome(Duration.ofSeconds(40)).state()).isEqualTo("completed");
        assertThat(World.binds(directory, crew.login(directory), password)).isTrue();
        assertThat(World.passwordsSet(directory, crew.login(directory)) - before)
                .isEqualTo(1);
        assertThat(world.entente("attempt", "show", person.attempt.reference()).out())
                .contains("taking over");
    }

    @Test
    void what_version_and_bind_cannot_tell_is_told_as_unknown() throws LDAPException {
        var crew = Crew.next();
        var person = new ApiPerson(world).prove(crew.login("shore"), crew.address());
        var hold = world.proxies.get("fleet").hold(HoldingProxy.At.AFTER_BEGIN);
        person.choose("Truth-Quay-201");
        hold.waitUntilReached();
        world.kill("steward-fleet");
        // Somebody else sets another password in the meantime.
        try (var connection = World.ldap("fleet")) {
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
                .anyMatch(says -> says.contains("We cannot tell whether"));
        assertThat(World.binds("fleet", crew.login("fleet"), "Somebody-Else-77"))
                .isTrue();
    }

    @Test
    void a_directory_that_is_away_is_told_as_not_changed() {
        var crew = Crew.next();
        var person = new ApiPerson(world).prove(crew.login("shore"), crew.address());
        world.lab("ldap-down");
        try {
            person.choose("Truth-Quay-301");
            assertThat(person.waitForOutcome(Duration.ofSeconds(40)).state()).isEqualTo("incomplete");
            assertThat(person.result("Fleet")).isEqualTo("failed");
        } finally {
            world.lab("ldap-up");
        }
        assertThat(World.binds("fleet", crew.login("fleet"), World.OLD_PASSWORD))
                .isTrue();
        assertThat(World.binds("shore", crew.login("shore"), "Truth-Quay-301")).isTrue();
    }

    @Test
    void ciphertext_is_gone_when_the_delivery_has_ended() {
        var crew = Crew.next();
        var person = new ApiPerson(world).prove(crew.login("shore"), crew.address());
        person.choose("Truth-Quay-401").waitForOutcome(Duration.ofSeconds(30));
        assertThat(world.query("SELECT count(*) FROM sealed_password WHERE attempt = (SELECT id FROM attempt WHERE"
                        + " reference = '" + person.attempt.reference().replaceAll("[^0-9]", "") + "')"))
                .isEqualTo("0");
    }
}
