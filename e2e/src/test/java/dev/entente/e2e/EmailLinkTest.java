package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Page;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.util.ArrayList;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** Links by e-mail: in the browser that asked, elsewhere with the number, and for whoever has only one of the two. */
class EmailLinkTest extends PublishingTest {
    private static final String ALONE = "prove:\n  reset: { any-of: [email-link] }\n";
    private static final Pattern TOKEN = Pattern.compile("/link#(\\S+)");

    private ApiPerson asked(Crew crew) {
        var person = new ApiPerson(world);
        person.start(crew.shore());
        person.attempt = person.ask("email-link").as(PortalApi.Attempt.class);
        return person;
    }

    private String token(Crew crew, int before) {
        return world.mailbox.next(crew.address(), before, TOKEN);
    }

    private static ApiPerson.Answer look(ApiPerson person) {
        return person.call(
                "POST",
                "/attempt/challenges/" + person.attempt.challenge().id() + "/answers",
                new PortalApi.Answer(null, null));
    }

    private ApiPerson.Answer follow(ApiPerson browser, String token, String number) {
        return browser.call("POST", "/links", new PortalApi.Link(token, number));
    }

    private static String number(ApiPerson person) {
        return person.attempt.challenge().parts().get("number");
    }

    @Test
    void opened_elsewhere_it_takes_the_number_and_lets_the_first_page_go_on() throws IOException {
        var crew = world.crew();
        pilot(ALONE, crew);
        var before = world.mailbox.to(crew.address()).size();
        var person = new Person(world.browser().page(1280, 800), world.url);
        person.identify(crew.shore(), "reset", "email-link", "Open the link in your e-mail");
        var number = person.page().locator("[role=img]").innerText().strip();
        var phone = world.browser().page(390, 844);
        phone.navigate(world.url + "/link#" + token(crew, before));
        phone.getByLabel("Number on that page").fill(number.equals("10") ? "11" : "10");
        phone.keyboard().press("Enter");
        phone.getByText("This isn't the number on the page where you started").waitFor();
        phone.getByLabel("Number on that page").fill(number);
        phone.keyboard().press("Enter");
        phone.getByText("You can close this one").waitFor();
        assertThat(phone.url()).as("the token is not in the history").doesNotContain("#");
        person.choose("Lantern-Quay-4-Pines");
        assertThat(person.outcome()).isEqualTo("Your new password works");
    }

    @Test
    void in_the_browser_that_asked_it_goes_on_by_itself() throws IOException {
        var crew = world.crew();
        pilot(ALONE, crew);
        var before = world.mailbox.to(crew.address()).size();
        var page = world.browser().page(390, 844);
        var complaints = new ArrayList<String>();
        page.onConsoleMessage(message -> {
            // Every test comes from one network, and is asked for work where many do at once.
            if (message.type().equals("error") && !message.text().contains("status of 428")) {
                complaints.add(message.text());
            }
        });
        var person = new Person(page, world.url);
        person.identify(crew.shore(), "reset", "email-link", "Open the link in your e-mail");
        Page tab = page.context().newPage();
        tab.navigate(world.url + "/link#" + token(crew, before));
        tab.getByText("It’s confirmed").waitFor();
        person.reachPassword();
        assertThat(complaints).as("to wait is no error").isEmpty();
    }

    @Test
    void a_scanner_that_opens_it_uses_nothing_up_and_a_stranger_gets_nothing() throws IOException {
        var crew = world.crew();
        pilot(ALONE, crew);
        var before = world.mailbox.to(crew.address()).size();
        var person = asked(crew);
        var token = token(crew, before);
        var scanner = new ApiPerson(world);
        for (var round = 0; round < 5; round++) {
            var opened = follow(scanner, token, null).as(PortalApi.FollowedLink.class);
            assertThat(opened.done()).isFalse();
            assertThat(opened.action()).isEqualTo("reset");
        }
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);
        // Whoever began an attempt for this name elsewhere holds another one.
        var stranger = asked(crew);
        assertThat(follow(stranger, token, null)
                        .as(PortalApi.FollowedLink.class)
                        .done())
                .as("another attempt for the same name")
                .isFalse();
        assertThat(follow(scanner, token, number(person))
                        .as(PortalApi.FollowedLink.class)
                        .done())
                .isTrue();
        assertThat(follow(scanner, token, number(person)).status()).as("twice").isEqualTo(410);
        assertThat(look(person).as(PortalApi.Attempt.class).state()).isEqualTo("proved");
        assertThat(look(stranger).status()).as("nothing yet").isEqualTo(202);
        assertThat(follow(scanner, "x".repeat(32), null).status()).isEqualTo(410);
    }

    @Test
    void three_wrong_numbers_end_it_and_tell_the_person() throws IOException {
        var crew = world.crew();
        pilot(ALONE, crew);
        var before = world.mailbox.to(crew.address()).size();
        var person = asked(crew);
        var token = token(crew, before);
        var elsewhere = new ApiPerson(world);
        var wrong = number(person).equals("10") ? "11" : "10";
        for (var round = 0; round < 3; round++) {
            assertThat(follow(elsewhere, token, wrong).status()).isEqualTo(422);
        }
        assertThat(follow(elsewhere, token, number(person)).status()).isEqualTo(410);
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);
        assertThat(world.mailbox.next(crew.address(), before + 1).text()).contains("answered with wrong numbers");
    }

    @Test
    void who_left_or_was_left_alone_waits_for_nothing_any_more() throws IOException {
        var crew = world.crew();
        pilot(ALONE, crew);
        var before = world.mailbox.to(crew.address()).size();
        var person = asked(crew);
        var token = token(crew, before);
        assertThat(person.call("DELETE", "/attempt", null).status()).isEqualTo(204);
        assertThat(follow(new ApiPerson(world), token, number(person)).status()).isEqualTo(410);

        before = world.mailbox.to(crew.address()).size();
        var again = asked(crew);
        token = token(crew, before);
        // Another attempt begins in the same browser.
        var reference = again.attempt.reference();
        again.start(crew.shore());
        assertThat(follow(new ApiPerson(world), token, number(again)).status()).isEqualTo(410);
        world.onRecord("The attempt ended: someone started another one in the same browser.");
        assertThat(world.entente("attempt", "show", reference).out()).contains("expired");
    }

    @Test
    void a_name_that_means_nobody_waits_in_the_same_way() throws IOException {
        var crew = world.crew();
        pilot(ALONE, crew);
        var nobody = new ApiPerson(world);
        nobody.start("no.such.person");
        nobody.attempt = nobody.ask("email-link").as(PortalApi.Attempt.class);
        assertThat(number(nobody)).matches("[1-9][0-9]");
        assertThat(look(nobody).status()).as("nothing yet").isEqualTo(202);
    }
}
