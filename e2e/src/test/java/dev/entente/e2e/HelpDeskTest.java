package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import dev.entente.wire.AccessApi;
import dev.entente.wire.HelpDeskApi;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Confirmation by staff, and everything that staff must not be able to do. */
class HelpDeskTest extends PublishingTest {
    private static final String CHECK = "They were called back on the number that the directory has";
    private static final String SECOND = "They named their ship";
    private static final String PROVE = "prove:\n  reset: { methods: 2, any-of: [email-code, staff-confirmation] }\n"
            + "help-desk:\n  checklist:\n    - " + CHECK + "\n    - " + SECOND + "\n";
    private static final String PASSWORD = ConsoleApi.STAFF_PASSWORD;

    private String login;
    private ConsoleApi staff;

    @BeforeEach
    void somebodyOfTheHelpDesk() {
        login = "desk-" + UUID.randomUUID().toString().substring(0, 8);
        staff = hired(login, List.of(), "orla.sandvik");
    }

    @AfterEach
    void gone() {
        api.delete("/administrators/" + login);
    }

    private ConsoleApi hired(String name, List<String> scopes, String own) {
        return ConsoleApi.staff(world, api, name, scopes, own);
    }

    /** Somebody who has proved their mailbox and asks the help desk. */
    private ApiPerson asking(Crew crew) {
        var person = new ApiPerson(world);
        person.prove(crew.shore(), crew.address());
        person.attempt = person.ask("staff-confirmation").as(PortalApi.Attempt.class);
        Installation.waitUntil(SOON, "the request waits", () -> find(api, crew, number(person)) == 200);
        return person;
    }

    /** A person with another manager than MANAGER's own account. */
    private Crew managed() {
        var crew = world.crew();
        return MANAGER.startsWith(crew.shore() + "@") ? world.crew() : crew;
    }

    private static String number(ApiPerson person) {
        return person.attempt.challenge().parts().get("number");
    }

    private static int find(ConsoleApi by, Crew crew, String number) {
        return by.post("/help-desk/requests/find", json(crew, number)).statusCode();
    }

    private static String json(Crew crew, String number) {
        return ApiPerson.JSON.writeValueAsString(new HelpDeskApi.Caller(crew.shore(), number));
    }

    private static HelpDeskApi.HelpRequest found(ConsoleApi by, Crew crew, String number) {
        var answer = by.post("/help-desk/requests/find", json(crew, number));
        assertThat(answer.statusCode()).as(answer.body()).isEqualTo(200);
        return ApiPerson.JSON.readValue(answer.body(), HelpDeskApi.HelpRequest.class);
    }

    private static java.net.http.HttpResponse<String> confirm(ConsoleApi by, UUID id, String... checked) {
        return by.post(
                "/help-desk/requests/" + id + "/confirmation",
                ApiPerson.JSON.writeValueAsString(new HelpDeskApi.StaffConfirmation(List.of(checked), "by telephone")));
    }

    private static ApiPerson.Answer look(ApiPerson person) {
        return person.call(
                "POST",
                "/attempt/challenges/" + person.attempt.challenge().id() + "/answers",
                new PortalApi.Answer(null, null));
    }

    @Test
    void a_caller_reads_the_number_and_goes_on_in_their_own_browser() throws IOException {
        var crew = world.crew();
        pilot(PROVE, crew);
        var person = new Person(world.browser().page(390, 844), world.url);
        var before = world.mailbox.to(crew.address()).size();
        person.identify(crew.shore(), "reset", "email-code", "Check your e-mail");
        person.typeCode(world.mailbox.nextCode(crew.address(), before));
        var choice = person.page().locator("[data-method=staff-confirmation]");
        person.heading("Call the help desk").or(choice).first().waitFor();
        if (choice.isVisible()) {
            choice.click();
        }
        person.heading("Call the help desk").waitFor();
        var number = person.page().locator("[role=img]").innerText().strip();
        var reference = person.reference();

        var desk = world.browser().page(1280, 800);
        desk.navigate(world.url + "/console/");
        desk.getByLabel("Sign-in name").fill(login);
        desk.getByLabel("Password").fill(PASSWORD);
        desk.keyboard().press("Enter");
        desk.getByLabel("Caller’s sign-in name").fill(crew.shore());
        assertThat(desk.getByRole(AriaRole.NAVIGATION).innerText())
                .contains("Help desk")
                .doesNotContain("Policies");
        desk.getByLabel("Number on the caller’s screen").fill(number);
        desk.keyboard().press("Enter");
        var confirm = desk.getByRole(
                AriaRole.BUTTON,
                new Page.GetByRoleOptions().setName(java.util.regex.Pattern.compile("^Confirm that it")));
        confirm.waitFor();
        assertThat(confirm.isDisabled()).isTrue();
        desk.getByLabel(CHECK).check();
        desk.getByLabel(SECOND).check();
        confirm.click();
        desk.getByText("goes on in their own browser").waitFor();

        person.choose("Lantern-Quay-4-Pines");
        assertThat(person.outcome()).isEqualTo("Your new password works");
        assertThat(world.entente("attempt", "show", reference).out())
                .contains(login + " opened the request at the help desk")
                .contains(login + " confirmed who it is, by everything on the checklist");
    }

    @Test
    void the_command_line_shows_the_checklist_and_confirms_only_all_of_it() throws IOException {
        var crew = world.crew();
        pilot(PROVE, crew);
        var person = asking(crew);
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);
        var shown =
                world.entente("helpdesk", "open", crew.shore(), number(person)).expect(0);
        assertThat(shown.out())
                .contains("wants to reset")
                .contains("1. " + CHECK)
                .contains("2. " + SECOND);
        assertThat(world.entente("helpdesk", "confirm", crew.shore(), number(person), "--checked", "1,2")
                        .err())
                .as("an administrator who has not said which person they are")
                .contains("It isn't known which person you are");
        var asStaff = "ENTENTE_TOKEN=" + staff.token() + " " + World.ROOT + "/bin/entente --server " + world.url
                + " helpdesk confirm " + crew.shore() + " " + number(person) + " --checked ";
        assertThat(world.shell(asStaff + "1").code()).isEqualTo(1);
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);
        world.shell(asStaff + "1,2").expect(0);
        assertThat(look(person).as(PortalApi.Attempt.class).state()).isEqualTo("proved");
        assertThat(world.entente("helpdesk", "open", crew.shore(), number(person))
                        .code())
                .as("it is over")
                .isEqualTo(1);
    }

    @Test
    void staff_can_do_nothing_else() throws IOException {
        var crew = world.crew();
        pilot(PROVE, crew);
        for (var path :
                List.of("/people?search=a", "/administrators", "/events", "/directories", "/switches", "/today")) {
            var answer = staff.get(path);
            assertThat(answer.statusCode()).as(path).isEqualTo(403);
            assertThat(answer.body()).contains("not-for-staff");
        }
        assertThat(staff.post(
                                "/administrators",
                                ApiPerson.JSON.writeValueAsString(
                                        new AccessApi.NewAdministrator("mine", "Mine", PASSWORD)))
                        .statusCode())
                .isEqualTo(403);
        for (var path : List.of(
                "/help-desk/../administrators", "/help-desk/%2e%2e/administrators", "/help-desk/..;/administrators")) {
            assertThat(staff.get(path).statusCode()).as(path).isGreaterThanOrEqualTo(400);
        }
        assertThat(staff.get("/session").body()).contains("\"role\":\"staff\"");
        assertThat(api.post(
                                "/administrators",
                                ApiPerson.JSON.writeValueAsString(new AccessApi.NewAdministrator(
                                        "nobody-known", null, PASSWORD, AccessApi.STAFF, List.of(), null)))
                        .body())
                .contains("own-login-missing");
    }

    @Test
    void nobody_confirms_themselves_nor_people_outside_their_scopes() throws IOException {
        var crew = world.crew();
        var other = world.crew();
        pilot(PROVE, crew);
        var person = asking(crew);
        var own = login + "-own";
        var elsewhere = login + "-elsewhere";
        var gone = login + "-gone";
        try {
            // By the name of another of the person's accounts, too.
            var self = hired(own, List.of(), crew.fleet());
            assertThat(self.post("/help-desk/requests/find", json(crew, number(person)))
                            .body())
                    .contains("own-request");
            var request = found(staff, crew, number(person));
            assertThat(confirm(self, request.id(), CHECK, SECOND).body()).contains("own-request");
            assertThat(hired(elsewhere, List.of("deck-crew-of-nowhere"), other.shore())
                            .post("/help-desk/requests/find", json(crew, number(person)))
                            .body())
                    .as("a scope that there is not holds nobody")
                    .contains("outside-scopes");
            assertThat(hired(login + "-none", List.of("deck-crew-of-nowhere"), other.shore())
                            .post("/help-desk/requests/find", json(crew, "000000"))
                            .body())
                    .as("without the number nothing is said of anybody")
                    .contains("request-missing")
                    .doesNotContain("outside-scopes");
            assertThat(find(hired(gone, List.of("pilot"), other.shore()), crew, number(person)))
                    .as("within their scopes")
                    .isEqualTo(200);
        } finally {
            List.of(own, elsewhere, gone, login + "-none").forEach(name -> api.delete("/administrators/" + name));
        }
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);
    }

    @Test
    void who_is_privileged_has_to_be_confirmed_by_two() throws IOException {
        var crew = world.crew();
        var managed = managed();
        pilot(PROVE + "  manager: true\n", crew, managed);
        var person = asking(crew);
        var second = login + "-second";
        try {
            world.entente(
                            "directory",
                            "change",
                            "fleet",
                            "--protect-group",
                            "cn=Deck,ou=groups,dc=fleet,dc=skerry,dc=test")
                    .expect(0);
            var request = found(staff, crew, number(person));
            assertThat(request.privileged()).isTrue();
            assertThat(confirm(staff, request.id(), CHECK, SECOND).body()).contains("\"complete\":false");
            assertThat(look(person).status()).as("nothing yet").isEqualTo(202);
            assertThat(confirm(staff, request.id(), CHECK, SECOND).body()).contains("second-member-wanted");
            var other = hired(second, List.of(), "oda.leask");
            assertThat(found(other, crew, number(person)).confirmedBy()).isEqualTo(login);
            assertThat(confirm(other, request.id(), CHECK).body()).contains("unchecked");
            assertThat(confirm(other, request.id(), CHECK, SECOND).body()).contains("\"complete\":true");
            assertThat(look(person).as(PortalApi.Attempt.class).state()).isEqualTo("proved");
            oneHumanIsNotTwo(managed);
        } finally {
            world.entente("directory", "change", "fleet", "--protect-group", "").expect(0);
            api.delete("/administrators/" + second);
        }
    }

    @Test
    void whoever_confirms_is_known_as_a_person() throws IOException {
        var crew = world.crew();
        pilot(PROVE, crew);
        var nobody = hired("unknown-" + login, List.of(), "nobody.of.ours");
        try {
            var person = asking(crew);
            var request = found(nobody, crew, number(person));
            assertThat(confirm(nobody, request.id(), CHECK, SECOND).body()).contains("confirmer-unknown");
            // An administrator who has not said which person they are is no better.
            assertThat(confirm(api, request.id(), CHECK, SECOND).body()).contains("confirmer-unknown");
        } finally {
            api.delete("/administrators/unknown-" + login);
        }
    }

    /** A manager's link and the same person's login here count once; it takes another person as the second. */
    private void oneHumanIsNotTwo(Crew crew) {
        var managing = hired("managing-" + login, List.of(), "birger.rennie");
        try {
            var before = world.mailbox.to(MANAGER).size();
            var person = asking(crew);
            var request = found(staff, crew, number(person));
            var both = List.of(CHECK, SECOND);
            assertThat(manager(
                                    "",
                                    new HelpDeskApi.ManagerConfirmation(
                                            managersToken(before), number(person), both, null))
                            .as(HelpDeskApi.Confirmed.class)
                            .complete())
                    .isFalse();
            assertThat(confirm(managing, request.id(), CHECK, SECOND).body()).contains("second-member-wanted");
            assertThat(confirm(staff, request.id(), CHECK, SECOND).body()).contains("\"complete\":true");
        } finally {
            api.delete("/administrators/managing-" + login);
        }
    }

    @Test
    void to_deny_it_is_an_alarm_and_numbers_are_not_guessed() throws IOException {
        var crew = world.crew();
        pilot(PROVE, crew);
        var person = asking(crew);
        var before = world.mailbox.to(crew.address()).size();
        var request = found(staff, crew, number(person));
        assertThat(staff.post("/help-desk/requests/" + request.id() + "/denial", "{\"note\":\"another voice\"}")
                        .statusCode())
                .isEqualTo(204);
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);
        assertThat(world.mailbox.next(crew.address(), before).text()).contains("denied by the help desk");
        assertThat(confirm(staff, request.id(), CHECK, SECOND).statusCode()).isEqualTo(409);

        var again = asking(crew);
        var wrong = number(again).equals("123456") ? "123457" : "123456";
        var status = 0;
        for (var round = 0; round < 21; round++) {
            status = find(staff, crew, wrong);
        }
        assertThat(status).isEqualTo(429);
        assertThat(find(staff, crew, number(again)))
                .as("also the right one now")
                .isEqualTo(429);
        assertThat(find(api, crew, number(again)))
                .as("for others nothing changed")
                .isEqualTo(200);
    }

    @Test
    void a_name_that_means_nobody_gets_a_number_and_staff_find_nothing() throws IOException {
        var crew = world.crew();
        pilot("prove:\n  reset: { methods: 2, any-of: [staff-confirmation, email-code] }\n", crew);
        var nobody = new ApiPerson(world);
        nobody.start("no.such.person");
        nobody.attempt = nobody.ask("staff-confirmation").as(PortalApi.Attempt.class);
        assertThat(number(nobody)).matches("[1-9][0-9]{5}");
        assertThat(look(nobody).status()).as("nothing yet").isEqualTo(202);
        assertThat(staff.post(
                                "/help-desk/requests/find",
                                ApiPerson.JSON.writeValueAsString(
                                        new HelpDeskApi.Caller("no.such.person", number(nobody))))
                        .body())
                .contains("request-missing");
    }

    private static final Pattern MANAGERS_LINK = Pattern.compile("/confirm#(\\S+)");
    private static final String MANAGER = "birger.rennie@mail.skerry.test";

    private ApiPerson.Answer manager(String path, Object body) {
        return new ApiPerson(world).call("POST", "/confirmations" + path, body);
    }

    /** How many requests came to the manager; other mail may come to them as well. */
    private long asked() {
        return world.mailbox.to(MANAGER).stream()
                .filter(mail -> MANAGERS_LINK.matcher(mail.text()).find())
                .count();
    }

    private String managersToken(int before) {
        return world.mailbox.next(MANAGER, before, MANAGERS_LINK);
    }

    @Test
    void a_manager_confirms_by_the_same_list_and_the_number_where_the_policy_lets_them() throws IOException {
        var crew = managed();
        pilot(PROVE + "  manager: true\n", crew);
        var before = world.mailbox.to(MANAGER).size();
        var person = asking(crew);
        var token = managersToken(before);
        var request = manager("/find", new HelpDeskApi.ManagerLink(token)).as(HelpDeskApi.HelpRequest.class);
        assertThat(request.checklist()).containsExactly(CHECK, SECOND);
        var wrong = number(person).equals("100000") ? "100001" : "100000";
        var both = List.of(CHECK, SECOND);
        assertThat(manager("", new HelpDeskApi.ManagerConfirmation(token, wrong, both, null))
                        .body())
                .contains("number-wrong");
        assertThat(manager("", new HelpDeskApi.ManagerConfirmation(token, number(person), List.of(CHECK), null))
                        .body())
                .contains("unchecked");
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);

        var page = world.browser().page(390, 844);
        page.navigate(world.url + "/confirm#" + token);
        page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("Is it " + name(crew) + "?"))
                .waitFor();
        page.getByLabel(CHECK).check();
        page.getByLabel(SECOND).check();
        page.getByLabel("Number on their screen").fill(number(person));
        page.keyboard().press("Enter");
        page.getByText("It’s confirmed").waitFor();
        var proved = look(person);
        assertThat(proved.status()).as(proved.body()).isEqualTo(200);
        assertThat(world.entente("attempt", "show", person.attempt.reference())
                        .expect(0)
                        .out())
                .contains("manager birger.rennie");
        assertThat(manager("/find", new HelpDeskApi.ManagerLink(token)).body()).contains("request-over");
    }

    @Test
    void three_wrong_numbers_or_a_denial_end_what_a_manager_was_asked() throws IOException {
        var crew = managed();
        pilot(PROVE + "  manager: true\n", crew);
        var before = world.mailbox.to(MANAGER).size();
        var person = asking(crew);
        var token = managersToken(before);
        var wrong = number(person).equals("100000") ? "100001" : "100000";
        for (var i = 0; i < 3; i++) {
            manager("", new HelpDeskApi.ManagerConfirmation(token, wrong, List.of(CHECK, SECOND), null));
        }
        assertThat(manager("", new HelpDeskApi.ManagerConfirmation(token, number(person), List.of(CHECK, SECOND), null))
                        .body())
                .contains("request-over");
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);

        var again = world.mailbox.to(MANAGER).size();
        var second = asking(crew);
        var other = managersToken(again);
        assertThat(manager("/denial", new HelpDeskApi.ManagerLink(other)).status())
                .isEqualTo(204);
        assertThat(look(second).status()).as("nothing yet").isEqualTo(202);
        assertThat(manager("/find", new HelpDeskApi.ManagerLink(other)).body()).contains("request-over");
        assertThat(manager("/find", new HelpDeskApi.ManagerLink("made-up")).body())
                .contains("request-over");
    }

    @Test
    void no_manager_is_written_to_for_strangers_or_where_the_policy_says_nothing() throws IOException {
        var crew = managed();
        pilot(PROVE + "  manager: true\n", crew);
        var before = asked();
        var stranger = new ApiPerson(world);
        stranger.start(crew.shore());
        stranger.attempt = stranger.ask("staff-confirmation").as(PortalApi.Attempt.class);
        Installation.waitUntil(SOON, "the request waits", () -> find(api, crew, number(stranger)) == 200);
        pilot(PROVE, crew);
        asking(crew);
        // What is sent later came later: a mail to them would be there by now.
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        assertThat(person.attempt.proved()).containsExactly("email-code");
        assertThat(asked()).isEqualTo(before);
    }

    @Test
    void what_the_help_desk_hears_is_compared_leniently_and_shown_to_nobody() throws IOException {
        var crew = world.crew();
        pilot(PROVE.replace("help-desk:", "  details: { any-of: [email-code] }\nhelp-desk:"), crew);
        var owner = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = owner.setUp("staff-confirmation", null);
        assertThat(offered.parts()).containsEntry("register", "2").containsKey("question.grandparents-town.en");
        var set = owner.call(
                "POST",
                "/attempt/enrolments/" + offered.id() + "/confirmation",
                new PortalApi.Answer(
                        null,
                        Map.of(
                                "1.question", "grandparents-town",
                                "1.answer", "Kirkwall",
                                "2.question", "childhood-friend",
                                "2.answer", "Philippa Sørås")));
        assertThat(set.status()).as(set.body()).isEqualTo(200);
        assertThat(set.body()).contains("Questions for the help desk");
        owner.call("POST", "/attempt/end", null);

        var person = asking(crew);
        var request = found(staff, crew, number(person));
        assertThat(request.spoken()).hasSize(2);
        assertThat(request.spoken().get(0)).containsEntry("en", "In which town did your grandparents live?");
        assertThat(heard(request.id(), "Stromness", "Filipa Soras").body()).contains("answers-wrong");
        assertThat(confirm(staff, request.id(), CHECK, SECOND).body()).contains("answers-wrong");
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);
        assertThat(heard(request.id(), "kirkwal", "filipa soras").body()).contains("true");
        assertThat(look(person).status()).isEqualTo(200);

        var other = asking(crew);
        var again = found(staff, crew, number(other));
        for (var i = 0; i < 3; i++) {
            assertThat(heard(again.id(), "no", "idea").body()).contains("answers-wrong");
        }
        assertThat(heard(again.id(), "kirkwall", "philippa soras").body()).contains("request-over");
        assertThat(look(other).status()).as("nothing yet").isEqualTo(202);
    }

    private java.net.http.HttpResponse<String> heard(UUID id, String... answers) {
        return staff.post(
                "/help-desk/requests/" + id + "/confirmation",
                ApiPerson.JSON.writeValueAsString(
                        new HelpDeskApi.StaffConfirmation(List.of(CHECK, SECOND), List.of(answers), null)));
    }
}
