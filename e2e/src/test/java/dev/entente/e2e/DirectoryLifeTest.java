package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.DirectoryApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Suspending, changing and removing a directory; stewards that retire, come back with another key, or were copied. */
class DirectoryLifeTest {
    private static final Duration SOON = Duration.ofSeconds(40);
    private static World world;

    @BeforeAll
    static void start() {
        world = World.get();
    }

    @Test
    void suspending_stops_deliveries_at_once_and_says_so() {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        world.kill("steward-fleet");
        try {
            person.choose("Life-Quay-101");
            world.entente("directory", "suspend", "fleet").expect(0);
            assertThat(person.waitForOutcome(SOON).state()).isEqualTo("incomplete");
            assertThat(person.account("Fleet").says()).contains("has paused changes");
            assertThat(person.result("Shore")).isEqualTo("done");
            assertThat(world.entente("directory", "show", "fleet").out()).contains("nothing is delivered");

            var other = world.crew();
            var next = new ApiPerson(world).prove(other.shore(), other.address());
            assertThat(next.sealing().targets())
                    .singleElement()
                    .satisfies(t -> assertThat(t.title()).isEqualTo("Shore"));
            next.choose("Life-Quay-102").waitForOutcome(SOON);
            assertThat(next.account("Fleet").state()).isEqualTo("failed");
            assertThat(world.binds("fleet", other.fleet(), World.OLD_PASSWORD)).isTrue();
        } finally {
            world.entente("directory", "resume", "fleet").expect(0);
            world.startSteward("fleet");
        }
        world.onRecord("suspended the directory fleet", "resumed the directory fleet");
    }

    @Test
    void changing_keeps_what_is_not_named_and_refuses_what_is_wrong() {
        world.entente("directory", "change", "fleet", "--loss-share", "12").expect(0);
        var shown =
                world.entente("--output", "json", "directory", "show", "fleet").out();
        assertThat(shown).contains("\"lossShare\" : 12", "\"correlation\" : \"employeeNumber\"");
        assertThat(world.entente("directory", "change", "fleet", "--loss-share", "0")
                        .expect(1)
                        .err())
                .contains("numbers from 1 to 100");
        assertThat(world.entente("directory", "change", "fleet", "--base", "no name")
                        .expect(1)
                        .err())
                .contains("The base isn't a distinguished name");
        world.entente("directory", "change", "fleet", "--loss-share", "10").expect(0);
    }

    @Test
    void removing_says_first_what_it_would_do(@TempDir Path folder) throws IOException {
        Files.writeString(folder.resolve("token"), "t");
        passing(folder, "9").expect(0);
        assertThat(world.entente("directory", "remove", "passing").expect(0).out())
                .contains("would forget 0 accounts");
        assertThat(world.entente("directory", "list").out()).contains("passing");
        world.entente("directory", "remove", "passing", "--yes").expect(0);
        assertThat(world.entente("directory", "list").out()).doesNotContain("passing");
        assertThat(passing(folder, "2").err())
                .as("addresses would be chosen between two of one trust")
                .contains("The directory fleet has the trust 2 already");
        // Its operator key from before is not in the way.
        passing(folder, "9").expect(0);
        world.entente("directory", "remove", "passing", "--yes").expect(0);
        assertThat(world.entente("directory", "remove", "shore", "--yes")
                        .expect(1)
                        .err())
                .contains("These policies deliver to shore");
    }

    private static World.Ran passing(Path folder, String trust) throws IOException {
        Files.deleteIfExists(folder.resolve("steward.yaml"));
        return world.entente(
                "directory",
                "add",
                "passing",
                "--kind",
                "scim",
                "--at",
                "https://localhost:1/scim",
                "--trust",
                trust,
                "--token-file",
                folder.resolve("token").toString(),
                "--correlation",
                "externalId",
                "--steward-file",
                folder.resolve("steward.yaml").toString());
    }

    @Test
    void a_steward_that_comes_back_with_another_key_replaces_the_one_before_and_a_retired_one_serves_nobody()
            throws IOException {
        try (var second = new SecondSteward(world, "fleet", "fleet-renewed", List.of())) {
            var before = identityKey(second.name);
            world.kill(second.name);
            var file = Files.readString(second.file()).replace("state-" + second.name, "state-" + second.name + "-b");
            Files.writeString(second.file(), file);
            var code = world.entente("steward", "admit", "--directory", "fleet", second.name)
                    .expect(0)
                    .out()
                    .strip();
            world.joinAndSign("fleet", second.file().toString(), code, "fleet-1", second.name);
            assertThat(identityKey(second.name)).isNotEqualTo(before);
            assertThat(world.entente("steward", "list").out()).containsPattern("fleet-renewed until .* retired");
        }
        assertThat(world.entente("--output", "csv", "steward", "list").out())
                .contains("fleet-renewed,fleet,retired,no");
        world.onRecord("joined again", "retired the steward fleet-renewed of fleet");
    }

    private static String identityKey(String name) {
        for (var line :
                world.entente("--output", "csv", "steward", "list").out().split("\n")) {
            if (line.startsWith(name + ",")) {
                return line.substring(line.lastIndexOf(',') + 1);
            }
        }
        throw new AssertionError("no steward " + name);
    }

    @Test
    void two_processes_with_one_key_are_noticed_and_get_no_more_work() throws IOException {
        try (var second = new SecondSteward(world, "fleet", "fleet-copied", List.of())) {
            var copy = second.file().resolveSibling("copy.yaml");
            var state = second.file().resolveSibling("state-fleet-copied");
            World.run(
                            Map.of(),
                            "cp",
                            "-r",
                            state.toString(),
                            second.file().resolveSibling("state-stolen").toString())
                    .expect(0);
            Files.writeString(copy, Files.readString(second.file()).replace("state-fleet-copied", "state-stolen"));
            world.start(
                    "thief", World.ROOT.resolve("bin/entente").toString(), "steward", "run", "--file", copy.toString());
            World.waitUntil(
                    SOON,
                    "the copy is noticed",
                    () -> world.entente("--output", "csv", "steward", "list")
                            .out()
                            .contains("fleet-copied,fleet,copied,no"));
            assertThat(world.entente("directory", "show", "fleet").out())
                    .contains("Two processes use the key of steward fleet-copied");
            world.kill("thief");
            var crew = world.crew();
            assertThat(new ApiPerson(world)
                            .prove(crew.shore(), crew.address())
                            .choose("Life-Quay-301")
                            .waitForOutcome(SOON)
                            .state())
                    .as("the other steward goes on")
                    .isEqualTo("completed");
        }
        world.onRecord("Two processes used the key");
    }

    @Test
    void a_missing_right_is_told_with_the_rule_to_apply_and_looked_at_again_by_itself() throws IOException {
        var ldap = world.dir.resolve("lab/ldap");
        var rules = Files.readString(ldap.resolve("slapd.conf"));
        var stricter = rules.replaceFirst("(attrs=userPassword\\s+by dn.exact=\"[^\"]+\") =w", "$1 none");
        assertThat(stricter).isNotEqualTo(rules);
        var shorter = stricter.replace("size=unlimited", "size=20");
        assertThat(shorter).isNotEqualTo(stricter);
        Files.writeString(ldap.resolve("stricter.conf"), shorter);
        world.lab("ldap-down");
        try {
            world.start(
                    "stricter-slapd",
                    "slapd",
                    "-f",
                    ldap.resolve("stricter.conf").toString(),
                    "-h",
                    "ldaps://127.0.0.1:" + world.ldapsPort + "/",
                    "-d",
                    "0");
            World.waitUntil(
                    SOON,
                    "the right is missing",
                    () -> world.entente("directory", "preflight", "fleet")
                            .out()
                            .contains("isn't allowed to reset passwords"));
            var told =
                    world.entente("directory", "preflight", "fleet").expect(1).out();
            assertThat(told)
                    .as("everything in one run")
                    .contains(
                            "access to dn.subtree",
                            "by dn.exact=\"cn=svc-entente",
                            "The server limits how many entries it returns");
            assertThat(world.entente("status").out()).contains("isn't allowed to reset passwords");
        } finally {
            world.kill("stricter-slapd");
            world.lab("ldap-up");
        }
        // Nobody asks for it: the next look is due within minutes, which are over now.
        assertThat(world.query("WITH soon AS (UPDATE directory SET preflight_due_at = now() WHERE name = 'fleet' AND"
                        + " preflight_due_at < now() + interval '3 minutes' RETURNING 1) SELECT count(*) FROM soon"))
                .isEqualTo("1");
        World.waitUntil(
                SOON,
                "the right is seen again",
                () -> !world.entente("status").out().contains("isn't allowed to reset passwords"));
        world.onRecord("reflight results for fleet");
    }

    @Test
    void rules_that_cannot_be_read_are_told_with_the_delegation_to_apply() throws Exception {
        var rules = "CN=watch-rules,CN=Password Settings Container,CN=System,DC=skerry,DC=test";
        try (var administrator = world.ldap("shore")) {
            administrator.bind("Administrator@skerry.test", "Adm1n-Skerry-Line");
            administrator.add(
                    "dn: " + rules,
                    "objectClass: msDS-PasswordSettings",
                    "msDS-PasswordSettingsPrecedence: 10",
                    "msDS-PasswordReversibleEncryptionEnabled: FALSE",
                    "msDS-PasswordHistoryLength: 5",
                    "msDS-PasswordComplexityEnabled: TRUE",
                    "msDS-MinimumPasswordLength: 16",
                    "msDS-MinimumPasswordAge: 0",
                    "msDS-MaximumPasswordAge: -36288000000000",
                    "msDS-LockoutThreshold: 5",
                    "msDS-LockoutObservationWindow: -18000000000",
                    "msDS-LockoutDuration: -18000000000",
                    "msDS-PSOAppliesTo: CN=Directory Administrators,OU=Groups,DC=skerry,DC=test");
            try {
                assertThat(world.entente("directory", "preflight", "shore").out())
                        .contains("fine-grained password rules that the service account can't read", "dsacls")
                        .contains(rules);
            } finally {
                administrator.delete(rules);
            }
        }
        assertThat(world.entente("directory", "preflight", "shore").out()).doesNotContain("fine-grained");
    }

    @Test
    void a_roster_signed_by_another_key_is_refused_and_on_record() {
        var api = ConsoleApi.signedIn(world);
        var fleet = ApiPerson.JSON.readValue(api.get("/directories/fleet").body(), DirectoryApi.Directory.class);
        var stolen = new Roster(1, fleet.id(), fleet.rosterVersion() + 1, System.currentTimeMillis(), List.of())
                .sign(SigningKey.generate(new SecureRandom()));
        var answer = api.put("/directories/fleet/roster", new DirectoryApi.SignedRoster(stolen));
        assertThat(answer.statusCode()).isEqualTo(422);
        assertThat(answer.body()).contains("signed by another key");
        world.onRecord("A roster of fleet was refused");
    }
}
