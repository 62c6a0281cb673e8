package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.WaitForSelectorState;
import dev.entente.wire.PolicyApi;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** The stop switch: at once, for everybody, and never more than a stop. */
class StopTest {
    private static final Duration SOON = Duration.ofSeconds(30);
    private final World world = World.get();

    @AfterEach
    void everythingGoesOn() {
        for (var stop : stops()) {
            if (stop.ended() == null) {
                world.entente("resume", stop.what()).expect(0);
            }
        }
    }

    private List<PolicyApi.Stop> stops() {
        return ApiPerson.JSON
                .readValue(ConsoleApi.signedIn(world).get("/stops").body(), PolicyApi.Stops.class)
                .stops();
    }

    private static String json(String what, String reason, Instant until) {
        return ApiPerson.JSON.writeValueAsString(new PolicyApi.NewStop(what, reason, until));
    }

    private void stop(String what) {
        world.entente("stop", what, "--reason", "a drill").expect(0);
    }

    @Test
    void an_action_is_stopped_for_every_name_alike_and_lifted_again() {
        assertThat(world.entente("stop", "action:reset", "--reason", "a drill", "--for", "2h")
                        .expect(0)
                        .out())
                .containsPattern("action:reset +STOPPED");
        var crew = world.crew();
        for (var name : List.of(crew.shore(), "nobody.at.all")) {
            var answer = new ApiPerson(world).start(name);
            assertThat(answer.status()).as(name).isEqualTo(503);
            assertThat(answer.json().path("type").asString()).isEqualTo("urn:entente:problem:stopped");
            assertThat(Instant.parse(answer.json().path("until").asString()))
                    .isAfter(Instant.now().plusSeconds(7000));
            assertThat(answer.json().path("detail").asString())
                    .contains("help desk")
                    .doesNotContain("drill");
        }
        assertThat(new ApiPerson(world).wants("unlock").start(crew.shore()).status())
                .as("another action goes on")
                .isEqualTo(201);
        assertThat(new ApiPerson(world).call("GET", "/context", null).json().path("paused"))
                .singleElement()
                .satisfies(
                        paused -> assertThat(paused.path("action").asString()).isEqualTo("reset"));
        assertThat(world.entente("status").expect(1).out()).contains("Stopped: action:reset, because a drill");
        assertThat(world.entente("explain", crew.shore()).out())
                .contains("An administrator has stopped action:reset: a drill.", "entente resume action:reset");
        assertThat(world.entente("stops").expect(1).out()).contains("a drill");

        world.entente("resume", "action:reset").expect(0);
        assertThat(new ApiPerson(world).start(crew.shore()).status()).isEqualTo(201);
        world.onRecord("ingeborg stopped action:reset: a drill", "ingeborg resumed action:reset");
        assertThat(world.entente("resume", "action:reset").expect(1).err())
                .contains("no stop of \"action:reset\" in force");
    }

    @Test
    void of_a_stopped_policy_its_people_learn_after_the_proof_and_go_on_where_they_were() {
        var crew = world.crew();
        stop("policy:deck-crew");
        assertThat(new ApiPerson(world).start("nobody.at.all").status()).isEqualTo(201);
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        assertThat(person.call("GET", "/attempt/sealing", null).status()).isEqualTo(503);
        world.entente("resume", "policy:deck-crew").expect(0);
        assertThat(person.choose("Stop-Quay-101").waitForOutcome(SOON).state()).isEqualTo("completed");
    }

    @Test
    void what_waits_for_a_steward_is_ended_and_nothing_is_written() {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        var before = world.passwordsSet("fleet", crew.fleet());
        world.kill("steward-fleet");
        try {
            person.choose("Stop-Quay-201");
            World.waitUntil(
                    SOON,
                    "the domain has it",
                    () -> person.look().accounts().stream()
                            .anyMatch(account -> account.state().equals("done")));
            stop("everything");
            assertThat(person.waitForOutcome(SOON).state()).isEqualTo("incomplete");
            assertThat(person.account("Fleet").says()).contains("paused this for now");
            assertThat(person.call("POST", "/attempt/continuation", null).status())
                    .isEqualTo(503);
        } finally {
            world.startSteward("fleet");
        }
        assertThat(world.passwordsSet("fleet", crew.fleet())).isEqualTo(before);
        assertThat(world.entente("delivery", "list", "--cause", "stopped").out())
                .contains("stopped");
    }

    @Test
    void an_order_that_a_steward_holds_already_is_not_written_any_more() {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        var before = world.passwordsSet("shore", crew.shore());
        var hold = world.proxies.get("shore").hold(HoldingProxy.At.BEFORE_BEGIN, person);
        person.choose("Stop-Quay-301");
        hold.waitUntilReached();
        stop("action:reset");
        hold.pass();
        person.waitForOutcome(SOON);
        assertThat(person.account("Shore").state()).isEqualTo("failed");
        assertThat(world.passwordsSet("shore", crew.shore())).isEqualTo(before);
    }

    @Test
    void a_stop_ends_by_itself_at_its_time_and_a_stopped_directory_with_it() {
        var api = ConsoleApi.signedIn(world);
        var until = Instant.now().plusSeconds(4);
        for (var what : List.of("method:email-code", "directory:fleet")) {
            assertThat(api.post("/stops", json(what, "a short one", until)).statusCode())
                    .isEqualTo(201);
        }
        assertThat(new ApiPerson(world).start("astrid.nordvik").status()).isEqualTo(503);
        assertThat(world.entente("directory", "show", "fleet").out()).contains("nothing is delivered");
        World.waitUntil(SOON, "both have ended", () -> stops().stream().allMatch(stop -> stop.ended() != null));
        assertThat(new ApiPerson(world).start("astrid.nordvik").status()).isEqualTo(201);
        assertThat(world.entente("directory", "show", "fleet").out()).doesNotContain("nothing is delivered");
        world.onRecord("The service resumed directory:fleet");
        assertThat(world.entente("event", "list", "--limit", "4").out())
                .as("it was nobody's doing")
                .doesNotContain("ingeborg resumed");
    }

    @Test
    void letting_a_directory_go_on_lifts_its_stop() {
        stop("directory:fleet");
        world.entente("directory", "resume", "fleet").expect(0);
        assertThat(stops()).allMatch(stop -> stop.ended() != null);
    }

    @Test
    void a_stop_with_an_end_does_not_shorten_what_was_meant_to_last() {
        world.entente("directory", "suspend", "fleet").expect(0);
        try {
            assertThat(world.entente("stop", "directory:fleet", "--reason", "a drill", "--for", "1m")
                            .expect(1)
                            .err())
                    .contains("fleet is already suspended");
            assertThat(stops()).allMatch(stop -> stop.ended() != null);
        } finally {
            world.entente("directory", "resume", "fleet").expect(0);
        }
    }

    @Test
    void what_is_mistyped_is_said_and_stops_nothing() {
        assertThat(world.entente("stop", "action:rest", "--reason", "x")
                        .expect(1)
                        .err())
                .contains("There is no action:rest", "action:reset", "policy:deck-crew");
        assertThat(world.entente("stop", "everything", "--reason", " ")
                        .expect(1)
                        .err())
                .contains("Give a reason");
        assertThat(world.entente("stop", "everything", "--reason", "x", "--for", "2x")
                        .expect(1)
                        .err())
                .contains("30m, 2h or 1d");
        assertThat(world.entente("stop", "everything", "--reason", "x", "--until", "2020-01-01T00:00")
                        .expect(1)
                        .err())
                .contains("a time in the future");
        world.entente("stop", "everything").expect(2);
        assertThat(ConsoleApi.asNobody(world)
                        .post("/stops", json("everything", "x", null))
                        .statusCode())
                .isIn(401, 403);
        assertThat(stops()).allMatch(stop -> stop.ended() != null);
    }

    @Test
    void from_the_console_it_is_one_click_away_and_people_meet_a_page_that_says_so() {
        var page = world.browser().page(1280, 800);
        page.navigate(world.url + "/console");
        page.getByLabel("Sign-in name").fill("ingeborg");
        page.getByLabel("Password").fill(World.PASSWORD);
        page.getByLabel("Password").press("Enter");
        button(page, "Stop …").click();
        button(page, "Stop everything").click();
        page.getByText("Give a reason. The others will ask.").waitFor();
        page.getByLabel("Reason").fill("a drill in the browser");
        page.getByLabel("Ends").selectOption("30 minutes");
        button(page, "Stop everything").click();
        page.getByText("a drill in the browser").first().waitFor();

        var portal = world.browser().page(390, 844);
        portal.navigate(world.url);
        portal.getByText("Paused for now").waitFor();
        portal.getByText(Pattern.compile("Come back (today|tomorrow) at")).waitFor();
        assertThat(portal.locator("body").innerText())
                .contains("contact the help desk")
                .doesNotContain("drill");

        button(page, "Resume").click();
        page.getByLabel("Stopped now").waitFor(new Locator.WaitForOptions().setState(WaitForSelectorState.DETACHED));
        button(portal, "Try again").click();
        portal.getByText("How can we help?").waitFor();
        portal.close();
        page.close();
    }

    @Test
    void who_is_in_the_middle_of_it_is_told_in_the_page_and_goes_on_afterwards() {
        var crew = world.crew();
        var person = new Person(world.browser().page(390, 844), world.url);
        var before = world.mailbox.to(crew.address()).size();
        person.identify(crew.shore());
        stop("policy:deck-crew");
        person.typeCode(world.mailbox.nextCode(crew.address(), before));
        person.heading("Paused for now").waitFor();
        person.waitForText("Nothing has changed");
        world.entente("resume", "policy:deck-crew").expect(0);
        person.button("Try again").click();
        person.choose("Stop-Quay-401");
        assertThat(person.outcome()).isEqualTo("Your new password works");
        person.page().close();
    }

    private static Locator button(Page page, String name) {
        return page.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName(name).setExact(true))
                .first();
    }
}
