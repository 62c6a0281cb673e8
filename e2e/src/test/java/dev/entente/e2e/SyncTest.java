package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import java.time.Duration;
import java.util.ArrayList;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** What changes in a directory is seen within seconds, and what is strange about it is asked about. */
class SyncTest {
    private static final Duration SECONDS = Duration.ofSeconds(30);
    private static final String PEOPLE = ",ou=people,dc=fleet,dc=skerry,dc=test";
    private static World world;

    @BeforeAll
    static void start() {
        world = World.get();
    }

    private static LDAPConnection root() throws Exception {
        var connection = world.ldap("fleet");
        connection.bind("cn=admin,dc=fleet,dc=skerry,dc=test", "Root-Of-The-Fleet-1");
        return connection;
    }

    private static void add(LDAPConnection root, String uid, String number) throws Exception {
        root.add(
                "dn: uid=" + uid + PEOPLE,
                "objectClass: inetOrgPerson",
                "uid: " + uid,
                "cn: " + uid,
                "sn: " + uid,
                "displayName: Someone " + uid,
                "mail: " + uid + "@mail.skerry.test",
                "employeeNumber: " + number,
                "userPassword: Harbour-Light-42");
    }

    private static String shown(String login) {
        return world.entente("person", "show", login).out();
    }

    private static void seen(String what, String login, String text) {
        World.waitUntil(SECONDS, what, () -> shown(login).contains(text));
    }

    @Test
    void a_new_a_changed_and_a_removed_account_are_seen_within_seconds() throws Exception {
        try (var root = root()) {
            add(root, "newcomer", "70001");
            seen("the newcomer is there", "newcomer", "Someone newcomer");
            root.modify(
                    "cn=Deck,ou=groups,dc=fleet,dc=skerry,dc=test",
                    new Modification(ModificationType.ADD, "member", "uid=newcomer" + PEOPLE));
            seen("the newcomer is in the group", "newcomer", "groups  Deck");
            root.modify(
                    "uid=newcomer" + PEOPLE,
                    new Modification(ModificationType.REPLACE, "pwdAccountLockedTime", "000001010000Z"));
            seen("the newcomer is disabled", "newcomer", "disabled");
            root.delete("uid=newcomer" + PEOPLE);
            World.waitUntil(
                    SECONDS,
                    "the newcomer is gone",
                    () -> world.entente("person", "show", "newcomer").code() == 1);
            root.modify(
                    "cn=Deck,ou=groups,dc=fleet,dc=skerry,dc=test",
                    new Modification(ModificationType.DELETE, "member", "uid=newcomer" + PEOPLE));
        }
    }

    @Test
    void a_steward_that_died_while_it_read_changes_holds_nobody_up() throws Exception {
        world.kill("steward-fleet");
        // As it is for minutes when a steward dies in the middle of many changes.
        world.query("UPDATE directory SET changes_until = now() + interval '10 minutes', changes_steward ="
                + " (SELECT id FROM steward WHERE name = 'fleet-1') WHERE name = 'fleet'");
        world.startSteward("fleet");
        try (var root = root()) {
            add(root, "survivor", "70003");
            seen("the survivor is there", "survivor", "Someone survivor");
            root.delete("uid=survivor" + PEOPLE);
        }
    }

    @Test
    void a_change_in_the_domain_is_seen_within_seconds() throws Exception {
        var crew = world.crew();
        for (var i = 0; i < 3; i++) {
            world.binds("shore", crew.shore(), "Wrong-Wrong-" + i);
        }
        seen("the lock", crew.shore(), "locked");
    }

    @Test
    void a_password_set_elsewhere_shows_that_the_accounts_are_out_of_step() throws Exception {
        var crew = world.crew();
        new ApiPerson(world)
                .prove(crew.shore(), crew.address())
                .choose("Sync-Quay-101")
                .waitForOutcome(Duration.ofSeconds(30));
        World.pause(5000);
        assertThat(shown(crew.fleet())).as("what we set is no surprise").doesNotContain("OUT OF STEP");
        world.query("UPDATE account SET password_set_at = password_set_at - interval '1 hour' WHERE login = '"
                + crew.fleet() + "'");
        world.query(
                "UPDATE delivery SET ended_at = ended_at - interval '1 hour' WHERE account = (SELECT id FROM account"
                        + " WHERE login = '" + crew.fleet() + "')");
        try (var root = root()) {
            root.modify(
                    "uid=" + crew.fleet() + PEOPLE,
                    new Modification(ModificationType.REPLACE, "userPassword", "Somewhere-Else-1"));
        }
        seen("it is out of step", crew.fleet(), "OUT OF STEP");
        world.onRecord("was changed elsewhere");
        new ApiPerson(world)
                .prove(crew.shore(), crew.address())
                .choose("Sync-Quay-102")
                .waitForOutcome(Duration.ofSeconds(30));
        assertThat(shown(crew.fleet())).doesNotContain("OUT OF STEP");
    }

    @Test
    void whose_an_account_is_does_not_follow_an_attribute_but_an_administrator() throws Exception {
        var crew = world.crew();
        try (var root = root()) {
            var victim = world.query("SELECT correlation FROM account WHERE login = '" + crew.shore() + "'");
            add(root, "claimant", "70002");
            seen("the claimant is there", "claimant", "Someone claimant");
            root.modify("uid=claimant" + PEOPLE, new Modification(ModificationType.REPLACE, "employeeNumber", victim));
            World.waitUntil(
                    SECONDS,
                    "it is in doubt",
                    () -> world.entente("person", "cases").out().contains("claimant"));
            assertThat(shown(crew.shore())).doesNotContain("claimant");
            new ApiPerson(world).start("claimant");
            assertThat(world.query("SELECT decoy FROM attempt ORDER BY created_at DESC LIMIT 1"))
                    .as("nobody is identified by an account in doubt")
                    .isEqualTo("unknown-name");

            add(root, "doubled", victim);
            World.waitUntil(
                    SECONDS,
                    "the double is in doubt, too",
                    () -> world.entente("person", "cases")
                            .out()
                            .contains("who has an account in this directory already"));
            var cases = world.entente("--output", "json", "person", "cases").out();
            for (var one : ApiPerson.JSON.readTree(cases)) {
                var decision = one.path("login").asString().equals("doubled") ? "join" : "keep-apart";
                world.entente("person", "settle", one.path("id").asString(), decision)
                        .expect(0);
            }
            assertThat(shown(crew.shore())).contains("doubled").doesNotContain("claimant");
            assertThat(world.entente("person", "cases").expect(0).err()).contains("It's clear who owns every account");
            root.delete("uid=claimant" + PEOPLE);
            root.delete("uid=doubled" + PEOPLE);
        }
    }

    @Test
    void a_name_that_somebody_signs_in_with_goes_on_to_mean_them_when_another_account_takes_it() throws Exception {
        var crew = world.crew();
        try (var root = root()) {
            // The owner's name in the domain, taken by another person's account in the fleet.
            add(root, crew.shore(), "70009");
            World.waitUntil(
                    SECONDS,
                    "an administrator is asked",
                    () -> world.entente("person", "cases").out().contains("signs in with"));
            var person = new ApiPerson(world).prove(crew.shore(), crew.address());
            assertThat(person.attempt.state()).as("the owner is no decoy").isEqualTo("proved");
            var cases = world.entente("--output", "json", "person", "cases").out();
            for (var one : ApiPerson.JSON.readTree(cases)) {
                world.entente("person", "settle", one.path("id").asString(), "keep-apart")
                        .expect(0);
            }
            root.delete("uid=" + crew.shore() + PEOPLE);
        }
    }

    @Test
    void a_sync_that_loses_many_people_stops_and_asks() throws Exception {
        try (var root = root()) {
            var many = new ArrayList<String>();
            for (var i = 0; i < 60; i++) {
                add(root, "leaver" + i, "71" + (100 + i));
                many.add("uid=leaver" + i + PEOPLE);
            }
            seen("the last one is there", "leaver59", "Someone leaver59");
            // The steward sees nothing of the deletions, as if the reading had gone wrong.
            world.kill("steward-fleet");
            for (var dn : many) {
                root.delete(dn);
            }
            world.query("UPDATE directory SET sync_cursor = NULL WHERE name = 'fleet'");
            world.startSteward("fleet");
            assertThat(world.entente("directory", "sync", "fleet").expect(1).out())
                    .contains("did not see 60 of", "entente directory accept-loss fleet");
            assertThat(shown("leaver7")).contains("Someone leaver7");
            assertThat(world.entente("directory", "list").out()).contains("accept-loss");
            world.entente("directory", "accept-loss", "fleet").expect(0);
            assertThat(world.entente("person", "show", "leaver7").code()).isEqualTo(1);
        }
    }
}
