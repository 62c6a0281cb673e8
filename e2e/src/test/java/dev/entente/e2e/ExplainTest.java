package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.bench.Mailbox;
import dev.entente.core.verify.appcode.AppCode;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Test;

/** Whatever stands in the way: explain is asked, and then somebody really tries. Both say the same, before and after. */
class ExplainTest extends PublishingWithDirectoriesTest {
    private static final Duration SHORTLY = Duration.ofSeconds(2);
    private static final AtomicInteger PASSWORDS = new AtomicInteger(100);

    /**
     * Whether somebody with their mailbox at hand gets a new password, whatever stops them.
     *
     * @param patience how long to wait for the code and for the outcome: what explain says is impossible is waited for a shorter time
     */
    private boolean succeeds(Crew crew, Duration patience) {
        var person = new ApiPerson(world);
        var before = world.mailbox.to(crew.address()).size();
        if (person.start(crew.shore()).status() != 201) {
            return false;
        }
        var asked = person.ask();
        if (asked.status() / 100 != 2) {
            return false;
        }
        person.attempt = asked.as(PortalApi.Attempt.class);
        if (!within(
                patience,
                () -> world.mailbox.to(crew.address()).stream()
                        .limit(Math.max(0, world.mailbox.to(crew.address()).size() - before))
                        .anyMatch(mail -> Mailbox.code(mail).isPresent()))) {
            return false;
        }
        var answered = person.answer(world.mailbox.codeOf(person.attempt.reference(), crew.address()));
        if (answered.status() != 200
                || person.call("GET", "/attempt/sealing", null).status() != 200) {
            return false;
        }
        person.choose("Explain-Quay-" + PASSWORDS.incrementAndGet());
        return within(patience, () -> !person.look().state().equals("delivering"))
                && person.attempt.state().equals("completed");
    }

    private static boolean within(Duration patience, java.util.function.BooleanSupplier condition) {
        try {
            World.waitUntil(patience, "something that may never be", condition);
            return true;
        } catch (AssertionError e) {
            return false;
        }
    }

    private void assertBoth(Crew crew, boolean possible, String says) {
        var ran = world.entente("explain", crew.shore());
        assertThat(ran.code()).as(ran.out() + ran.err()).isEqualTo(possible ? 0 : 1);
        assertThat(ran.out()).contains(says);
        assertThat(succeeds(crew, possible ? SOON : SHORTLY))
                .as("what really happens: " + ran.out())
                .isEqualTo(possible);
    }

    /** Something comes in the way of somebody who can, and goes again. */
    private void comesAndGoes(Runnable comes, String says, Runnable goes) {
        var crew = world.crew();
        world.entente("explain", crew.shore()).expect(0);
        comes.run();
        try {
            assertBoth(crew, false, says);
        } finally {
            goes.run();
        }
        assertBoth(crew, true, "can reset now");
    }

    private void command(String... line) {
        world.entente(line).expect(0);
    }

    @Test
    void stops_and_suspensions() {
        for (var what :
                List.of("everything", "action:reset", "method:email-code", "policy:deck-crew", "directory:fleet")) {
            comesAndGoes(
                    () -> command("stop", what, "--reason", "explain-or-try"),
                    what.startsWith("directory") ? "fleet is stopped" : "explain-or-try",
                    () -> command("resume", what));
        }
        comesAndGoes(
                () -> command("directory", "suspend", "shore"), "shore", () -> command("directory", "resume", "shore"));
    }

    @Test
    void a_channel_that_does_not_work_and_a_steward_that_is_away() {
        comesAndGoes(
                () -> {
                    world.kill("standins");
                    world.entente("mail", "test", "somebody@skerry.test").expect(1);
                },
                "email-code",
                () -> {
                    world.startStandins();
                    World.waitUntil(
                            Duration.ofSeconds(30),
                            "mail works again",
                            () -> world.entente("mail", "test", "somebody@skerry.test")
                                            .code()
                                    == 0);
                });
        comesAndGoes(
                () -> {
                    world.kill("steward-fleet");
                    World.waitUntil(
                            Duration.ofSeconds(60),
                            "the steward is missed",
                            () -> world.entente("status").out().contains("No steward of fleet is connected"));
                },
                "No steward of fleet",
                () -> {
                    world.startSteward("fleet");
                    World.waitUntil(
                            Duration.ofSeconds(60),
                            "the steward is back",
                            () -> !world.entente("status").out().contains("No steward of fleet"));
                });
    }

    @Test
    void people_for_whom_it_is_not() {
        for (var login : List.of("dagny.holm", "calum.wick", "oda.leask", "hedda.berg")) {
            world.entente("explain", login).expect(1);
            assertThat(succeeds(new Crew(login, "", login + "@mail.skerry.test", ""), SHORTLY))
                    .as(login)
                    .isFalse();
        }
    }

    @Test
    void limits_of_a_policy_and_methods_that_are_missing() throws IOException {
        var once = world.crew();
        pilot("prove:\n  reset: { any-of: [email-code] }\nlimit: { resets: 1 per 24h }\n", once);
        assertBoth(once, true, "can reset now");
        assertBoth(once, false, "permits");
        back();
        var lacking = world.crew();
        pilot(
                "prove:\n  reset: { methods: 2, any-of: [email-code, app-code] }\n  details: { any-of: [email-code] }\n",
                lacking);
        assertBoth(lacking, false, "app-code: not enrolled");
    }

    @Test
    void tries_that_strangers_used_up_and_an_administrator_lifts() throws IOException {
        var crew = world.crew();
        // Something that differs with the device, so that explain tells of each.
        pilot(
                "prove:\n  reset: { any-of: [app-code, known-device], must-include: [app-code] }\n"
                        + "  details: { any-of: [email-code] }\n",
                crew);
        var owner = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var app = app(owner);
        // Each code counts once: what is tried last is tried with another one.
        var second = app(owner);
        owner.call("POST", "/attempt/end", null);
        // Fourteen networks with their ten tries a day, of which seventy in a row are let through.
        Installation.atOnce(28, attempt -> {
            var stranger = new ApiPerson(world);
            stranger.network = "198.51.100." + (10 + attempt / 2);
            stranger.start(crew.shore());
            stranger.attempt = stranger.ask("app-code").as(PortalApi.Attempt.class);
            for (var guess = 0; guess < 5; guess++) {
                stranger.answer("000000 00000" + guess);
            }
            return stranger;
        });
        var elsewhere = world.entente("explain", crew.shore(), "--network", "198.51.100.99");
        assertThat(elsewhere.out() + elsewhere.err()).contains("used up", "lift-limits");
        assertThat(elsewhere.code()).isEqualTo(1);
        assertThat(elsewhere.out()).contains("app-code: enrolled, but tries are used up for places this person");
        // Without a network each situation says what is so in it, and no row says usable of what is not.
        assertThat(world.entente("explain", crew.shore()).out())
                .contains("possible    on a known device")
                .contains("impossible  on an unknown device: Tries by app code are used up");
        assertThat(world.entente("explain", "--known-device", crew.shore())
                        .expect(0)
                        .out())
                .contains("app-code: enrolled and usable");
        assertThat(proves(app, crew, "", "198.51.100.99"))
                .as("the right codes, from an unknown place")
                .isFalse();
        assertThat(proves(app, crew, owner.device, "198.51.100.98"))
                .as("the owner's own browser, wherever it is")
                .isTrue();
        command("person", "lift-limits", crew.shore(), "--reason", "it was really the owner");
        world.entente("explain", crew.shore(), "--network", "198.51.100.99").expect(0);
        assertThat(proves(second, crew, "", "198.51.100.97")).isTrue();
        // A change takes the present password as well, whatever is proved.
        assertThat(world.entente("explain", crew.shore(), "--action", "change").out())
                .contains("The mailbox and the current password together are enough");
    }

    private AppCode app(ApiPerson owner) {
        var offered = owner.setUp("app-code", "Phone");
        var app = AppCode.parse(offered.parts().get("secret"));
        var step = Instant.now().getEpochSecond() / 30;
        owner.call(
                "POST",
                "/attempt/enrolments/" + offered.id() + "/confirmation",
                PortalApi.Answer.typed(app.at(step - 1)));
        return app;
    }

    private boolean proves(AppCode app, Crew crew, String device, String network) {
        var person = new ApiPerson(world);
        person.device = device;
        person.network = network;
        person.start(crew.shore());
        person.attempt = person.ask("app-code").as(PortalApi.Attempt.class);
        // Of two codes the second one counts, which is later than any that was taken before.
        var step = Instant.now().getEpochSecond() / 30;
        return person.answer(device.isEmpty() ? app.at(step) + app.at(step + 1) : app.at(step))
                        .status()
                == 200;
    }
}
