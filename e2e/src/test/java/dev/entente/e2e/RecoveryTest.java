package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Page;
import dev.entente.bench.Mailbox;
import java.time.Duration;
import java.util.ArrayList;
import org.junit.jupiter.api.Test;

/** One person gets back in, in a real browser, on real directories. */
class RecoveryTest {
    private final World world = World.get();

    private Person person() {
        return new Person(world.browser().page(390, 844), world.url);
    }

    private String proved(Person person, String login, String address) {
        var before = world.mailbox.to(address).size();
        person.identify(login);
        var mail = world.mailbox.next(address, before);
        person.typeCode(Mailbox.code(mail).orElseThrow());
        person.reachPassword();
        return mail.text();
    }

    @Test
    void a_person_in_a_group_three_deep_gets_a_password_that_both_directories_confirm() {
        var person = person();
        proved(person, "astrid.nordvik", "astrid.nordvik@mail.skerry.test");
        person.choose("Rowan-Kettle-9-Tide");

        assertThat(person.outcome()).isEqualTo("Your new password works");
        assertThat(world.binds("shore", "astrid.nordvik", "Rowan-Kettle-9-Tide"))
                .isTrue();
        assertThat(world.binds("fleet", "anordvik1", "Rowan-Kettle-9-Tide")).isTrue();
        assertThat(world.binds("shore", "astrid.nordvik", World.OLD_PASSWORD)).isFalse();
        assertThat(world.binds("fleet", "anordvik1", World.OLD_PASSWORD)).isFalse();
    }

    @Test
    void a_locked_account_with_an_apostrophe_is_unlocked_with_the_reset() {
        var person = person();
        proved(person, "liam.ohara", "liam.ohara@mail.skerry.test");
        person.choose("Rowan-Kettle-9-Tide");

        assertThat(person.outcome()).isEqualTo("Your new password works");
        assertThat(world.binds("shore", "liam.ohara", "Rowan-Kettle-9-Tide")).isTrue();
    }

    @Test
    void greek_letters_and_a_password_outside_ascii_survive_the_whole_way() {
        var person = person();
        proved(person, "eleni.pappa", "eleni.pappa@mail.skerry.test");
        person.choose("Θάλασσα-ήρεμη-42 ⚓");

        assertThat(person.outcome()).isEqualTo("Your new password works");
        assertThat(world.binds("shore", "eleni.pappa", "Θάλασσα-ήρεμη-42 ⚓")).isTrue();
        assertThat(world.binds("fleet", "epappa3", "Θάλασσα-ήρεμη-42 ⚓")).isTrue();
    }

    @Test
    void rules_are_ticked_while_typing_and_nothing_is_sent_before_they_are_met() {
        var person = person();
        proved(person, "kenna.drever", "kenna.drever@mail.skerry.test");
        person.page().getByLabel("New password").fill("Drever");
        assertThat(met(person, "min-length")).isEqualTo("false");
        assertThat(met(person, "no-personal-details")).isEqualTo("false");
        person.button("Set new password").click();
        person.waitForText("This password doesn’t meet all the rules yet");

        person.page().getByLabel("New password").fill("Tidal-Marmalade-8");
        assertThat(met(person, "min-length")).isEqualTo("true");
        assertThat(met(person, "no-personal-details")).isEqualTo("true");
        assertThat(world.binds("shore", "kenna.drever", World.OLD_PASSWORD)).isTrue();
    }

    private static String met(Person person, String rule) {
        return person.page().locator("[data-rule=" + rule + "]").getAttribute("data-met");
    }

    @Test
    void when_a_directory_refuses_the_page_says_why_and_another_password_goes_where_it_is_missing() {
        new ApiPerson(world)
                .prove("signe.moen", "signe.moen@mail.skerry.test")
                .choose("First-Lantern-11")
                .waitForOutcome(Duration.ofSeconds(20));
        var person = person();
        proved(person, "signe.moen", "signe.moen@mail.skerry.test");
        // The fleet remembers passwords; the shore does not enforce its history on a reset.
        person.choose("First-Lantern-11");

        person.waitForText("Not accepted by Fleet");
        assertThat(person.text())
                .contains("You've used this password before", "It’s already set in Shore", "Reference R ");
        assertThat(world.binds("fleet", "smoen11", "First-Lantern-11")).isTrue();
        person.choose("Second-Lantern-22");
        assertThat(person.outcome()).isEqualTo("Your new password works");
        assertThat(world.binds("fleet", "smoen11", "Second-Lantern-22")).isTrue();
        assertThat(world.binds("shore", "signe.moen", "First-Lantern-11")).isTrue();
    }

    @Test
    void a_wrong_code_can_be_corrected_and_another_code_asked_for() {
        var address = "fergus.flett@mail.skerry.test";
        var person = person();
        var before = world.mailbox.to(address).size();
        person.identify("fergus.flett");
        world.mailbox.next(address, before);
        person.typeCode("0000 0000");
        person.waitForText("This code wasn't right");

        person.page().getByText("No e-mail?").click();
        assertThat(person.text()).contains("help desk", "R ");
        person.button("Send a new code").click();
        var second = world.mailbox.next(address, before + 1);
        person.waitForText("Use the newest code");
        person.typeCode(Mailbox.code(second).orElseThrow());
        person.reachPassword();
    }

    @Test
    void without_a_steward_the_page_says_that_it_still_tries_and_later_what_came_of_it() {
        world.kill("steward-fleet");
        try {
            var person = person();
            proved(person, "jonas.strand", "jonas.strand@mail.skerry.test");
            person.choose("Rowan-Kettle-9-Tide");
            person.waitForText("Still trying");
            assertThat(person.text()).contains("R ", "help desk");
            assertThat(world.binds("fleet", "jstrand15", World.OLD_PASSWORD)).isTrue();

            world.startSteward("fleet");
            assertThat(person.outcome()).isEqualTo("Your new password works");
            assertThat(world.binds("fleet", "jstrand15", "Rowan-Kettle-9-Tide")).isTrue();
        } finally {
            world.kill("steward-fleet");
            world.startSteward("fleet");
        }
    }

    @Test
    void ten_seconds_without_the_database_lose_no_step() {
        var address = "maren.aune@mail.skerry.test";
        var before = world.mailbox.to(address).size();
        var person = person();
        person.identify("maren.aune");
        var code = world.mailbox.nextCode(address, before);

        world.lab("pg-down");
        person.typeCode(code);
        World.pause(10_000);
        world.lab("pg-up");

        person.choose("Rowan-Kettle-9-Tide");
        assertThat(person.outcome()).isEqualTo("Your new password works");
        assertThat(world.binds("shore", "maren.aune", "Rowan-Kettle-9-Tide")).isTrue();
        assertThat(world.binds("fleet", "maune13", "Rowan-Kettle-9-Tide")).isTrue();
        var attempt = world.entente("--output", "json", "attempt", "list", "--limit", "1")
                .expect(0)
                .out();
        assertThat(attempt).contains("\"completed\"");
    }

    @Test
    void the_message_about_a_reset_leads_to_an_alarm_that_is_on_record() {
        var address = "rasmus@letterbox.test";
        var attempt = new ApiPerson(world).prove("rasmus.lunde", address).choose("Rowan-Kettle-9-Tide");
        var before = world.mailbox.to(address).size();
        attempt.waitForOutcome(Duration.ofSeconds(20));
        var notice = world.mailbox.next(address, before);
        assertThat(notice.subject()).contains("your password was reset");

        var page = world.browser().page(390, 844);
        page.navigate(Mailbox.link(notice).orElseThrow());
        // Opening the link alone raises nothing, for scanners open links.
        var reference = attempt.attempt.reference();
        page.getByText("Wasn’t this you?").waitFor();
        assertThat(world.entente("attempt", "show", reference).out()).doesNotContain("this wasn't me");
        page.getByText("This wasn’t me: raise the alarm").click();
        page.getByText("Now call the help desk").waitFor();
        assertThat(page.locator("body").innerText()).contains(reference);
        assertThat(world.entente("attempt", "show", reference).out()).contains("this wasn't me");
        assertThat(world.entente("status").out()).contains("Someone said that a reset was not theirs");
    }

    @Test
    void a_page_without_a_secure_context_says_so_at_once() {
        var page = world.browser().freshPage(390, 844);
        page.addInitScript("Object.defineProperty(window, 'isSecureContext', { value: false })");
        page.navigate(world.url + "/");
        page.getByText("This page cannot work here").waitFor();
    }

    @Test
    void pages_hold_their_content_policy_and_fit_320_pixels() {
        var page = world.browser().freshPage(320, 640);
        var complaints = new ArrayList<String>();
        page.onConsoleMessage(message -> {
            if (message.text().contains("Content Security Policy")
                    || message.text().contains("TrustedHTML")) {
                complaints.add(message.text());
            }
        });
        var response = page.navigate(world.url + "/");
        page.locator("[data-action=reset]").click();
        page.getByLabel("Your sign-in name").waitFor();
        assertThat(response.headerValue("content-security-policy"))
                .contains("require-trusted-types-for 'script'", "frame-ancestors 'none'")
                .doesNotContain("unsafe");
        assertThat(overflow(page)).isZero();
        assertThat(complaints).isEmpty();
    }

    private static int overflow(Page page) {
        return ((Number) page.evaluate(
                        "Math.max(0, document.documentElement.scrollWidth - document.documentElement.clientWidth)"))
                .intValue();
    }
}
