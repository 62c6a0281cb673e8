package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.TimeoutError;
import com.microsoft.playwright.options.AriaRole;
import java.io.IOException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.function.BiConsumer;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/**
 * Three people after each other at one computer, the first of whom walks away at each step: the next never sees anything of
 * another, whatever they do with what was left. And what an attempt is worth without the page that began it.
 */
class NextPersonTest extends PublishingTest {
    private static final String POLICY = "prove:\n  reset: { methods: 2, any-of: [email-code, recovery-code] }\n"
            + "  unlock: { any-of: [email-code] }\n  details: { any-of: [email-code] }\n"
            + "limit: { resets: 1000 per 24h }\n";

    private Crew first;
    private Crew second;
    private List<String> codes;
    private final List<String> complaints = new ArrayList<>();
    private Page page;
    private Person person;

    @BeforeEach
    void people() throws IOException {
        world.later(Duration.ZERO);
        first = world.crew();
        second = world.crew();
        pilot(POLICY, first, second);
        codes = prepared(first);
        page = world.browser().freshPage(1280, 800);
        complaints.clear();
        page.onConsoleMessage(message -> {
            // Every test comes from one network, and is asked for work where many do at once.
            if (message.type().equals("error") && !message.text().contains("status of 428")) {
                complaints.add(message.text());
            }
        });
        person = new Person(page, world.url);
    }

    private List<String> prepared(Crew crew) {
        var own = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var made = own.setUp("recovery-code", null).lines();
        own.call("POST", "/attempt/end", null);
        return new ArrayList<>(made);
    }

    private void shared() throws IOException {
        write("networks/desks.yaml", "network: desks\nranges: [127.0.0.0/8, \"::1/128\"]\nshared: true\n");
        publish();
    }

    // ---- the steps at which the first one walks away

    private void asked() {
        person.identify(first.shore(), "reset");
    }

    private void halfWay() {
        var before = world.mailbox.to(first.address()).size();
        asked();
        person.typeCode(world.mailbox.nextCode(first.address(), before));
        page.locator("input[name=code]")
                .or(page.locator("[data-method=recovery-code]"))
                .first()
                .waitFor();
        person.heading("One more method").waitFor();
    }

    private void proved() {
        halfWay();
        page.locator("[data-method=recovery-code]").click();
        page.locator("input[name=code]").fill(codes.remove(0));
        person.button("Continue").click();
        person.reachPassword();
    }

    private void done() {
        proved();
        person.choose("Next-Quay-" + System.nanoTime());
        assertThat(person.outcome()).isEqualTo("Your new password works");
    }

    private void methods() {
        var before = world.mailbox.to(first.address()).size();
        person.identify(first.shore(), "details");
        person.typeCode(world.mailbox.nextCode(first.address(), before));
        person.heading("Your methods").waitFor();
    }

    private void unlocks() {
        var before = world.mailbox.to(first.address()).size();
        person.identify(first.shore(), "unlock");
        person.typeCode(world.mailbox.nextCode(first.address(), before));
        person.button("Unlock my account").waitFor();
    }

    private Map<String, Runnable> steps() {
        return Map.of(
                "a code was asked for",
                this::asked,
                "one of two is proved",
                this::halfWay,
                "a password is asked for",
                this::proved,
                "the outcome is shown",
                this::done,
                "methods are shown",
                this::methods,
                "an unlock is asked for",
                this::unlocks);
    }

    /** Nothing of anybody is here: the page that everybody begins with, and nothing in the browser that leads further. */
    private void nothingOfAnybody(Page where, String as) {
        try {
            where.locator("[data-action=reset]").waitFor();
        } catch (TimeoutError e) {
            throw new AssertionError(
                    as + ": " + where.url() + "\n" + where.locator("body").innerText(), e);
        }
        assertThat(where.locator("body").innerText())
                .as(as)
                .contains("How can we help?")
                .doesNotContain(first.shore(), first.fleet(), first.address());
        assertThat(where.title()).as(as).doesNotContain(first.shore());
    }

    private void byTheNextPerson(Map<String, BiConsumer<Page, String>> ways) {
        steps().forEach((step, walk) -> ways.forEach((way, comes) -> {
            walk.run();
            var said = step + ", then " + way;
            comes.accept(page, said);
            // The next person gets what is theirs, in the same browser.
            var before = world.mailbox.to(second.address()).size();
            person.identify(second.shore(), "unlock");
            person.typeCode(world.mailbox.nextCode(second.address(), before));
            person.button("Unlock my account").click();
            assertThat(person.outcome()).as(said).isEqualTo("Your account is unlocked");
            assertThat(person.text()).as(said).doesNotContain(first.shore(), first.address());
            person.button("Done").click();
            nothingOfAnybody(page, said + ", after the second");
            page.context().clearCookies();
            page.navigate("about:blank");
        }));
    }

    @Test
    void on_a_shared_desk_nothing_is_kept_not_even_over_a_reload() throws IOException {
        shared();
        byTheNextPerson(Map.of(
                "the page is loaded again",
                (there, as) -> {
                    there.reload();
                    nothingOfAnybody(there, as);
                    assertThat(there.evaluate("() => JSON.stringify({ ...localStorage, ...sessionStorage })"))
                            .as(as)
                            .isEqualTo("{}");
                },
                "the person leaves",
                (there, as) -> {
                    if (person.button("Leave").count() > 0) {
                        person.button("Leave").first().click();
                    }
                    nothingOfAnybody(there, as);
                }));
    }

    @Test
    void nobody_meets_anything_of_the_one_before_in_a_new_tab_or_by_coming_back() {
        byTheNextPerson(Map.of(
                "the address is typed",
                (there, as) -> {
                    there.navigate(world.url + "/");
                    nothingOfAnybody(there, as);
                },
                "another tab is opened, and the first one closed",
                (there, as) -> {
                    var other = there.context().newPage();
                    other.navigate(world.url + "/");
                    nothingOfAnybody(other, as);
                    other.close();
                    there.navigate("about:blank");
                },
                "somebody goes elsewhere and back",
                (there, as) -> {
                    there.navigate(world.url + "/quiet");
                    there.goBack();
                    there.waitForURL(world.url + "/");
                    nothingOfAnybody(there, as);
                }));
    }

    @Test
    void a_browser_that_was_quit_brings_nothing_back() {
        proved();
        var kept = page.context().storageState();
        // What a browser keeps on its disk, cookies of the session left in it, as some do.
        var again = page.context()
                .browser()
                .newContext(new com.microsoft.playwright.Browser.NewContextOptions().setStorageState(kept))
                .newPage();
        again.navigate(world.url + "/");
        nothingOfAnybody(again, "after the browser was quit");
    }

    @Test
    void a_reloaded_page_goes_on_where_it_was_and_what_is_over_is_shown_by_nobody() {
        proved();
        page.reload();
        person.reachPassword();
        person.choose("Next-Quay-" + System.nanoTime());
        assertThat(person.outcome()).isEqualTo("Your new password works");
        page.reload();
        nothingOfAnybody(page, "an outcome that is loaded again");
        assertThat(complaints)
                .as("what was expected is no error in the browser's console")
                .isEmpty();
    }

    @Test
    void who_walks_away_is_asked_and_then_nothing_is_left() {
        page.clock().install();
        for (var step : List.<Runnable>of(this::proved, this::methods, this::done)) {
            step.run();
            page.clock().runFor(70_000);
            if (!person.text().contains("Are you still there?")) {
                page.clock().runFor(175_000);
                person.waitForText("Are you still there?");
            }
            page.clock().runFor(70_000);
            nothingOfAnybody(page, "after nobody touched it");
        }
    }

    @Test
    void two_tabs_never_become_each_others_attempt() {
        proved();
        var other = page.context().newPage();
        var there = new Person(other, world.url);
        there.identify(second.shore(), "unlock");
        // The first tab is told, and the second one's attempt is left as it is.
        page.getByLabel("New password").fill("Next-Quay-" + System.nanoTime());
        person.button("Set new password").click();
        person.waitForText("someone started again in this browser on another page");
        nothingOfAnybody(page, "the first tab");
        assertThat(there.text()).contains("Check your e-mail");
        var before = world.mailbox.to(second.address()).size();
        there.typeCode(world.mailbox.nextCode(second.address(), before - 1));
        there.button("Unlock my account").waitFor();
    }

    @Test
    void the_way_back_goes_one_step_back_and_asks_before_it_loses_a_proof() {
        var before = world.mailbox.to(first.address()).size();
        person.identify(first.shore(), "reset");
        assertThat(page.title()).startsWith("Check your e-mail");
        page.goBack();
        person.heading("Verify that it’s you").waitFor();
        assertThat(page.title()).startsWith("Verify that it’s you");
        assertThat(page.evaluate("() => document.activeElement.tagName")).isEqualTo("H1");
        page.goBack();
        nothingOfAnybody(page, "one step before");
        page.locator("[data-action=reset]").click();
        page.getByLabel("Your sign-in name").waitFor();
        page.goBack();
        nothingOfAnybody(page, "one step before the name");

        before = world.mailbox.to(first.address()).size();
        person.identify(first.shore(), "unlock");
        person.typeCode(world.mailbox.nextCode(first.address(), before));
        person.button("Unlock my account").waitFor();
        page.goBack();
        person.waitForText("Leave this page?");
        person.button("Stay here").click();
        person.button("Unlock my account").waitFor();
        page.goBack();
        page.getByRole(AriaRole.ALERTDIALOG)
                .getByText("Leave", new Locator.GetByTextOptions().setExact(true))
                .click();
        nothingOfAnybody(page, "after leaving");
    }

    // ---- without a page

    private ApiPerson provedByApi() {
        return new ApiPerson(world).wants("unlock").prove(first.shore(), first.address());
    }

    @Test
    void a_copied_cookie_reads_and_changes_nothing() {
        var owner = provedByApi();
        var thief = new ApiPerson(world);
        thief.cookie = owner.cookie;
        for (var path : List.of("/attempt", "/attempt/sealing", "/attempt/updates", "/attempt/enrolments")) {
            assertThat(thief.send("GET", path, "", "").body()).as(path).contains("act-not-signed");
        }
        assertThat(thief.send("DELETE", "/attempt", "", "").body()).contains("act-not-signed");
        assertThat(thief.send("POST", "/attempt/presence", "", "").body()).contains("act-not-signed");
        assertThat(thief.send("POST", "/attempt/challenges", "{\"method\":\"email-code\"}", "")
                        .body())
                .contains("act-not-signed");
        assertThat(owner.look().state()).isEqualTo("proved");
    }

    @Test
    void who_leaves_ends_everything_that_was_under_way() {
        var owner = provedByApi();
        var copy = new ApiPerson(world);
        copy.cookie = owner.cookie;
        assertThat(owner.call("DELETE", "/attempt", null).status()).isEqualTo(204);
        assertThat(copy.send("GET", "/attempt", "", owner.act("GET", "/attempt", ""))
                        .status())
                .isEqualTo(410);
        assertThat(world.entente("attempt", "show", owner.attempt.reference()).out())
                .contains("The attempt ended: the person left.")
                .contains("expired");
    }
}
