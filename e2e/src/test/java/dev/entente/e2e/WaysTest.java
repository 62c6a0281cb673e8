package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.verify.appcode.AppCode;
import dev.entente.wire.DraftApi;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import org.junit.jupiter.api.Test;

/** The weakest ways in, as administrators read them, and as somebody with just these things walks them. */
class WaysTest extends PublishingTest {
    private static final String OPEN =
            "prove:\n  reset: { methods: 2, any-of: [email-code, app-code] }\n  details: { any-of: [email-code] }\n";
    private static final String CLOSED = "prove:\n  reset: { methods: 2, any-of: [email-code, app-code] }\n"
            + "  details: { methods: 2, any-of: [email-code, app-code] }\n";

    @Test
    void who_reads_the_mail_adds_an_app_and_is_in_as_the_policy_says() throws IOException {
        var crew = world.crew();
        pilot(OPEN, crew);
        assertThat(world.entente("policy", "show", "pilot").expect(0).out())
                .contains("The mailbox alone is enough, by adding an app code first (1 person).")
                .contains("Whoever takes over the service itself");
        assertThat(world.entente("explain", crew.shore()).out())
                .contains("way in      The mailbox alone is enough, by adding an app code first.");

        // Somebody who holds the mailbox and nothing else does just that.
        var stranger = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var app = stranger.setUp("app-code", "Mine");
        var secret = AppCode.parse(app.parts().get("secret"));
        var step = System.currentTimeMillis() / 30_000;
        assertThat(stranger.call(
                                "POST",
                                "/attempt/enrolments/" + app.id() + "/confirmation",
                                PortalApi.Answer.typed(secret.at(step)))
                        .status())
                .isEqualTo(200);
        stranger.call("POST", "/attempt/end", null);
        var again = new ApiPerson(world);
        again.device = stranger.device;
        again.prove(crew.shore(), crew.address());
        assertThat(again.proveBy("app-code", secret.at(step + 1)).status()).isEqualTo(200);
        assertThat(again.attempt.state()).isEqualTo("proved");
    }

    @Test
    void a_draft_that_closes_a_way_says_so_everywhere_before_it_is_published() throws IOException {
        var crew = world.crew();
        pilot(OPEN, crew);
        write(
                "policies/pilot.yaml",
                "policy: pilot\nwho: scope pilot\nallow: [reset, unlock, change, details]\n"
                        + "deliver: { to: [shore, fleet] }\n" + CLOSED);
        world.entente("draft", "start", "--name", "closes").expect(0);
        world.entente("draft", "load", folder.toString()).expect(0);
        assertThat(world.entente("draft", "compare").expect(0).out())
                .contains(
                        "No longer a way in: pilot: The mailbox alone is enough, by adding an app code first (1 person).");
        assertThat(world.entente("draft", "rehearse").out())
                .containsPattern("1 would be harder to impersonate +harder-way-in")
                .containsPattern("0 would be easier to impersonate[^\n]* easier-way-in");
        assertThat(world.entente("draft", "rehearse", "--show", "harder-way-in").out())
                .contains(crew.shore());
        var draft = drafts().get(0);
        assertThat(api.get("/drafts/" + draft.id() + "/policies/pilot/ways-in").body())
                .contains("\"ways\":[]");
        api.post(
                "/drafts/" + draft.id() + "/publish",
                ApiPerson.JSON.writeValueAsString(new DraftApi.Publication("closed", null, 1, null, null)));
        assertThat(api.get("/policies/pilot/ways-in").body()).contains("\"ways\":[]");
        // The mailbox alone does not begin anything any more, neither for a stranger nor for the owner.
        var before = world.mailbox.to(crew.address()).size();
        var explained = world.entente("explain", crew.shore(), "--action", "details");
        assertThat(explained.code()).isEqualTo(1);
        assertThat(explained.out()).contains("(revision", "in the way", "way");
        var stranger = new ApiPerson(world).wants("details");
        stranger.start(crew.shore());
        stranger.attempt = stranger.ask().as(PortalApi.Attempt.class);
        assertThat(stranger.answer("12345678").status()).isEqualTo(422);
        assertThat(world.mailbox.to(crew.address())).hasSize(before);
    }

    @Test
    void one_thing_that_is_enough_for_a_privileged_account_is_told_on_today() throws IOException {
        write("scopes/pilot.yaml", "scope: pilot\nany:\n  - people: [hedda.berg]\n");
        write(
                "policies/pilot.yaml",
                "policy: pilot\nwho: scope pilot\nallow: [reset]\ndeliver: { to: [shore] }\n"
                        + "prove:\n  reset: { any-of: [email-code] }\n");
        write("order.yaml", "order: [pilot, deck-crew]\n");
        publish();
        assertThat(api.get("/today").body())
                .contains("To get into 1 privileged person's accounts, the mailbox alone is enough.");
        assertThat(world.entente("policy", "show", "pilot").expect(0).out())
                .contains("The mailbox alone is enough (1 person, 1 of them with privileged accounts).");
        assertThat(world.entente("policy", "show", "pilot", "--action", "nonsense")
                        .code())
                .isEqualTo(1);
        assertThat(api.get("/policies/nobodys/ways-in").statusCode()).isEqualTo(404);
    }
}
