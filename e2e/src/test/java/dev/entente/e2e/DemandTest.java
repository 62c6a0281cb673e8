package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.wire.PeopleApi;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.Test;

/** A steward that wants to recognise some people by itself: told before, refused without, and let through with, by whoever it is. */
class DemandTest extends PublishingWithDirectoriesTest {
    private static final String WATCH = "cn=Watch,ou=groups,dc=fleet,dc=skerry,dc=test";
    private static final String FIRST = "Harbour-Light-42";

    private void restart(String text) throws IOException {
        world.kill("steward-fleet");
        Files.writeString(Path.of(world.stewardFile("fleet")), text);
        world.startSteward("fleet");
        world.entente("directory", "sync", "fleet").expect(0);
    }

    private String fleet(PortalApi.Attempt attempt) {
        return attempt.accounts().stream()
                .filter(a -> a.directory().equals("Fleet"))
                .map(a -> a.state() + " " + a.says())
                .findFirst()
                .orElseThrow();
    }

    private static final String PROVE =
            "prove:\n  reset: { any-of: [email-code, passkey] }\n  change: { any-of: [email-code] }\n"
                    + "  details: { any-of: [email-code] }\n";

    /** Proves their mailbox, and is asked for a passkey all the same, before they choose a password in vain. */
    private void askedForMore(Crew crew) {
        var mailed = new ApiPerson(world).prove(crew.shore(), crew.address());
        assertThat(mailed.attempt.state()).isEqualTo("proving");
        assertThat(mailed.attempt.methods()).containsExactly("passkey");
    }

    private String credentials(Crew crew) {
        return world.entente("steward", "credentials", "--directory", "fleet", crew.shore())
                .expect(0)
                .out();
    }

    private int withdrawn(Crew crew, String thumbprint) {
        return world.entente("steward", "withdraw-credential", "--directory", "fleet", crew.shore(), thumbprint)
                .code();
    }

    @Test
    void a_person_brings_a_passkey_with_a_change_and_gets_in_by_it_where_mail_alone_is_refused() throws Exception {
        var crew = world.crew();
        var other = world.crew();
        var file = Files.readString(Path.of(world.stewardFile("fleet")));
        try (var root = world.ldap("fleet")) {
            root.bind("cn=admin,dc=fleet,dc=skerry,dc=test", "Root-Of-The-Fleet-1");
            root.add(
                    "dn: " + WATCH,
                    "objectClass: groupOfNames",
                    "cn: Watch",
                    "member: " + World.fleetDn(crew.fleet()),
                    "member: " + World.fleetDn(other.fleet()));
            pilot(PROVE, crew, other);
            restart(file.replace(
                    "protected-groups: []",
                    "protected-groups: ['" + WATCH + "']\n  demand: { groups: ['" + WATCH + "'], proof: [passkey] }"));
            Installation.waitUntil(
                    SOON,
                    "the demand is told",
                    () -> explained(crew).contains("demand a passkey for " + crew.fleet())
                            && explained(crew).contains("recognise none"));
            assertThat(world.entente("explain", crew.shore()).code()).isEqualTo(1);

            assertThat(world.entente("directory", "preflight", "fleet").out())
                    .contains("recognise 2 of them by none")
                    .contains(crew.fleet())
                    .contains(other.fleet());

            var refused = new ApiPerson(world)
                    .prove(other.shore(), other.address())
                    .choose("Lantern-Quay-4-Pines")
                    .waitForOutcome(SOON);
            assertThat(fleet(refused)).startsWith("refused").contains("a passkey or a phone of yours");
            assertThat(world.binds("fleet", other.fleet(), FIRST)).isTrue();

            var page = world.browser().page(390, 844);
            world.browser().authenticators(page);
            var person = new Person(page, world.url);
            var browser = new MethodsInBrowser(world.boxUrl());
            assertThat(browser.addPasskey(person, crew.shore(), crew.address()))
                    .contains("Fleet doesn’t know it yet. Change your password once in this browser, and it will.");
            assertThat(browser.change(person, crew.shore(), crew.address(), FIRST, "Lantern-Quay-5-Pines"))
                    .isEqualTo("Your new password works");
            page.context().clearCookies();
            Installation.waitUntil(
                    SOON,
                    "the steward's statement is there",
                    () -> !explained(crew).contains("recognise none"));
            askedForMore(crew);
            // A passkey that the stewards do not know shows them nothing.
            var stray = new SoftPasskey(world.url);
            var owner = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
            var offered = owner.setUp("passkey", "Not known to any steward");
            assertThat(owner.call(
                                    "POST",
                                    "/attempt/enrolments/" + offered.id() + "/confirmation",
                                    stray.register(offered))
                            .status())
                    .isEqualTo(200);
            var byStray = new ApiPerson(world);
            byStray.start(crew.shore());
            byStray.attempt = byStray.ask("passkey").as(PortalApi.Attempt.class);
            byStray.attempt = byStray.call(
                            "POST",
                            "/attempt/challenges/" + byStray.attempt.challenge().id() + "/answers",
                            stray.sign(byStray.passkeyChallenge()))
                    .as(PortalApi.Attempt.class);
            assertThat(byStray.attempt.state()).isEqualTo("proving");
            assertThat(byStray.attempt.methods()).containsExactly("passkey");
            var strays = Arrays.stream(
                            owner.call("GET", "/attempt/enrolments", null).as(PortalApi.OwnMethod[].class))
                    .filter(m -> m.label().equals("Not known to any steward"))
                    .findFirst()
                    .orElseThrow();
            owner.call("DELETE", "/attempt/enrolments/" + strays.id(), null);
            // Where the policy does not ask for it, it is asked for as well, and explain says so.
            pilot(
                    PROVE.replace("reset: { any-of: [email-code, passkey] }", "reset: { any-of: [email-code] }"),
                    crew,
                    other);
            assertThat(world.entente("explain", crew.shore()).expect(0).out())
                    .contains("so it's asked for in any case");
            askedForMore(crew);
            pilot(PROVE, crew, other);
            assertThat(world.entente("directory", "preflight", "fleet").out()).contains("recognise 1 of them by none");
            assertThat(browser.byPasskey(person, crew.shore(), "Lantern-Quay-6-Pines"))
                    .isEqualTo("Your new password works");
            assertThat(world.binds("fleet", crew.fleet(), "Lantern-Quay-6-Pines"))
                    .isTrue();
            assertThat(world.entente("event", "list", "--limit", "60").out())
                    .contains("recognises the person by a passkey from now on");

            var shown = ApiPerson.JSON.readValue(
                    api.get("/person?named=" + crew.shore()).body(), PeopleApi.Person.class);
            var passkey = List.of(ApiPerson.JSON.readValue(
                            api.get("/people/" + shown.id() + "/enrolments").body(), PeopleApi.Enrolment[].class))
                    .stream()
                    .filter(e -> e.method().equals("passkey"))
                    .findFirst()
                    .orElseThrow();
            assertThat(world.entente(
                                    "steward",
                                    "sign-credential",
                                    "--directory",
                                    "fleet",
                                    crew.shore(),
                                    passkey.id().toString(),
                                    "--expect",
                                    "another")
                            .code())
                    .as("what nobody compared is not signed")
                    .isEqualTo(1);

            // What the stewards know and the person has no more is of no use to them, and explain and preflight say so.
            assertThat(explained(crew)).doesNotContain("recognise none");
            api.delete("/people/" + shown.id() + "/enrolments/" + passkey.id());
            assertThat(explained(crew)).contains("recognise none");
            assertThat(world.entente("directory", "preflight", "fleet").out())
                    .contains("recognise 2 of them by none")
                    .contains(crew.fleet());
            // The operator withdraws it all the same.
            var listed = credentials(crew);
            assertThat(listed).contains("passkey").contains("recognised");
            var thumbprint = listed.strip().replaceAll("(?s).* ", "");
            assertThat(withdrawn(crew, "x".repeat(43))).isEqualTo(1);
            assertThat(withdrawn(crew, thumbprint)).isEqualTo(0);
            assertThat(credentials(crew)).contains("withdrawn");
        } finally {
            restart(file);
            try (var root = world.ldap("fleet")) {
                root.bind("cn=admin,dc=fleet,dc=skerry,dc=test", "Root-Of-The-Fleet-1");
                root.delete(WATCH);
            }
        }
    }
}
