package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import java.io.IOException;
import org.junit.jupiter.api.Test;

/** Who came to a scope and who left it, and why. */
class ScopeHistoryTest extends PublishingTest {
    @Test
    void who_came_to_a_scope_and_who_left_it_is_told_with_the_reason() throws IOException {
        var one = Crew.next();
        var other = Crew.next();
        pilot("", one);
        World.waitUntil(
                SOON,
                "the new scope is known",
                () -> world.query("SELECT count(*) FROM scope_state WHERE scope = 'pilot'")
                        .equals("1"));
        write("scopes/pilot.yaml", "scope: pilot\nany:\n  - people: [" + other.shore() + "]\n");
        publish();
        World.waitUntil(
                SOON,
                "both changes are told",
                () -> world.query("SELECT count(*) FROM scope_change WHERE scope = 'pilot'")
                        .equals("2"));
        var revision = revision();
        var said = world.entente("scope", "changes", "pilot").expect(0).out();
        assertThat(said)
                .containsPattern(
                        "came +" + name(other) + " +" + revision + " +revision " + revision + " made it people")
                .containsPattern("left +" + name(one) + " +" + revision + " ");
        assertThat(world.entente("scope", "changes", "nowhere").expect(1).err())
                .contains("There is no published scope");
    }

    @Test
    void membership_follows_the_directory_within_seconds() throws IOException, LDAPException {
        var crew = Crew.next();
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
        try (var root = World.ldap("fleet")) {
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
