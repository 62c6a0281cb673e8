package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.LoadState;
import com.microsoft.playwright.options.ReducedMotion;
import dev.entente.wire.AccessApi;
import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** No page of the portal's ways of proving, nor of the help desk, breaks a rule of WCAG 2.2, levels A and AA, that a program can see. */
class SoundPagesTest extends PublishingTest {
    private static final String ALL = "prove:\n"
            + "  reset: { methods: 2, any-of: [email-code, email-link, passkey, push, app-code, questions,"
            + " staff-confirmation, recovery-code] }\n"
            + "  details: { any-of: [email-code] }\n";

    private String code(Person person, Crew crew, String action) {
        var before = world.mailbox.to(crew.address()).size();
        person.identify(crew.shore(), action, "email-code", "Check your e-mail");
        Axe.sound(person.page(), "the page that asks for a code");
        return world.mailbox.nextCode(crew.address(), before);
    }

    private static void leave(Page page) {
        page.context().clearCookies(new BrowserContext.ClearCookiesOptions().setName("__Host-entente-attempt"));
    }

    @ParameterizedTest
    @ValueSource(ints = {390, 1280})
    void every_page_that_asks_or_sets_up_is_sound(int width) throws IOException {
        var crew = world.crew();
        pilot(ALL, crew);
        var page = world.browser().page(width, width == 390 ? 844 : 800);
        world.browser().authenticators(page);
        var person = new Person(page, world.url);
        page.navigate(world.url + "/");
        page.locator("[data-action=reset]").waitFor();
        Axe.sound(page, "the first page");
        page.locator("[data-action=reset]").click();
        page.getByLabel("Your sign-in name").waitFor();
        Axe.sound(page, "the page that asks for a name");
        person.button("Continue").click();
        Axe.sound(page, "the same with what is wrong");

        person.typeCode(code(person, crew, "details"));
        person.heading("Your methods").waitFor();
        Axe.sound(page, "the methods");
        for (var button : List.of(
                "Add an authenticator app",
                "Add a passkey",
                "Add a phone that approves",
                "Set up security questions")) {
            person.button(button).click();
            person.button("Back").waitFor();
            Axe.sound(page, button);
            person.button("Back").click();
            person.heading("Your methods").waitFor();
        }
        person.button("Set up security questions").click();
        person.button("Save").click();
        page.getByText("Choose a question.").first().waitFor();
        Axe.sound(page, "security questions with what is wrong");
        for (var n = 1; n <= 3; n++) {
            page.getByLabel("Question " + n, new Page.GetByLabelOptions().setExact(true))
                    .selectOption(List.of("first-teacher", "first-street", "dream-trip")
                            .get(n - 1));
            page.getByLabel("Answer " + n).fill("Kirkwall " + n);
        }
        person.button("Save").click();
        person.waitForText("Your questions are set up");
        leave(page);

        for (var method : List.of("email-link", "push", "passkey", "app-code", "recovery-code")) {
            page.navigate(world.url + "/");
            page.locator("[data-action=reset]").click();
            page.getByLabel("Your sign-in name").fill(crew.shore());
            person.button("Continue").click();
            page.locator("[data-method=" + method + "]").waitFor();
            Axe.sound(page, "the choice of methods");
            page.locator("[data-method=" + method + "]").click();
            page.locator("details").first().waitFor();
            page.locator("details summary").first().click();
            Axe.sound(page, method);
            leave(page);
        }
        person.typeCode(code(person, crew, "reset"));
        for (var method : List.of("questions", "staff-confirmation")) {
            page.locator("[data-method=" + method + "]").click();
            page.locator("details").first().waitFor();
            Axe.sound(page, method);
            person.button("Use another method").click();
            page.locator("[data-method=" + method + "]").waitFor();
        }
        page.navigate(world.url + "/link#nothing");
        page.getByText("This link was used already").waitFor();
        Axe.sound(page, "a link that is over");
    }

    @Test
    void the_page_that_waits_is_sound_and_moves_for_nobody_who_asked_for_less_motion() {
        var crew = world.crew();
        var page = world.browser().freshPage(390, 844);
        page.emulateMedia(new Page.EmulateMediaOptions().setReducedMotion(ReducedMotion.NO_PREFERENCE));
        var person = new Person(page, world.url);
        var before = world.mailbox.to(crew.address()).size();
        world.stewards.get("fleet").hold();
        try {
            person.identify(crew.shore());
            person.typeCode(world.mailbox.nextCode(crew.address(), before));
            person.choose("Slow-Harbour-Light-7");
            person.heading("Setting your new password").waitFor();
            Axe.sound(page, "the page that waits");
            assertThat(moving(page)).as("usually").isPositive();
            page.emulateMedia(new Page.EmulateMediaOptions().setReducedMotion(ReducedMotion.REDUCE));
            Installation.waitUntil(SOON, "nothing moves", () -> moving(page) == 0);
        } finally {
            world.stewards.get("fleet").goOn();
        }
        assertThat(person.outcome()).isEqualTo("Your new password works");
    }

    private static int moving(Page page) {
        return ((Number) page.evaluate("document.getAnimations().filter(one => one.playState === 'running').length"))
                .intValue();
    }

    @Test
    void the_help_desk_and_the_table_of_methods_are_sound() {
        var login = "desk-" + UUID.randomUUID().toString().substring(0, 8);
        var password = "harbour-lights-at-dusk";
        assertThat(api.post(
                                "/administrators",
                                ApiPerson.JSON.writeValueAsString(new AccessApi.NewAdministrator(
                                        login, null, password, AccessApi.STAFF, List.of(), "nobody.of.ours")))
                        .statusCode())
                .isEqualTo(201);
        try {
            var desk = world.browser().page(1280, 800);
            desk.navigate(world.url + "/console/");
            desk.getByLabel("Sign-in name").fill(login);
            desk.getByLabel("Password").fill(password);
            desk.keyboard().press("Enter");
            desk.getByLabel("Caller’s sign-in name").waitFor();
            Axe.sound(desk, "the help desk");
            desk.evaluate("() => { const image = document.createElement('img'); image.id = 'mute';"
                    + " document.body.append(image); }");
            assertThat(Axe.violations(desk).toString())
                    .as("what is wrong is found")
                    .contains("image-alt");
            desk.evaluate("() => document.getElementById('mute').remove()");
            desk.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Find"))
                    .click();
            desk.getByText("Type the name the caller signs in with").waitFor();
            Axe.sound(desk, "the help desk with what is wrong");
        } finally {
            api.delete("/administrators/" + login);
        }
        var page = world.browser().page(1280, 800);
        page.navigate(world.url + "/console/policies");
        page.getByLabel("Sign-in name").fill("ingeborg");
        page.getByLabel("Password").fill(Installation.PASSWORD);
        page.keyboard().press("Enter");
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile("^To reset, they verify")))
                .first()
                .click();
        page.getByText("How many methods").waitFor();
        Axe.sound(page, "the policies with the table of methods");
    }

    @Test
    void pages_that_messages_lead_to_are_sound() {
        var page = world.browser().page(390, 844);
        for (var path : List.of("not-me", "quiet")) {
            page.navigate(world.url + "/" + path + "#no-such-link");
            // What an alarm would bring about is asked at once, and there is nothing to click where there is no such
            // link.
            if (!path.equals("not-me")) {
                page.getByRole(AriaRole.BUTTON).first().click();
            }
            page.getByRole(AriaRole.ALERT).first().waitFor();
            Axe.sound(page, path);
        }
    }

    @Test
    void every_page_of_the_console_is_sound_keeps_to_the_content_policy_and_fits_320_pixels() {
        var page = world.browser().freshPage(1280, 800);
        var complaints = new ArrayList<String>();
        page.onConsoleMessage(message -> {
            if (message.text().contains("Security Policy") || message.text().contains("TrustedHTML")) {
                complaints.add(message.text());
            }
        });
        page.navigate(world.url + "/console/people");
        page.getByLabel("Sign-in name").fill("ingeborg");
        page.getByLabel("Password").fill(Installation.PASSWORD);
        page.keyboard().press("Enter");
        page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("People"))
                .waitFor();
        for (var path : List.of(
                "",
                "directories",
                "directories/fleet",
                "directories/deliveries",
                "directories/in-doubt",
                "directories/connect",
                "people",
                "people?search=nordvik",
                "policies",
                "policies/scopes",
                "policies/rehearsal",
                "policies/rules",
                "policies/files",
                "policies/revisions",
                "audit",
                "audit/events?severity=notice",
                "audit/messages",
                "audit/pressure",
                "audit/outlets",
                "audit/retention",
                "help-desk",
                "settings")) {
            page.navigate(world.url + "/console/" + path);
            page.waitForLoadState(LoadState.NETWORKIDLE);
            page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setLevel(1))
                    .first()
                    .waitFor();
            assertThat(page.locator("h1").count()).as(path).isEqualTo(1);
            Axe.sound(page, "console/" + path);
            for (var width : List.of(1280, 320)) {
                page.setViewportSize(width, 800);
                var over = (Number)
                        page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth");
                assertThat(over.intValue()).as(path + " at " + width).isLessThanOrEqualTo(0);
            }
            page.setViewportSize(1280, 800);
        }
        assertThat(complaints).isEmpty();
    }
}
