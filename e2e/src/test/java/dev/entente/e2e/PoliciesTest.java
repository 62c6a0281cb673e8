package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.verify.appcode.AppCode;
import dev.entente.wire.DraftApi;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.nio.file.Files;
import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.Test;

/** What policies say, in force: methods, conditions, limits, terms; and what is known before they are. */
class PoliciesTest extends PublishingTest {
    private void load(String name) {
        world.entente("draft", "start", "--name", name).expect(0);
        world.entente("draft", "load", folder.toString()).expect(0);
    }

    /** The code of an app in the step after the last one that was taken. */
    private static String code(AppCode app, long stepsAhead) {
        return app.at(Instant.now().getEpochSecond() / 30 + stepsAhead);
    }

    /** What an unknown browser is asked for: the code that shows now and the one that comes next. */
    private static String twice(AppCode app) {
        return code(app, 0) + " " + code(app, 1);
    }

    private record Prepared(AppCode app, List<String> codes) {}

    /** Sets up an app and recovery codes, after a proof by mail. */
    private Prepared prepared(Crew crew) {
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        assertThat(person.attempt.state()).isEqualTo("proved");
        assertThat(person.call("GET", "/attempt/sealing", null).status())
                .as("nothing is written here")
                .isEqualTo(409);
        var offered = person.setUp("app-code", "My phone");
        assertThat(offered.complete()).isFalse();
        var secret = offered.parts().get("secret");
        assertThat(offered.parts().get("uri")).startsWith("otpauth://totp/").contains(secret);
        var app = AppCode.parse(secret);
        var confirmation = "/attempt/enrolments/" + offered.id() + "/confirmation";
        assertThat(person.call("POST", confirmation, PortalApi.Answer.typed("000 00"))
                        .status())
                .isEqualTo(422);
        // The step before now, so that the next ones are left for the proofs.
        assertThat(person.call("POST", confirmation, PortalApi.Answer.typed(code(app, -1)))
                        .body())
                .contains("My phone");
        var codes = person.setUp("recovery-code", null).lines();
        assertThat(codes).hasSize(10);
        assertThat(person.call("POST", "/attempt/end", null)
                        .as(PortalApi.Attempt.class)
                        .state())
                .isEqualTo("completed");
        return new Prepared(app, codes);
    }

    @Test
    void two_methods_are_asked_for_each_code_counts_once_and_the_person_is_told_of_new_methods() throws IOException {
        var crew = world.crew();
        pilot(
                "prove:\n  reset: { methods: 2, any-of: [email-code, app-code, recovery-code] }\n"
                        + "  details: { any-of: [email-code] }\ntell: { person: [reset] }\n",
                crew);
        assertThat(world.entente("explain", crew.shore()).expect(1).out())
                .contains("2 of email code, app code and recovery code", "only email code", "app-code: not enrolled");
        var ready = prepared(crew);
        // The policy says nothing of it, and they are told all the same.
        Installation.waitUntil(
                SOON,
                "the person is told",
                () -> world.mailbox.to(crew.address()).stream()
                                .filter(m -> m.text().contains("newly set up: recovery code.")
                                        || m.text().contains("newly set up: app code “My phone”"))
                                .count()
                        == 2);
        assertThat(explained(crew)).contains("app-code - enrolled and usable", "recovery-code - enrolled and usable");
        var methods = world.entente("person", "methods", crew.shore()).expect(0).out();
        assertThat(methods)
                .contains("My phone", "Recovery codes", "10")
                .doesNotContain(ready.codes().get(0));

        var person = new ApiPerson(world);
        person.attempt = person.start(crew.shore()).as(PortalApi.Attempt.class);
        assertThat(person.attempt.methods()).containsExactly("email-code", "app-code", "recovery-code");
        assertThat(person.proveBy("app-code", "123456").status()).isEqualTo(422);
        var used = twice(ready.app());
        assertThat(person.proveBy("app-code", used).status()).isEqualTo(200);
        assertThat(person.attempt.state()).isEqualTo("proving");
        assertThat(person.attempt.proved()).containsExactly("app-code");
        assertThat(person.attempt.methods()).containsExactly("email-code", "recovery-code");
        assertThat(person.call("GET", "/attempt/sealing", null).status()).isEqualTo(409);
        assertThat(person.ask("app-code").status()).as("the same method again").isEqualTo(422);
        assertThat(person.proveBy("recovery-code", ready.codes().get(3).toUpperCase(java.util.Locale.ROOT))
                        .status())
                .isEqualTo(200);
        assertThat(person.attempt.state()).isEqualTo("proved");
        person.choose("Second-Proof-31").waitForOutcome(SOON);
        assertThat(person.attempt.state()).isEqualTo("completed");

        var again = new ApiPerson(world);
        again.start(crew.shore()).as(PortalApi.Attempt.class);
        assertThat(again.proveBy("app-code", used).status())
                .as("a code of an app, taken before")
                .isEqualTo(422);
        assertThat(again.proveBy("recovery-code", ready.codes().get(3)).status())
                .as("used up")
                .isEqualTo(422);
        assertThat(again.proveBy("recovery-code", ready.codes().get(4)).status())
                .isEqualTo(200);
        assertThat(world.entente("person", "methods", crew.shore()).out()).containsPattern("Recovery codes .* 8 ");

        var id = ApiPerson.JSON
                .readTree(world.entente("--output", "json", "person", "methods", crew.shore())
                        .expect(0)
                        .out())
                .valueStream()
                .filter(m -> m.path("method").asString().equals("app-code"))
                .findFirst()
                .orElseThrow()
                .path("id")
                .asString();
        world.entente("person", "remove-method", crew.shore(), id).expect(0);
        assertThat(explained(crew)).contains("app-code - not enrolled");
        world.onRecord("method.removed");
        Installation.waitUntil(
                SOON,
                "the person is told of the removal",
                () -> world.mailbox.to(crew.address()).stream()
                        .anyMatch(m -> m.text().contains("My phone") && m.text().contains("removed")));
    }

    @Test
    void a_lost_answer_is_given_again_and_what_was_proved_stays_proved() throws IOException {
        var crew = world.crew();
        pilot(
                "prove:\n  reset: { methods: 2, any-of: [email-code, recovery-code] }\n"
                        + "  details: { any-of: [email-code] }\n",
                crew);
        var codes = prepared(crew).codes();
        var person = new ApiPerson(world);
        person.start(crew.shore()).as(PortalApi.Attempt.class);
        person.attempt = person.ask("recovery-code").as(PortalApi.Attempt.class);
        var asked = person.attempt;
        var cookie = person.cookie;
        assertThat(person.answer(codes.get(0)).status()).isEqualTo(200);
        // The answer got lost: the browser still has the old cookie, and the code is used up.
        person.cookie = cookie;
        person.attempt = asked;
        person.attempt = person.answer(codes.get(0)).as(PortalApi.Attempt.class);
        assertThat(person.attempt.proved()).containsExactly("recovery-code");
        person.attempt = person.ask("email-code").as(PortalApi.Attempt.class);
        person.attempt = person.answer(world.mailbox.codeOf(person.attempt.reference(), crew.address()))
                .as(PortalApi.Attempt.class);
        assertThat(person.attempt.state()).isEqualTo("proved");
    }

    @Test
    void after_an_unlock_a_new_password_asks_for_what_a_reset_asks_for() throws IOException {
        var crew = world.crew();
        pilot(
                "prove:\n  unlock: { any-of: [email-code] }\n  details: { any-of: [email-code] }\n"
                        + "  reset: { methods: 2, any-of: [email-code, recovery-code] }\n",
                crew);
        var codes = prepared(crew).codes();
        var person = new ApiPerson(world).wants("unlock").prove(crew.shore(), crew.address());
        assertThat(person.attempt.state()).isEqualTo("proved");
        person.unlock().waitForOutcome(SOON);
        person.attempt = person.goOn().as(PortalApi.Attempt.class);
        assertThat(person.attempt.state()).isEqualTo("proving");
        assertThat(person.attempt.methods()).containsExactly("recovery-code");
        assertThat(person.call("GET", "/attempt/sealing", null).status()).isEqualTo(409);
        assertThat(person.proveBy("recovery-code", codes.get(0)).status()).isEqualTo(200);
        assertThat(person.choose("After-Unlock-22").waitForOutcome(SOON).state())
                .isEqualTo("completed");
    }

    @Test
    void two_factors_are_rehearsed_explained_and_asked_for() throws IOException {
        var ready = world.crew();
        var lacking = world.crew();
        pilot("prove:\n  reset: { any-of: [email-code] }\n  details: { any-of: [email-code] }\n", ready, lacking);
        var prepared = prepared(ready);

        var policy = Files.readString(folder.resolve("policies/pilot.yaml"));
        write(
                "policies/pilot.yaml",
                policy.replace(
                        "reset: { any-of: [email-code] }",
                        "reset: { methods: 2, factors: 2, any-of: [email-code, app-code, recovery-code] }"));
        world.entente("draft", "start", "--name", "two factors").expect(0);
        var refused = world.entente("draft", "load", folder.toString()).expect(1);
        assertThat(refused.out() + refused.err())
                .as("methods of one factor cannot show two")
                .contains("show only possession", "factor in methods.yaml");
        write("methods.yaml", "email-code: { factor: knowledge }\n");
        world.entente("draft", "load", folder.toString()).expect(0);
        assertThat(world.entente("draft", "compare").out())
                .contains("email-code counts as knowledge instead of possession");
        var lose = ApiPerson.JSON.readValue(
                world.entente("--output", "json", "draft", "rehearse", "--show", "loses-way")
                        .expect(0)
                        .out(),
                DraftApi.RehearsedPerson[].class);
        assertThat(lose).extracting(DraftApi.RehearsedPerson::name).containsExactly(name(lacking));
        publish();

        assertThat(explained(ready)).contains("with 2 different factors");
        assertThat(world.entente("explain", lacking.shore()).expect(1).out()).contains("app-code: not enrolled");
        var person = new ApiPerson(world);
        person.start(ready.shore()).as(PortalApi.Attempt.class);
        assertThat(person.proveBy("app-code", twice(prepared.app())).status()).isEqualTo(200);
        assertThat(person.attempt.methods())
                .as("a second method of the same factor would not help")
                .containsExactly("email-code");
        assertThat(person.ask("recovery-code").status()).isEqualTo(422);
        person.attempt = person.ask("email-code").as(PortalApi.Attempt.class);
        person.attempt = person.answer(world.mailbox.codeOf(person.attempt.reference(), ready.address()))
                .as(PortalApi.Attempt.class);
        assertThat(person.attempt.state()).isEqualTo("proved");

        // As an attempt stands in the database that was begun before this could be said.
        world.query("UPDATE attempt SET required = required - 'counts' WHERE reference = '"
                + person.attempt.reference().replaceAll("[^0-9]", "") + "'");
        assertThat(person.look().state()).isEqualTo("proved");
    }

    @Test
    void a_network_an_unknown_device_and_terms() throws IOException {
        var here = world.crew();
        var there = world.crew();
        write(
                "networks/this-machine.yaml",
                "network: this-machine\ntitle: this machine\nranges: [127.0.0.0/8, '::1/128']\n");
        write("terms/house-rules.yaml", "terms: house-rules\ntexts:\n  en: Keep it to yourself.\n");
        pilot(
                "refuse:\n  - { actions: [unlock], when: inside this-machine }\nterms: house-rules\n"
                        + "prove:\n  reset: { any-of: [email-code, app-code] }\n  stricter:\n"
                        + "    - { when: outside this-machine, actions: [reset], methods: 2 }\n",
                here,
                there);
        assertThat(world.entente("explain", here.shore(), "--network", "127.0.0.1")
                        .expect(0)
                        .out())
                .contains("verify with ");
        assertThat(world.entente("explain", here.shore(), "--network", "203.0.113.7")
                        .expect(1)
                        .out())
                .contains("stricter  from outside this machine: 2 methods");
        assertThat(world.entente("explain", here.shore()).expect(0).out())
                .as("nobody says from where: what differs is told for each place")
                .contains("from inside this machine", "from outside this machine");
        assertThat(world.entente("explain", here.shore(), "--action", "unlock", "--network", "127.0.0.1")
                        .expect(1)
                        .out())
                .contains("The policy pilot refuses unlock from inside this machine.");
        assertThat(world.entente("explain", here.shore(), "--network", "somewhere")
                        .expect(1)
                        .err())
                .contains("isn't a network address");

        var refused = new ApiPerson(world).wants("unlock");
        refused.start(here.shore()).as(PortalApi.Attempt.class);
        refused.attempt = refused.ask().as(PortalApi.Attempt.class);
        assertThat(refused.answer("12345678").status()).isEqualTo(422);
        assertThat(world.entente("attempt", "show", refused.attempt.reference())
                        .expect(0)
                        .out())
                .contains("refused");

        var person = new ApiPerson(world).prove(here.shore(), here.address());
        assertThat(person.attempt.state()).isEqualTo("proved");
        assertThat(person.attempt.terms().text()).isEqualTo("Keep it to yourself.");
        assertThat(person.call("GET", "/attempt/sealing", null).status())
                .as("not before they are accepted")
                .isEqualTo(409);
        assertThat(person.call("POST", "/attempt/terms", new PortalApi.Acceptance("other"))
                        .status())
                .isEqualTo(422);
        person.attempt = person.call("POST", "/attempt/terms", new PortalApi.Acceptance("house-rules"))
                .as(PortalApi.Attempt.class);
        assertThat(person.attempt.terms()).isNull();
        assertThat(person.choose("House-Rules-17").waitForOutcome(SOON).state()).isEqualTo("completed");
    }

    @Test
    void a_known_device_is_asked_for_less_and_waits_and_tries_are_limited_without_a_word() throws IOException {
        var crew = world.crew();
        var other = world.crew();
        pilot(
                "prove:\n  reset: { any-of: [email-code, app-code] }\n  stricter:\n"
                        + "    - { when: unknown-device, actions: [reset], methods: 2 }\n  unlock: { any-of: [email-code] }\n"
                        + "  details: { any-of: [email-code] }\n"
                        + "limit: { resets: 9 per 24h, tries: 6 per 24h }\n",
                crew,
                other);
        var app = prepared(crew).app();
        prepared(other);
        var first = new ApiPerson(world).wants("unlock").prove(crew.shore(), crew.address());
        first.unlock().waitForOutcome(SOON);
        first.attempt = first.goOn().as(PortalApi.Attempt.class);
        assertThat(first.attempt.state()).as("an unlock makes no device known").isEqualTo("proving");
        assertThat(first.proveBy("app-code", twice(app)).status()).isEqualTo(200);
        assertThat(first.choose("Known-Device-11").waitForOutcome(SOON).state()).isEqualTo("completed");
        var second = new ApiPerson(world);
        second.device = first.device;
        second.prove(crew.shore(), crew.address());
        assertThat(second.attempt.state()).as("one on a known device").isEqualTo("proved");
        var others = new ApiPerson(world);
        others.device = first.device;
        others.prove(other.shore(), other.address());
        assertThat(others.attempt.state())
                .as("known for one person, not for another")
                .isEqualTo("proving");

        var guessing = new ApiPerson(world).wants("unlock");
        for (var round = 0; round < 2; round++) {
            guessing.attempt = guessing.start(other.shore()).as(PortalApi.Attempt.class);
            guessing.attempt = guessing.ask().as(PortalApi.Attempt.class);
            for (var guess = 0; guess < 3; guess++) {
                assertThat(guessing.answer("0000000" + guess).status()).isEqualTo(422);
            }
        }
        var late = new ApiPerson(world).wants("unlock");
        late.start(other.shore()).as(PortalApi.Attempt.class);
        late.attempt = late.ask().as(PortalApi.Attempt.class);
        var longer = world.mailbox.codeOf(late.attempt.reference(), other.address());
        assertThat(longer.replace("-", ""))
                .as("what is sent gets longer instead of being refused")
                .hasSize(16);
        assertThat(late.answer(longer).status()).isEqualTo(200);
    }

    @Test
    void a_pause_between_resets() throws IOException {
        var crew = world.crew();
        pilot("prove:\n  reset: { any-of: [email-code] }\nlimit: { wait: 30m }\n", crew);
        new ApiPerson(world)
                .prove(crew.shore(), crew.address())
                .choose("First-Of-Two-1")
                .waitForOutcome(SOON);
        var second = new ApiPerson(world);
        second.start(crew.shore()).as(PortalApi.Attempt.class);
        second.attempt = second.ask().as(PortalApi.Attempt.class);
        assertThat(world.entente("attempt", "show", second.attempt.reference())
                        .expect(0)
                        .out())
                .contains("reset-wait");
        var unlock = new ApiPerson(world).wants("unlock").prove(crew.shore(), crew.address());
        assertThat(unlock.attempt.state()).as("an unlock does not wait").isEqualTo("proved");
    }

    @Test
    void a_rehearsal_counts_who_would_be_locked_out_and_publishing_asks_for_the_number() throws IOException {
        Files.writeString(
                folder.resolve("policies/deck-crew.yaml"),
                Files.readString(folder.resolve("policies/deck-crew.yaml"))
                        .replace("methods: 1, any-of: [email-code]", "methods: 2, any-of: [email-code, app-code]"));
        load("stricter");
        var rehearsed = world.entente("draft", "rehearse").expect(1).out();
        assertThat(rehearsed)
                .containsPattern("\\d+ would have to verify with more")
                .contains("Deck crew");
        var rehearsal = ApiPerson.JSON.readValue(
                world.entente("--output", "json", "draft", "rehearse").expect(1).out(), DraftApi.Rehearsal.class);
        assertThat(rehearsal.counts().get(0).kind()).as("what locks people out").isEqualTo("lacks-methods");
        var loses = rehearsal.counts().get(1);
        assertThat(loses.kind()).isEqualTo("loses-way");
        assertThat(loses.people()).isGreaterThan(10);
        var people = ApiPerson.JSON.readValue(
                world.entente("--output", "json", "draft", "rehearse", "--show", "loses-way")
                        .expect(0)
                        .out(),
                DraftApi.RehearsedPerson[].class);
        assertThat(people).hasSize(loses.people()).allSatisfy(p -> {
            assertThat(p.before()).isEqualTo("deck-crew");
            assertThat(p.after()).isEqualTo("deck-crew: methods missing");
        });
        var privileged = ApiPerson.JSON.readValue(
                world.entente("--output", "json", "draft", "rehearse", "--show", "loses-way", "--part", "privileged")
                        .expect(0)
                        .out(),
                DraftApi.RehearsedPerson[].class);
        assertThat(rehearsal.privilege().get(0).losesWay()).isEqualTo(privileged.length);
        assertThat(world.entente("draft", "rehearse", "--show", "loses-way", "--part", "ship")
                        .expect(1)
                        .err())
                .contains("The part must be");
        assertThat(world.entente("draft", "rehearse", "--show", "everything")
                        .expect(1)
                        .err())
                .contains("loses-way");
        new ApiPerson(world).start("astrid.nordvik").as(PortalApi.Attempt.class);
        assertThat(world.entente("draft", "rehearse", "--attempts", "1")
                        .expect(0)
                        .out())
                .contains("Astrid Nordvik", "could go on", "could not");

        var refused = world.entente("draft", "publish", "--note", "too early").expect(1);
        assertThat(refused.err())
                .contains(loses.people() + " people can reset their password now and couldn't any more");
        assertThat(world.entente("draft", "publish", "--loses-way", "1")
                        .expect(1)
                        .err())
                .contains("Rehearse the change");
        assertThat(revision()).isEqualTo(before);
        world.entente("draft", "publish", "--loses-way", String.valueOf(loses.people()))
                .expect(0);
        assertThat(explained("astrid.nordvik")).contains("not possible", "only email code");
    }

    @Test
    void two_drafts_are_merged_and_what_collides_is_named() throws IOException {
        load("first");
        var first = draft("first");
        world.entente("draft", "start", "--name", "second").expect(0);
        var second = draft("second");
        write("scopes/mine.yaml", "scope: mine\nany:\n  - people: [astrid.nordvik]\n");
        write("defaults.yaml", Files.readString(folder.resolve("defaults.yaml")).replace("5 per", "6 per"));
        world.entente("draft", "load", "--draft", first, folder.toString()).expect(0);
        agreeing("/drafts/" + first + "/publish");
        Files.delete(folder.resolve("scopes/mine.yaml"));
        write("scopes/yours.yaml", "scope: yours\nany:\n  - people: [liam.ohara]\n");
        write("defaults.yaml", Files.readString(folder.resolve("defaults.yaml")).replace("6 per", "7 per"));
        world.entente("draft", "load", "--draft", second, folder.toString()).expect(0);
        assertThat(world.entente("draft", "publish", "--draft", second)
                        .expect(1)
                        .err())
                .contains("Merge it");
        var merged = world.entente("draft", "merge", "--draft", second).expect(1);
        assertThat(merged.err()).contains("defaults.yaml: changed both here and since then");
        assertThat(merged.out()).contains("1 files were taken", "1 collide");
        agreeing("/drafts/" + second + "/publish");
        assertThat(world.entente("scope", "list").expect(0).out()).contains("mine", "yours");
        assertThat(world.entente("policy", "show", "deck-crew").expect(0).out()).contains("7 per 24h");
    }

    @Test
    void what_weakens_needs_a_second_person_and_only_as_it_was_approved() throws IOException {
        var second = profile("brita");
        world.entente("draft", "approval", "weakening").expect(0);
        try {
            write(
                    "defaults.yaml",
                    Files.readString(folder.resolve("defaults.yaml")).replace("5 per", "2 per"));
            load("stricter");
            assertThat(world.entente("draft", "submit").expect(0).out()).contains("It needs no approval.");
            agreeing("/drafts/" + draft("stricter") + "/publish");
            write(
                    "defaults.yaml",
                    Files.readString(folder.resolve("defaults.yaml")).replace("2 per", "9 per"));
            load("weaker");
            assertThat(world.entente("draft", "publish").expect(1).err())
                    .contains("Another administrator has to approve");
            assertThat(world.entente("draft", "approve").expect(1).err()).contains("Nothing is approved yet.");
            assertThat(approve("default").expect(1).err()).contains("hasn't been submitted yet");
            assertThat(world.entente("draft", "submit").expect(0).out())
                    .contains("WEAKER  Policy deck-crew lets people reset more often.", "has to approve it.");
            assertThat(approve("default").expect(1).err()).contains("another administrator has to approve");
            assertThat(world.entente("revision", "restore", String.valueOf(before))
                            .expect(1)
                            .err())
                    .contains("another administrator has to approve that");
            assertThat(approve(second).expect(0).out()).contains("approved by brita");
            world.entente("draft", "load", folder.toString()).expect(0);
            assertThat(world.entente("draft", "publish").expect(1).err())
                    .contains("was changed after brita approved it");
            assertThat(approve(second).expect(1).err())
                    .as("a change takes the submission back")
                    .contains("hasn't been submitted yet");
            world.entente("draft", "submit").expect(0);
            // Reviewed, and then changed by another author: the approval covers what was reviewed, or fails.
            var looked = digest();
            var third = profile("cairn");
            world.entente("--profile", third, "draft", "load", folder.toString())
                    .expect(0);
            world.entente("draft", "submit").expect(0);
            write(
                    "defaults.yaml",
                    Files.readString(folder.resolve("defaults.yaml")).replace("9 per", "8 per"));
            world.entente("draft", "load", folder.toString()).expect(0);
            world.entente("draft", "submit").expect(0);
            assertThat(world.entente("--profile", second, "draft", "approve", "--digest", looked)
                            .expect(1)
                            .err())
                    .contains("that isn't the digest of the draft");
            assertThat(api.post("/drafts/" + draft("weaker") + "/approval", "{\"digest\":\"" + looked + "\"}")
                            .statusCode())
                    .isEqualTo(409);
            assertThat(approve(third).expect(1).err()).as("an author").contains("another administrator has to approve");
            approve(second).expect(0);
            world.entente("draft", "publish", "--note", "more resets").expect(0);
            assertThat(
                            ApiPerson.JSON.readValue(api.get("/revisions").body(), DraftApi.Revision[].class)[0]
                                    .approvedBy())
                    .isEqualTo("brita");
            world.onRecord("brita approved the draft weaker.");
        } finally {
            world.withoutApproval();
        }
    }

    private String digest() {
        return world.entente("--output", "json", "draft", "approve")
                .out()
                .replaceAll("(?s).*\"digest\" : \"(\\w+)\".*", "$1");
    }

    /** What is there now, as who looks at it does. */
    private Installation.Ran approve(String profile) {
        return world.entente("--profile", profile, "draft", "approve", "--digest", digest().substring(0, 8));
    }

    /** Another administrator, signed in. */
    private String profile(String login) {
        world.ententeWith("another-quay-lantern", "administrator", "add", login).code();
        world.ententeWith("another-quay-lantern", "--profile", login, "sign-in", "--login", login)
                .expect(0);
        assertThat(world.entente("administrator", "list").expect(0).out()).contains("ingeborg", login);
        return login;
    }

    @Test
    void a_publication_happens_and_ends_by_itself() throws IOException {
        write("defaults.yaml", Files.readString(folder.resolve("defaults.yaml")).replace("5 per", "4 per"));
        load("for a while");
        var begins = Instant.now().plusSeconds(3);
        world.entente(
                        "draft",
                        "publish",
                        "--note",
                        "for a while",
                        "--at",
                        begins.toString(),
                        "--until",
                        begins.plusSeconds(6).toString())
                .expect(0);
        assertThat(world.entente("draft", "planned").expect(0).out()).contains("The draft for a while is published.");
        assertThat(revision()).isEqualTo(before);
        Installation.waitUntil(SOON, "it is published", () -> revision() == before + 1);
        assertThat(world.entente("draft", "planned").expect(0).out())
                .contains(
                        "Revision " + (before + 1) + " ends, and what revision " + before + " held is in force again");
        Installation.waitUntil(SOON, "it has ended", () -> revision() == before + 2);
        assertThat(ApiPerson.JSON
                        .readValue(api.get("/revisions/" + (before + 2)).body(), DraftApi.Revision.class)
                        .files())
                .isEqualTo(ApiPerson.JSON
                        .readValue(api.get("/revisions/" + before).body(), DraftApi.Revision.class)
                        .files());

        load("too late");
        assertThat(world.entente("draft", "publish", "--at", "2020-01-01T00:00:00Z")
                        .expect(1)
                        .err())
                .contains("already passed");
        world.entente(
                        "draft",
                        "publish",
                        "--at",
                        Instant.now().plusSeconds(3600).toString())
                .expect(0);
        var planned = ApiPerson.JSON.readValue(api.get("/planned-changes").body(), DraftApi.Planned[].class);
        assertThat(planned).hasSize(1);
        world.entente("draft", "cancel", planned[0].id().toString()).expect(0);
        assertThat(world.entente("draft", "planned").expect(0).err()).contains("Nothing is planned.");
        world.onRecord("ingeborg planned a publication for", "ingeborg cancelled a planned publication.");
    }

    private String draft(String name) {
        return drafts().stream()
                .filter(d -> d.name().equals(name))
                .findFirst()
                .orElseThrow()
                .id()
                .toString();
    }

    @Test
    void a_code_that_was_answered_rightly_takes_nothing_of_the_policy_s_tries() throws IOException {
        var crew = world.crew();
        pilot("prove:\n  reset: { any-of: [email-code] }\nlimit: { tries: 6 per 24h }\n", crew);
        var device = "";
        // In a browser that is known after the first time, where no other limit of a day counts.
        for (var i = 0; i < 4; i++) {
            var before = world.mailbox.to(crew.address()).size();
            var person = new ApiPerson(world);
            person.device = device;
            person.start(crew.shore());
            person.attempt = person.ask().as(PortalApi.Attempt.class);
            var code = world.mailbox.nextCode(crew.address(), before);
            assertThat(code.replaceAll("\\s", "")).as("the %d. code", i + 1).matches("[0-9]{8}");
            assertThat(person.answer(code).status()).isEqualTo(200);
            device = person.device;
        }
    }
}
