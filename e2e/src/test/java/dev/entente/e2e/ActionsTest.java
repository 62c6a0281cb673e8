package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.unboundid.ldap.sdk.Entry;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import com.unboundid.ldap.sdk.SearchScope;
import dev.entente.wire.PortalApi;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Unlock, change and going on, against both directories. */
class ActionsTest {
    private static final Duration SOON = Duration.ofSeconds(40);
    private static World world;

    @BeforeAll
    static void start() {
        world = World.get();
    }

    private static void lock(Crew crew) {
        for (var directory : List.of("shore", "fleet")) {
            for (var i = 0; i < 3; i++) {
                assertThat(world.binds(directory, crew.login(directory), "Wrong-Wrong-" + i))
                        .isFalse();
            }
            assertThat(world.binds(directory, crew.login(directory), World.OLD_PASSWORD))
                    .as("locked in " + directory)
                    .isFalse();
        }
    }

    @Test
    void an_unlock_leaves_the_password_and_goes_on_to_a_new_one_without_proving_again() {
        var crew = world.crew();
        lock(crew);
        var person = new ApiPerson(world).wants("unlock").prove(crew.shore(), crew.address());
        assertThat(person.unlock().waitForOutcome(SOON).state()).isEqualTo("completed");
        assertThat(world.binds("shore", crew.shore(), World.OLD_PASSWORD)).isTrue();
        assertThat(world.binds("fleet", crew.fleet(), World.OLD_PASSWORD)).isTrue();
        assertThat(person.attempt.mayGoOn()).isTrue();

        person.attempt = person.goOn().as(PortalApi.Attempt.class);
        assertThat(person.attempt.action()).isEqualTo("reset");
        assertThat(person.attempt.accounts()).isEmpty();
        assertThat(person.choose("Actions-Quay-101").waitForOutcome(SOON).state())
                .isEqualTo("completed");
        assertThat(world.binds("shore", crew.shore(), "Actions-Quay-101")).isTrue();
        assertThat(world.binds("fleet", crew.fleet(), "Actions-Quay-101")).isTrue();
        var shown = world.entente("attempt", "show", person.attempt.reference()).out();
        assertThat(shown).contains("unlocked the account", "went on to choose a new password");
        assertThat(person.goOn().status()).as("nothing follows a reset").isEqualTo(409);
    }

    @Test
    void a_change_takes_the_old_password_and_a_wrong_one_counts_as_the_directory_counts() throws Exception {
        var crew = world.crew();
        var person = new ApiPerson(world).wants("change").prove(crew.shore(), crew.address());
        person.change("Not-My-Password-1", "Actions-Quay-201");
        World.waitUntil(
                SOON,
                "another old password is asked for",
                () -> person.look().state().equals("proved"));
        assertThat(person.account("Shore").says()).contains("Your current password wasn't right");
        assertThat(person.account("Fleet").says()).contains("Your current password wasn't right");
        assertThat(badPasswordCount(crew.shore())).isEqualTo(1);

        assertThat(person.change(World.OLD_PASSWORD, "Actions-Quay-202")
                        .waitForOutcome(SOON)
                        .state())
                .isEqualTo("completed");
        assertThat(world.binds("shore", crew.shore(), "Actions-Quay-202")).isTrue();
        assertThat(world.binds("fleet", crew.fleet(), "Actions-Quay-202")).isTrue();
    }

    @Test
    void one_wrong_password_before_the_lock_nothing_is_tried() throws Exception {
        var crew = world.crew();
        for (var i = 0; i < 2; i++) {
            world.binds("shore", crew.shore(), "Wrong-Wrong-" + i);
            world.binds("fleet", crew.fleet(), "Wrong-Wrong-" + i);
        }
        var person = new ApiPerson(world).wants("change").prove(crew.shore(), crew.address());
        person.change("Not-My-Password-1", "Actions-Quay-301").waitForOutcome(SOON);
        assertThat(person.attempt.state()).isEqualTo("refused");
        assertThat(person.account("Shore").says()).contains("One more would lock your account");
        assertThat(person.account("Fleet").says()).contains("One more would lock your account");
        assertThat(badPasswordCount(crew.shore())).isEqualTo(2);
        assertThat(world.binds("shore", crew.shore(), World.OLD_PASSWORD)).isTrue();
    }

    private static int badPasswordCount(String login) throws Exception {
        try (var connection = world.ldap("shore")) {
            connection.bind("CN=svc-entente,OU=Service Accounts,DC=skerry,DC=test", "Svc-Quiet-Water-7");
            return connection
                    .searchForEntry(
                            "DC=skerry,DC=test", SearchScope.SUB, "(sAMAccountName=" + login + ")", "badPwdCount")
                    .getAttributeValueAsInteger("badPwdCount");
        }
    }

    @Test
    void what_failed_is_tried_again_where_it_is_missing_without_proving_again() {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        world.lab("ldap-down");
        try {
            assertThat(person.choose("Actions-Quay-401").waitForOutcome(SOON).state())
                    .isEqualTo("incomplete");
            assertThat(person.result("Shore")).isEqualTo("done");
            assertThat(person.attempt.mayGoOn()).isTrue();
        } finally {
            world.lab("ldap-up");
        }
        person.attempt = person.goOn().as(PortalApi.Attempt.class);
        assertThat(person.sealing().targets())
                .singleElement()
                .satisfies(t -> assertThat(t.title()).isEqualTo("Fleet"));
        World.waitUntil(SOON, "the server counts as there again", () -> {
            person.choose("Actions-Quay-401").waitForOutcome(SOON);
            if (person.attempt.state().equals("completed")) {
                return true;
            }
            person.goOn();
            World.pause(1000);
            return false;
        });
        assertThat(world.binds("fleet", crew.fleet(), "Actions-Quay-401")).isTrue();
    }

    @Test
    void a_minimum_age_is_told_with_the_moment_from_which_it_can_be_done() throws Exception {
        var crew = world.crew();
        try (var connection = world.ldap("fleet")) {
            connection.bind("cn=admin,dc=fleet,dc=skerry,dc=test", "Root-Of-The-Fleet-1");
            var rules = "cn=slow,ou=policies,dc=fleet,dc=skerry,dc=test";
            if (connection.getEntry(rules) == null) {
                connection.add(new Entry(
                        "dn: " + rules,
                        "objectClass: organizationalRole",
                        "objectClass: pwdPolicy",
                        "cn: slow",
                        "pwdAttribute: userPassword",
                        "pwdMinAge: 86400",
                        "pwdMinLength: 10",
                        "pwdCheckQuality: 2"));
            }
            // The rules first: under those before, a password that somebody else sets is to be changed, at any age.
            connection.modify(
                    World.fleetDn(crew.fleet()),
                    new Modification(ModificationType.REPLACE, "pwdPolicySubentry", rules));
            connection.modify(
                    World.fleetDn(crew.fleet()),
                    new Modification(ModificationType.REPLACE, "userPassword", "Actions-Quay-500"));
        }
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.choose("Actions-Quay-501").waitForOutcome(SOON);
        var fleet = person.account("Fleet");
        assertThat(fleet.state()).isEqualTo("refused");
        assertThat(fleet.says()).contains("another password change so soon");
        assertThat(fleet.retryAt())
                .isBetween(Instant.now().plusSeconds(86_000), Instant.now().plusSeconds(86_500));
        assertThat(world.entente("delivery", "list", "--cause", "too-recent").out())
                .contains(crew.fleet(), "too-recent");
    }

    @Test
    void evidence_of_an_unlock_agrees_to_nothing_else() {
        var crew = world.crew();
        var person = new ApiPerson(world).wants("unlock").prove(crew.shore(), crew.address());
        var sealing = person.sealing();
        var other = new ApiPerson(world);
        var forged = sealing.targets().stream()
                .map(t -> new PortalApi.SealedPassword(
                        null, ApiPerson.unlockEvidence(sealing, t).sign(other.key)))
                .toList();
        assertThat(person.handIn(forged).status()).isEqualTo(422);
        assertThat(person.handIn(List.of(new PortalApi.SealedPassword(
                                null,
                                ApiPerson.unlockEvidence(
                                                sealing, sealing.targets().get(0))
                                        .sign(person.key))))
                        .status())
                .as("one directory left out")
                .isEqualTo(422);
        assertThat(person.look().state()).isEqualTo("proved");
    }
}
