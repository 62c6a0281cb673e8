package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import dev.entente.wire.PeopleApi;
import dev.entente.wire.PolicyApi;
import java.io.IOException;
import java.nio.file.Files;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.function.Predicate;
import org.junit.jupiter.api.Test;

/** Who came to a scope and who left it, and why. */
class ScopeHistoryTest extends PublishingWithDirectoriesTest {
    @Test
    void scopes_are_counted_listed_and_previewed() throws IOException {
        write(
                "scopes/ratings.yaml",
                "scope: ratings\ntitle: Ratings\nall:\n"
                        + "  - ou: OU=Deck,OU=People,DC=skerry,DC=test\n  - scope: deck-crew\nnone:\n"
                        + "  - where: { title: { matches: '*master*' } }\nportion: 40%\n");
        publish();
        var shown = world.entente("scope", "show", "ratings").expect(0).out();
        assertThat(shown).contains("in a stable 40% of those", "in the OU Deck or below", "no policy uses it");
        var members = world.entente("--output", "json", "scope", "members", "ratings")
                .expect(0)
                .out();
        var count = ApiPerson.JSON.readTree(members).size();
        assertThat(shown).contains("holds " + count + " people");
        assertThat(count).isGreaterThan(3);
        assertThat(world.entente("scope", "overlap", "ratings", "deck-crew")
                        .expect(0)
                        .out())
                .startsWith(count + " in both, 0 in ratings alone");
        assertThat(world.entente("scope", "list").expect(0).out()).containsPattern("deck-crew +\\d+ +deck-crew");
        assertThat(world.entente("scope", "show", "nowhere").expect(1).err()).contains("It has: deck-crew, ratings");

        var preview = api.post(
                "/scopes/preview",
                ApiPerson.JSON.writeValueAsString(
                        new PolicyApi.ScopeText("new", "scope: new\nany:\n  - people: [astrid.nordvik]\n", Map.of())));
        assertThat(ApiPerson.JSON.readValue(preview.body(), PolicyApi.ScopePreview.class))
                .satisfies(p -> {
                    assertThat(p.people()).isEqualTo(1);
                    assertThat(p.words()).isEqualTo("named astrid.nordvik");
                    assertThat(p.sample().get(0).name()).isEqualTo("Astrid Nordvik");
                });
    }

    @Test
    void who_came_to_a_scope_and_who_left_it_is_told_with_the_reason() throws IOException {
        var one = world.crew();
        var other = world.crew();
        write("scopes/history.yaml", "scope: history\nany:\n  - people: [" + one.shore() + "]\n");
        write(
                "policies/history.yaml",
                "policy: history\nwho: scope history\nallow: [reset]\ndeliver: { to: [fleet] }\n");
        write("order.yaml", "order: [history, deck-crew]\n");
        publish();
        World.waitUntil(
                SOON,
                "the new scope is known",
                () -> world.query("SELECT count(*) FROM scope_state WHERE scope = 'history'")
                        .equals("1"));
        write("scopes/history.yaml", "scope: history\nany:\n  - people: [" + other.shore() + "]\n");
        publish();
        World.waitUntil(
                SOON,
                "both changes are told",
                () -> world.query("SELECT count(*) FROM scope_change WHERE scope = 'history'")
                        .equals("2"));
        var revision = revision();
        var said = world.entente("scope", "changes", "history").expect(0).out();
        assertThat(said)
                .containsPattern(
                        "came +" + name(other) + " +" + revision + " +revision " + revision + " made it people")
                .containsPattern("left +" + name(one) + " +" + revision + " ");
        assertThat(world.entente("scope", "changes", "nowhere").expect(1).err())
                .contains("There is no scope \"nowhere\" in the revision in force");
    }

    @Test
    void membership_follows_the_directory_within_seconds() throws IOException, LDAPException {
        var crew = world.crew();
        write("scopes/pilot.yaml", "scope: pilot\nany:\n  - where: { title: Harbour pilot }\n");
        write("policies/pilot.yaml", "policy: pilot\nwho: scope pilot\nallow: [reset]\ndeliver: { to: [fleet] }\n");
        write("order.yaml", "order: [pilot, deck-crew]\n");
        publish();
        World.waitUntil(
                SOON,
                "the new scope is known",
                () -> world.query("SELECT count(*) FROM scope_state WHERE scope = 'pilot'")
                        .equals("1"));
        var entry = "uid=" + crew.fleet() + ",ou=people,dc=fleet,dc=skerry,dc=test";
        try (var root = world.ldap("fleet")) {
            root.bind("cn=admin,dc=fleet,dc=skerry,dc=test", "Root-Of-The-Fleet-1");
            root.modify(entry, new Modification(ModificationType.REPLACE, "title", "Harbour pilot"));
            World.waitUntil(SOON, "the scope holds the person", () -> members().contains(crew.shore()));
            assertThat(explained(crew)).contains("decides: pilot", "title is Harbour pilot");
            told("came", crew, "title is Harbour pilot");
            root.modify(entry, new Modification(ModificationType.REPLACE, "title"));
            World.waitUntil(
                    SOON, "the scope does not hold the person", () -> !members().contains(crew.shore()));
            told("left", crew, "");
        }
    }

    @Test
    void what_is_read_bit_by_bit_is_what_a_fresh_start_reads() throws Exception {
        var titled = world.crew();
        var leaver = world.crew();
        var enrolled = world.crew();
        // A group of its own: nothing that another test did to a group comes in late here.
        var lookouts = "cn=Lookouts,ou=groups,dc=fleet,dc=skerry,dc=test";
        pilot(
                "prove:\n  reset: { any-of: [email-code] }\n  details: { any-of: [email-code] }\n",
                titled,
                leaver,
                enrolled);
        write(
                "policies/pilot.yaml",
                Files.readString(folder.resolve("policies/pilot.yaml"))
                        .replace(
                                "reset: { any-of: [email-code] }",
                                "reset: { methods: 2, any-of: [email-code, recovery-code] }"));
        world.entente("draft", "start", "--name", "more").expect(0);
        world.entente("draft", "load", folder.toString()).expect(0);
        try (var root = world.ldap("fleet")) {
            root.bind("cn=admin,dc=fleet,dc=skerry,dc=test", "Root-Of-The-Fleet-1");
            root.add(
                    "dn: " + lookouts,
                    "objectClass: groupOfNames",
                    "cn: Lookouts",
                    "member: " + World.fleetDn(leaver.fleet()),
                    "member: " + World.fleetDn(titled.fleet()));
            World.waitUntil(
                    SOON,
                    "the group is known",
                    () -> preview("any:\n  - group: " + lookouts + "\n").people() == 2);
            var first = answers(lookouts);
            root.modify(
                    World.fleetDn(titled.fleet()),
                    new Modification(ModificationType.REPLACE, "title", "Harbour pilot"));
            root.modify(lookouts, new Modification(ModificationType.DELETE, "member", World.fleetDn(leaver.fleet())));
            root.add(
                    "dn: " + World.fleetDn("fresh"),
                    "objectClass: inetOrgPerson",
                    "uid: fresh",
                    "cn: fresh",
                    "sn: fresh",
                    "displayName: Somebody Fresh",
                    "employeeNumber: 70501",
                    "title: Harbour pilot");
            var person = new ApiPerson(world).wants("details").prove(enrolled.shore(), enrolled.address());
            assertThat(person.setUp("recovery-code", null).complete()).isTrue();
            seen(lookouts, 0, "the new title, and who is new", now -> now.startsWith("2 people"));
            seen(lookouts, 1, "who left the group", now -> now.startsWith("1 people"));
            seen(lookouts, 4, "the new method", now -> !now.equals(first.get(4)));
            var bit = answers(lookouts);
            world.kill("service");
            world.startService();
            assertThat(answers(lookouts)).isEqualTo(bit);

            root.delete(World.fleetDn("fresh"));
            seen(lookouts, 0, "who is gone", now -> now.startsWith("1 people"));
            root.modify(lookouts, new Modification(ModificationType.ADD, "member", World.fleetDn(leaver.fleet())));
            root.modify(World.fleetDn(titled.fleet()), new Modification(ModificationType.REPLACE, "title"));
            for (var which : List.of(0, 1, 2)) {
                seen(lookouts, which, "what was before", now -> now.equals(first.get(which)));
            }
            root.delete(lookouts);
        }
    }

    private void seen(String group, int which, String what, Predicate<String> by) {
        World.waitUntil(SOON, what + " is seen", () -> by.test(answers(group).get(which)));
    }

    /** How many are in scopes of every kind, who they are where they are few, and what a draft would mean for them. */
    private List<String> answers(String group) {
        var answers = new ArrayList<String>();
        for (var text : List.of(
                "any:\n  - where: { title: Harbour pilot }\n",
                "any:\n  - group: " + group + "\n",
                "any:\n  - group: CN=Deck Crew,OU=Groups,DC=skerry,DC=test\n",
                "none: []\n")) {
            var preview = preview(text);
            assertThat(preview.problems()).isEmpty();
            answers.add(preview.people() + " people"
                    + (preview.people() > 3
                            ? ""
                            : ": "
                                    + preview.sample().stream()
                                            .map(PeopleApi.PersonRow::name)
                                            .sorted()
                                            .toList()));
        }
        answers.add(world.entente("--output", "json", "draft", "rehearse").out());
        return answers;
    }

    private PolicyApi.ScopePreview preview(String text) {
        return ApiPerson.JSON.readValue(
                api.post(
                                "/scopes/preview",
                                ApiPerson.JSON.writeValueAsString(
                                        new PolicyApi.ScopeText("x", "scope: x\n" + text, Map.of())))
                        .body(),
                PolicyApi.ScopePreview.class);
    }

    private String members() {
        return world.entente("scope", "members", "pilot").expect(0).out();
    }

    private void told(String what, Crew crew, String why) {
        World.waitUntil(
                SOON,
                "it is told that the person " + what,
                () -> world.entente("scope", "changes", "pilot")
                        .out()
                        .lines()
                        .anyMatch(l -> l.contains(what) && l.contains(name(crew)) && l.contains(why)));
    }
}
