package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.Cookie;
import com.microsoft.playwright.options.LoadState;
import com.microsoft.playwright.options.SelectOption;
import com.microsoft.playwright.options.WaitForSelectorState;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The console as an administrator uses it, and the API below it. */
class ConsoleTest {
    private static List<Cookie> cookies;
    private final World world = World.get();

    private Page signedIn(int width) {
        // One sign-in for all: the service lets nobody sign in all the time.
        if (cookies == null) {
            var page = signedIn(width, "ingeborg", World.PASSWORD);
            cookies = page.context().cookies();
            return page;
        }
        var page = world.browser().page(width, 800);
        page.context().addCookies(cookies);
        page.setDefaultTimeout(45_000);
        page.navigate(world.url + "/console");
        page.getByText("Events on record").waitFor();
        return page;
    }

    private Page signedIn(int width, String login, String password) {
        var page = world.browser().page(width, 800);
        page.setDefaultTimeout(45_000);
        page.navigate(world.url + "/console");
        page.getByLabel("Sign-in name").fill(login);
        page.getByLabel("Password").fill(password);
        page.getByLabel("Password").press("Enter");
        page.getByText("Events on record").waitFor();
        return page;
    }

    @Test
    void a_wrong_password_is_said_beside_the_form() {
        var page = world.browser().page(1280, 800);
        page.navigate(world.url + "/console/people");
        page.getByLabel("Sign-in name").fill("ingeborg");
        page.getByLabel("Password").fill("wrong");
        page.getByLabel("Password").press("Enter");
        page.getByText("The sign-in name or the password isn't right").waitFor();
    }

    @Test
    void nothing_goes_wrong_in_the_browser_when_somebody_comes_for_the_first_time() {
        for (var path : List.of("/", "/console")) {
            var page = world.browser().freshPage(1280, 800);
            var wrong = new ArrayList<String>();
            page.onConsoleMessage(message -> {
                if (message.type().equals("error") || message.type().equals("warning")) {
                    wrong.add(message.text());
                }
            });
            page.onPageError(wrong::add);
            page.onResponse(response -> {
                if (response.status() >= 400) {
                    wrong.add(response.status() + " " + response.url());
                }
            });
            page.navigate(world.url + path);
            page.waitForLoadState(LoadState.NETWORKIDLE);
            page.locator("h1").first().waitFor();
            assertThat(wrong).as(path).isEmpty();
            page.context().close();
        }
    }

    @Test
    void slash_goes_to_the_search_and_a_person_is_explained() {
        var page = signedIn(1280);
        page.keyboard().press("/");
        page.keyboard().type("sørås");
        page.keyboard().press("Enter");
        page.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Øyvind Sørås"))
                .click();
        page.getByText("No published policy covers this person.").waitFor();
        page.getByText("What to do: Add the person").waitFor();
    }

    @Test
    void preflight_runs_from_the_page_with_its_findings() {
        var page = signedIn(1280);
        page.navigate(world.url + "/console/directories/fleet");
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Run preflight"))
                .click();
        page.getByText("The service account is allowed to reset passwords.").waitFor();
        page.getByText("fleet-1").first().waitFor();
    }

    @Test
    void a_directory_is_connected_with_the_commands_that_the_page_shows(@TempDir Path folder) throws IOException {
        Files.copy(world.ca(), folder.resolve("ca.pem"));
        Files.writeString(folder.resolve("account.password"), "Svc-Quiet-Water-7\n");
        var page = signedIn(1280);
        page.navigate(world.url + "/console/directories/connect");
        page.getByLabel("Kind").selectOption("ldap");
        page.getByLabel("Name").fill("Guided!");
        page.getByText("Use lower-case letters, digits and dashes.").waitFor();
        page.getByLabel("Name").fill("guided");
        page.getByLabel("Title").fill("A guided one");
        page.getByLabel("Servers, in order of preference").fill("ldaps://127.0.0.1:" + world.ldapsPort);
        // Nobody is there, so that nobody has one more account afterwards.
        page.getByLabel("Base").fill("ou=groups,dc=fleet,dc=skerry,dc=test");
        page.getByLabel("Service account").fill("cn=svc-entente,ou=services,dc=fleet,dc=skerry,dc=test");
        page.getByLabel("Correlation attribute").fill("employeeNumber");
        try {
            type(folder, shown(page, 0));
            var code = type(folder, shown(page, 1)).strip();
            var joined = type(folder, shown(page, 2).replace("CODE", code));
            type(folder, shown(page, 3) + " --expect " + World.thumbprint(joined));
            world.start("steward-guided", "bash", "-c", inside(folder, "exec " + shown(page, 4)));
            page.getByText("A guided one is connected.").waitFor();
        } finally {
            world.entente("directory", "remove", "guided", "--yes").expect(0);
            if (world.processes.containsKey("steward-guided")) {
                world.kill("steward-guided");
            }
        }
    }

    // Where each command stands among the steps: what is done shows none any more.
    private static String shown(Page page, int command) {
        var texts = List.of("directory add", "steward admit", "steward join", "steward sign-roster", "steward run");
        return page.locator("pre")
                .filter(new Locator.FilterOptions().setHasText(texts.get(command)))
                .innerText();
    }

    private static String inside(Path folder, String command) {
        return "cd " + folder + " && PATH=" + World.ROOT.resolve("bin") + ":$PATH && " + command;
    }

    private String type(Path folder, String command) {
        return world.shell(inside(folder, command)).expect(0).out();
    }

    @Test
    void a_draft_is_changed_compared_and_published_in_the_browser() {
        var page = signedIn(1280);
        page.navigate(world.url + "/console/policies/files");
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Start a draft"))
                .click();
        page.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName("defaults.yaml").setExact(true))
                .click();
        var text = page.getByRole(AriaRole.TEXTBOX, new Page.GetByRoleOptions().setName("defaults.yaml"));
        text.fill("password: no-such-rules\n");
        save(page);
        page.getByText("there is no rule set").first().waitFor();
        text.fill("password: fleet-passwords\nlimit: { resets: 40 per 24h }\ntell: { person: [reset] }\n");
        save(page);
        page.getByText("there is no rule set")
                .first()
                .waitFor(new Locator.WaitForOptions().setState(WaitForSelectorState.DETACHED));
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Compare and publish"))
                .click();
        page.getByText("limit.resets becomes 40 per 24h (was 5 per 24h)").waitFor();
        page.getByLabel("Note for the history").fill("more resets in the browser");
        page.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName(Pattern.compile("Publish as revision \\d+")))
                .click();
        page.navigate(world.url + "/console/policies");
        page.getByText("One person may reset at most 40 times in 24h.").waitFor();
        page.getByRole(
                        AriaRole.LINK,
                        new Page.GetByRoleOptions().setName("Revisions").setExact(true))
                .click();
        page.getByText("more resets in the browser").waitFor();
        page.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName(Pattern.compile("What revision \\d+ changed")))
                .first()
                .click();
        page.getByText("limit.resets becomes 40 per 24h (was 5 per 24h)").waitFor();

        // And back again, with what that would change.
        var before = page.getByRole(AriaRole.ROW).filter(new Locator.FilterOptions().setHasText("first"));
        before.last()
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Restore"))
                .click();
        page.getByText("limit.resets becomes 5 per 24h (was 40 per 24h)").waitFor();
        page.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName(Pattern.compile("Publish as revision \\d+")))
                .click();
        page.getByRole(AriaRole.CELL, new Page.GetByRoleOptions().setName("Back to revision 1"))
                .first()
                .waitFor();
        page.navigate(world.url + "/console/policies");
        page.getByText("One person may reset at most 5 times in 24h.").waitFor();
    }

    @Test
    void facts_are_changed_in_their_place_a_scope_is_built_and_what_it_would_mean_is_seen_before() {
        var page = signedIn(1280);
        page.navigate(world.url + "/console/policies/scopes");
        press(page, "New scope");
        page.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("first-ring");
        page.getByLabel("Title").fill("First ring");
        page.getByLabel("Row 1: what").selectOption("people");
        page.getByLabel("Row 1: value").fill("astrid.nordvik, liam.ohara");
        page.getByText("People named astrid.nordvik or liam.ohara: 2 now.").waitFor();
        page.getByText("Astrid Nordvik").first().waitFor();
        press(page, "Put into the draft");
        page.getByText("In the draft only: first-ring.").waitFor();

        page.navigate(world.url + "/console/policies");
        press(page, "New policy");
        page.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("first-ring");
        page.getByLabel("For the scope").selectOption("first-ring");
        press(page, "Put into the draft");
        var card = page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("first-ring"));
        card.getByText("covers 0 people").waitFor();
        card.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Move first-ring up"))
                .press("Enter");
        card.getByText("covers 2 people").waitFor();
        press(card, "First ring can't do anything here.");
        change(card, "Allowed actions");
        card.getByLabel("reset", new Locator.GetByLabelOptions().setExact(true)).check();
        put(card);
        card.getByText("First ring can reset their own password.").waitFor();
        press(card, "To reset, they verify with an email code.");
        card.getByLabel("app-code: accepted").check();
        card.getByLabel("How many methods").selectOption("5");
        put(card);
        card.getByText("methods asks for 5, but any-of names only 2").waitFor();
        card.getByLabel("How many methods").selectOption("2");
        put(card);
        card.getByText("To reset, they verify with 2 of email code and app code.")
                .waitFor();
        card.getByText("2 come from deck-crew").waitFor();
        card.getByLabel("Try as one person").fill("astrid.nordvik");
        press(card, "Show");
        card.getByText("A code that never arrives, just like for a name that doesn’t exist.")
                .waitFor();

        page.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Rehearse"))
                .click();
        page.getByText("people can do it now and couldn't any more. Open them.").click();
        page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("The people behind it"))
                .getByText("Astrid Nordvik")
                .waitFor();
        press(page, "Compare and publish");
        var publish = page.getByRole(
                AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile("Publish as revision \\d+")));
        page.getByLabel("If that’s intended, type their number").waitFor();
        assertThat(publish.isDisabled()).isTrue();
        page.getByLabel("If that’s intended, type their number").fill("1");
        assertThat(publish.isDisabled()).isTrue();
        press(page, "Discard the draft");
        page.getByText("There’s no draft.").waitFor();
    }

    @Test
    void two_administrators_change_approve_and_merge_without_losing_anything() {
        world.ententeWith("another-quay-lantern", "administrator", "add", "olav")
                .expect(0);
        var ingeborg = signedIn(1280);
        var olav = signedIn(1280, "olav", "another-quay-lantern");
        try {
            ingeborg.navigate(world.url + "/console/policies/revisions");
            ingeborg.getByLabel("Approval by another administrator").selectOption("weakening");
            ingeborg.navigate(world.url + "/console/policies/files");
            press(ingeborg, "Start a draft");
            edit(ingeborg, "password: fleet-passwords\nlimit: { resets: 30 per 24h }\n");
            olav.navigate(world.url + "/console/policies/files");
            edit(olav, "password: fleet-passwords\nlimit: { resets: 2 per 24h }\n");
            save(ingeborg);
            Installation.waitUntil(
                    Duration.ofSeconds(30),
                    "the first one's change is saved",
                    () -> !world.query("SELECT count(*) FROM draft WHERE files::text LIKE '%30 per 24h%'")
                            .equals("0"));
            save(olav);
            olav.getByText("Someone else changed this draft in the meantime").waitFor();
            press(olav, "Undo changes");
            olav.waitForCondition(() -> defaults(olav).inputValue().contains("30 per 24h"));

            press(ingeborg, "Compare and publish");
            ingeborg.getByText("Another administrator has to approve this").waitFor();
            ingeborg.getByText("Policy deck-crew lets people reset more often.").waitFor();
            assertThat(publish(ingeborg).isDisabled()).isTrue();
            press(ingeborg, "Submit it");
            press(ingeborg, "Approve it");
            ingeborg.getByText("You wrote or submitted this draft, so another administrator has to approve it.")
                    .waitFor();

            // Meanwhile the other one has begun something else, from the same revision.
            olav.navigate(world.url + "/console/policies/rules");
            press(olav, "Another draft");
            olav.getByLabel("Not published").waitFor();
            press(olav, "New network");
            olav.getByLabel("Name of the new network").fill("harbour");
            press(olav, "Make it");
            olav.getByLabel("Ranges").fill("192.0.2.0/24");
            press(olav, "Put into the draft");
            olav.getByText("ranges: 192.0.2.0/24").waitFor();

            olav.getByLabel("Not published").selectOption(new SelectOption().setLabel("draft of ingeborg (ingeborg)"));
            press(olav, "Compare and publish");
            press(olav, "Approve it");
            olav.getByText("Approved by olav").waitFor();
            publish(olav).click();
            olav.getByText("What publishing would change")
                    .waitFor(new Locator.WaitForOptions().setState(WaitForSelectorState.DETACHED));
            assertThat(olav.locator("option").allInnerTexts())
                    .as("what is published is no draft from the same moment on")
                    .noneMatch(name -> name.contains("draft of ingeborg"));

            press(olav, "Compare and publish");
            olav.getByText(Pattern.compile("Revision \\d+ was published after this draft was started"))
                    .waitFor();
            press(olav, "Bring it in");
            olav.getByText(Pattern.compile("Revision \\d+ is brought in.")).waitFor();
            olav.getByText("Network harbour is new").waitFor();
            publish(olav).click();
            olav.navigate(world.url + "/console/policies");
            olav.getByText("One person may reset at most 30 times in 24h.").waitFor();
            olav.navigate(world.url + "/console/policies/revisions");
            olav.getByRole(AriaRole.ROW)
                    .filter(new Locator.FilterOptions().setHasText("olav"))
                    .first()
                    .waitFor();
        } finally {
            world.withoutApproval();
            world.entente("revision", "restore", "1").code();
            ingeborg.close();
            olav.close();
        }
    }

    private static Locator defaults(Page page) {
        return page.getByRole(AriaRole.TEXTBOX, new Page.GetByRoleOptions().setName("defaults.yaml"));
    }

    private static void edit(Page page, String text) {
        page.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName("defaults.yaml").setExact(true))
                .click();
        defaults(page).fill(text);
    }

    private static Locator publish(Page page) {
        return page.getByRole(
                AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile("Publish as revision \\d+")));
    }

    private static void press(Page page, String name) {
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name))
                .first()
                .click();
    }

    private static void press(Locator part, String name) {
        part.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName(name))
                .first()
                .click();
    }

    private static void change(Locator card, String fact) {
        press(card, "Change " + fact);
    }

    private static void put(Locator card) {
        press(card, "Put into the draft");
    }

    private static void save(Page page) {
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Save the draft"))
                .click();
    }

    @Test
    void an_attempt_reads_as_one_timeline() {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address()).choose("Console-Quay-12");
        person.waitForOutcome(Duration.ofSeconds(30));
        var page = signedIn(1280);
        page.navigate(world.url + "/console/audit/attempts/"
                + person.attempt.reference().replace(" ", "%20"));
        page.getByText("Someone started a reset").waitFor();
        page.getByText("The directory shore accepted the new password").waitFor();
        page.getByText("look ").first().waitFor();
    }

    @Test
    void the_described_api_is_the_one_that_is_served() throws IOException {
        var served = ApiPerson.JSON.readTree(
                ConsoleApi.asNobody(world).get("/openapi.json").body());
        var committed = ApiPerson.JSON.readTree(Files.readString(World.ROOT.resolve("console/openapi.json")));
        assertThat(served).isEqualTo(committed);
    }

    @Test
    void nobody_gets_in_without_signing_in_and_errors_are_problem_documents() {
        var answer = ConsoleApi.asNobody(world).get("/people");
        assertThat(answer.statusCode()).isEqualTo(401);
        assertThat(answer.headers().firstValue("content-type").orElse("")).startsWith("application/problem+json");
        assertThat(answer.body()).contains("Sign in first");
        var signedIn = ConsoleApi.signedIn(world);
        assertThat(signedIn.get("/attempts/R00000000").statusCode()).isIn(404, 422);
        assertThat(signedIn.get("/directories/nowhere").body()).contains("urn:entente:problem:directory-not-found");
        assertThat(signedIn.post("/drafts", "{not json").statusCode()).isEqualTo(400);
        assertThat(signedIn.post("/drafts", "{\"nmae\":\"x\"}").statusCode()).isEqualTo(400);
        assertThat(signedIn.post("/drafts", "x".repeat(5_000_000)).statusCode()).isEqualTo(413);
    }

    @Test
    void a_draft_that_was_changed_meanwhile_is_not_overwritten() {
        var signedIn = ConsoleApi.signedIn(world);
        var id = ApiPerson.JSON
                .readTree(signedIn.post("/drafts", "{\"name\":\"two\"}").body())
                .path("id")
                .asString();
        var path = "/drafts/" + id + "/files";
        var files = Map.of("files", Map.of());
        assertThat(signedIn.put(path, files, "\"0\"").statusCode()).isEqualTo(200);
        assertThat(signedIn.put(path, files, "\"7\"").statusCode()).isEqualTo(412);
        assertThat(signedIn.put(path, files, "\"7\"").body())
                .contains("Someone else changed this draft in the meantime");
        world.entente("draft", "discard", "--draft", id).expect(0);
    }
}
