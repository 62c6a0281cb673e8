package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

/** Security questions: set up by the rules, asked after another proof only, the same ones until they were answered. */
class QuestionsTest extends PublishingTest {
    private static final String PROVE = "prove:\n  reset: { methods: 2, any-of: [email-code, questions] }\n"
            + "  details: { any-of: [email-code] }\n";
    private static final String LIST = """
            register: 4
            ask: 2
            own: 1
            shortest-answer: 4
            blocked-answers: [Blue]
            questions:
              ship: { texts: { en: Which ship did you first serve on?, nb: Hvilket skip var ditt første? } }
              book: { texts: { en: Which book did you read twice? } }
              meal: { texts: { en: What was cooked on special days? } }
              pin: { digits: 6, texts: { en: Your personal PIN } }
            """;
    private static final Map<String, String> ANSWERS = Map.of(
            "Which ship did you first serve on?", "Norda-Lys",
            "Which book did you read twice?", "The Tide Tables",
            "Your personal PIN", "830164",
            "What was our dog's name?", "Bosun");

    private void published(Crew... crew) throws IOException {
        write("questions.yaml", LIST);
        pilot(PROVE, crew);
    }

    private static PortalApi.Answer chosen(String... questionsAndAnswers) {
        var parts = new LinkedHashMap<String, String>();
        for (var i = 0; i < questionsAndAnswers.length; i += 2) {
            var n = i / 2 + 1;
            var question = questionsAndAnswers[i];
            parts.put(n + (question.contains(" ") ? ".own" : ".question"), question);
            parts.put(n + ".answer", questionsAndAnswers[i + 1]);
        }
        return new PortalApi.Answer(null, parts);
    }

    private static final PortalApi.Answer GOOD = four("Norda-Lys", "830164");

    private static PortalApi.Answer four(String ship, String pin) {
        return chosen("ship", ship, "book", "The Tide Tables", "pin", pin, "What was our dog's name?", "Bosun");
    }

    private ApiPerson owner(Crew crew) {
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = person.setUp("questions", null);
        assertThat(offered.parts())
                .containsEntry("register", "4")
                .containsEntry("own", "1")
                .containsEntry("digits.pin", "6");
        assertThat(offered.parts().get("question.ship.nb")).startsWith("Hvilket");
        assertThat(person.call("POST", "/attempt/enrolments/" + offered.id() + "/confirmation", GOOD)
                        .status())
                .isEqualTo(200);
        person.call("POST", "/attempt/end", null);
        return person;
    }

    /** What is asked, in English; the attempt has proved a mailbox. */
    private List<String> asked(ApiPerson person) {
        person.attempt = person.ask("questions").as(PortalApi.Attempt.class);
        var parts = person.attempt.challenge().parts();
        assertThat(parts).containsEntry("count", "2");
        return List.of(text(parts, "1"), text(parts, "2"));
    }

    private static String text(Map<String, String> parts, String n) {
        return parts.getOrDefault(n + ".en", parts.getOrDefault(n + ".own", "none"));
    }

    private ApiPerson.Answer answer(ApiPerson person, List<String> asked, Map<String, String> answers) {
        var parts = new HashMap<String, String>();
        for (var i = 0; i < asked.size(); i++) {
            parts.put(String.valueOf(i + 1), answers.getOrDefault(asked.get(i), "no idea"));
        }
        return person.call(
                "POST",
                "/attempt/challenges/" + person.attempt.challenge().id() + "/answers",
                new PortalApi.Answer(null, parts));
    }

    private ApiPerson proved(Crew crew, ApiPerson owner) {
        var person = new ApiPerson(world);
        person.device = owner.device;
        return person.prove(crew.shore(), crew.address());
    }

    @Test
    void what_others_know_and_what_is_no_answer_is_refused_and_a_number_may_have_spaces() throws IOException {
        var crew = world.crew();
        // All are asked, so that the number is among them.
        write("questions.yaml", LIST.replace("ask: 2", "ask: 4"));
        pilot(PROVE, crew);
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = person.setUp("questions", null);
        var path = "/attempt/enrolments/" + offered.id() + "/confirmation";
        var surname = crew.shore().replaceAll("^.*\\.", "");
        for (var wrong : List.of("aaaa", "xyxyxy", "qwerty", "abcdef", surname, crew.shore(), surname.toUpperCase())) {
            var answer = person.call("POST", path, four(wrong, "830164"));
            assertThat(answer.status()).as(wrong + ": " + answer.body()).isEqualTo(422);
            assertThat(answer.body()).as(wrong).containsAnyOf("answer-blocked", "answer-personal");
        }
        for (var wrong : List.of("123456", "654321", "111111")) {
            assertThat(person.call("POST", path, four("Norda-Lys", wrong)).status())
                    .as(wrong)
                    .isEqualTo(422);
        }
        assertThat(person.call("POST", path, four("Norda-Lys", "83 01 64")).status())
                .isEqualTo(200);
        person.call("POST", "/attempt/end", null);
        var typed = new HashMap<>(ANSWERS);
        typed.put("Your personal PIN", "8301 64");
        var again = proved(crew, person);
        again.attempt = again.ask("questions").as(PortalApi.Attempt.class);
        var parts = again.attempt.challenge().parts();
        var asked = IntStream.rangeClosed(1, 4)
                .mapToObj(n -> text(parts, String.valueOf(n)))
                .toList();
        assertThat(parts).containsEntry("digits." + (asked.indexOf("Your personal PIN") + 1), "6");
        assertThat(answer(again, asked, typed).status()).as(asked.toString()).isEqualTo(200);
    }

    @Test
    void a_person_chooses_questions_on_a_page_and_gets_in_by_two_of_them() throws IOException {
        var crew = world.crew();
        published(crew);
        var person = new Person(world.browser().page(390, 844), world.url);
        var before = world.mailbox.to(crew.address()).size();
        person.identify(crew.shore(), "details");
        person.typeCode(world.mailbox.nextCode(crew.address(), before));
        person.button("Set up security questions").click();
        var page = person.page();
        page.getByLabel("Question 1", new com.microsoft.playwright.Page.GetByLabelOptions().setExact(true))
                .selectOption("ship");
        page.getByLabel("Answer 1").fill("ship");
        page.getByLabel("Question 2", new com.microsoft.playwright.Page.GetByLabelOptions().setExact(true))
                .selectOption("book");
        page.getByLabel("Answer 2").fill("The Tide Tables");
        page.getByLabel("Question 3", new com.microsoft.playwright.Page.GetByLabelOptions().setExact(true))
                .selectOption("pin");
        page.getByLabel("Answer 3").fill("830164");
        page.getByLabel("Question 4", new com.microsoft.playwright.Page.GetByLabelOptions().setExact(true))
                .selectOption("own");
        page.getByLabel("Your own question 4").fill("What was our dog's name?");
        page.getByLabel("Answer 4").fill("Bosun");
        person.button("Save").click();
        page.getByText("The answer uses a word of the question").waitFor();
        page.getByLabel("Answer 1").fill("Norda-Lys");
        person.button("Save").click();
        person.waitForText("Your questions are set up");
        person.button("Done").click();
        person.heading("You’re all set").waitFor();
        page.context()
                .clearCookies(new com.microsoft.playwright.BrowserContext.ClearCookiesOptions()
                        .setName("__Host-entente-attempt"));

        before = world.mailbox.to(crew.address()).size();
        person.identify(crew.shore(), "reset", "email-code", "Check your e-mail");
        person.typeCode(world.mailbox.nextCode(crew.address(), before));
        var choice = page.locator("[data-method=questions]");
        person.heading("Answer your questions").or(choice).first().waitFor();
        if (choice.isVisible()) {
            choice.click();
        }
        person.heading("Answer your questions").waitFor();
        for (var question : ANSWERS.entrySet()) {
            var field = page.getByLabel(question.getKey());
            if (field.count() > 0) {
                // However it is written.
                field.fill(
                        question.getValue().toUpperCase(java.util.Locale.ROOT).replace("-", " "));
            }
        }
        person.button("Continue").click();
        person.choose("Lantern-Quay-4-Pines");
        assertThat(person.outcome()).isEqualTo("Your new password works");
    }

    @Test
    void the_same_are_asked_until_they_were_answered_and_then_others_come() throws IOException {
        var crew = world.crew();
        published(crew);
        var owner = owner(crew);
        var first = proved(crew, owner);
        var asked = asked(first);
        assertThat(answer(first, asked, Map.of()).status()).isEqualTo(422);
        var half = new HashMap<>(ANSWERS);
        half.remove(asked.get(1));
        assertThat(answer(first, asked, half).status()).as("one of two").isEqualTo(422);
        var second = proved(crew, owner);
        assertThat(asked(second)).as("in another attempt").isEqualTo(asked);
        assertThat(answer(second, asked, ANSWERS).as(PortalApi.Attempt.class).state())
                .isEqualTo("proved");
        var seen = new TreeSet<>(asked);
        for (var round = 0; round < 8 && seen.size() < 4; round++) {
            var next = proved(crew, owner);
            var now = asked(next);
            seen.addAll(now);
            assertThat(answer(next, now, ANSWERS).status()).isEqualTo(200);
        }
        assertThat(seen).as("over a few rounds").hasSizeGreaterThan(2);
    }

    @Test
    void nothing_of_them_is_shown_before_something_was_proved_and_nothing_kept_bare() throws IOException {
        var crew = world.crew();
        published(crew);
        owner(crew);
        var stranger = new ApiPerson(world);
        assertThat(stranger.start(crew.shore()).as(PortalApi.Attempt.class).methods())
                .doesNotContain("questions");
        assertThat(stranger.ask("questions").body()).contains("method-not-offered");
        assertThat(world.query("SELECT count(*) FROM security_answer WHERE answer_hash LIKE '$argon2id$%'"))
                .isNotEqualTo("0");
        assertThat(world.query("SELECT encode(texts, 'escape') || answer_hash FROM security_answer"))
                .doesNotContainIgnoringCase("bosun")
                // With its space: three letters alone stand in a hash by chance.
                .doesNotContainIgnoringCase("our dog");
        write(
                "policies/pilot.yaml",
                "policy: pilot\nwho: scope pilot\nallow: [reset]\ndeliver: { to: [shore] }\nprove:\n  reset: { any-of: [questions] }\n");
        world.entente("draft", "start", "--name", "questions first").expect(0);
        var loaded = world.entente("draft", "load", folder.toString());
        assertThat(loaded.out() + loaded.err()).contains("can't come first");
    }

    @Test
    void answers_that_are_easy_to_guess_are_refused_beside_their_question() throws IOException {
        var crew = world.crew();
        published(crew);
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var id = person.setUp("questions", null).id();
        var wrong = new LinkedHashMap<PortalApi.Answer, String>();
        wrong.put(chosen("ship", "Norda-Lys"), "too-few-questions");
        wrong.put(chosen("ship", "abc", "book", "Tides", "pin", "830164", "meal", "Fish pie"), "answer-too-short");
        wrong.put(chosen("ship", "Blue", "book", "Tides", "pin", "830164", "meal", "Fish pie"), "answer-blocked");
        wrong.put(chosen("ship", "Tides", "book", "tides.", "pin", "830164", "meal", "Fish pie"), "answer-twice");
        wrong.put(chosen("ship", "Lys", "ship", "Tides", "pin", "830164", "meal", "Fish pie"), "answer-too-short");
        wrong.put(chosen("ship", "Norda", "ship", "Tides", "pin", "830164", "meal", "Fish pie"), "question-twice");
        wrong.put(chosen("ship", "Norda", "book", "Tides", "pin", "111111", "meal", "Fish pie"), "answer-blocked");
        wrong.put(chosen("ship", "Norda", "book", "Tides", "pin", "83016", "meal", "Fish pie"), "answer-too-short");
        wrong.put(
                chosen(
                        "What is this here?",
                        "Norda",
                        "Is that one here?",
                        "Tides",
                        "pin",
                        "830164",
                        "meal",
                        "Fish pie"),
                "too-many-own-questions");
        wrong.put(chosen("ship", "x".repeat(101), "book", "Tides", "pin", "830164", "meal", "Pie"), "answer-too-long");
        for (var one : wrong.entrySet()) {
            var refused = person.call("POST", "/attempt/enrolments/" + id + "/confirmation", one.getKey());
            assertThat(refused.status()).isEqualTo(422);
            assertThat(refused.body()).contains(one.getValue());
        }
        assertThat(person.call("POST", "/attempt/enrolments/" + id + "/confirmation", GOOD)
                        .status())
                .isEqualTo(200);
    }

    @Test
    void the_list_goes_out_to_a_table_and_comes_back_with_another_language() throws IOException {
        write("questions.yaml", LIST);
        publish();
        world.entente("draft", "start", "--name", "questions").expect(0);
        var table = folder.resolveSibling(folder.getFileName() + ".csv");
        world.entente("draft", "export-questions", table.toString()).expect(0);
        var csv = java.nio.file.Files.readString(table);
        assertThat(csv).startsWith("name,digits,en,nb").contains("pin,6,Your personal PIN,");
        java.nio.file.Files.writeString(
                table,
                csv.replace("name,digits,en,nb", "name,digits,en,nb,fo")
                        .replaceAll("(?m)^ship,(.*?)\r?$", "ship,$1,Hvat var títt fyrsta skip?"));
        world.entente("draft", "import-questions", table.toString()).expect(0);
        world.entente("draft", "export", folder.toString()).expect(0);
        assertThat(java.nio.file.Files.readString(folder.resolve("questions.yaml")))
                .contains("fo: Hvat var títt fyrsta skip?")
                .contains("register: 4")
                .contains("digits: 6");
        java.nio.file.Files.writeString(table, "name,en\nbook,Which?\nbook,Which?\n");
        assertThat(world.entente("draft", "import-questions", table.toString()).err())
                .contains("appears twice");
        java.nio.file.Files.writeString(table, "question\nWhich?\n");
        assertThat(world.entente("draft", "import-questions", table.toString()).err())
                .contains("has to name the columns");
        java.nio.file.Files.delete(table);
    }

    @Test
    void new_ones_replace_those_of_before_and_removed_ones_count_no_more() throws IOException {
        var crew = world.crew();
        published(crew);
        var owner = owner(crew);
        var again = new ApiPerson(world).wants("details");
        again.device = owner.device;
        again.prove(crew.shore(), crew.address());
        var offered = again.setUp("questions", null);
        assertThat(again.call(
                                "POST",
                                "/attempt/enrolments/" + offered.id() + "/confirmation",
                                chosen("ship", "Havbris", "book", "Knots", "pin", "529138", "meal", "Fish pie"))
                        .json()
                        .valueStream()
                        .filter(m -> m.path("method").asString().equals("questions")))
                .hasSize(1);
        again.call("POST", "/attempt/end", null);
        var person = proved(crew, owner);
        var asked = asked(person);
        assertThat(answer(person, asked, ANSWERS).status()).isEqualTo(422);
        assertThat(answer(
                                person,
                                asked,
                                Map.of(
                                        "Which ship did you first serve on?", "havbris",
                                        "Which book did you read twice?", "KNOTS",
                                        "Your personal PIN", "529138",
                                        "What was cooked on special days?", "fish  pie"))
                        .status())
                .isEqualTo(200);
    }

    @Test
    void answers_that_an_administrator_brings_in_are_good_for_one_time() throws IOException {
        var crew = world.crew();
        var own = world.crew();
        published(crew, own);
        owner(own);
        var file = folder.resolve("answers.csv");
        java.nio.file.Files.writeString(
                file,
                "login,question,answer\n"
                        + crew.shore() + ",ship,Norda-Lys\n"
                        + crew.shore() + ",book,The Tide Tables\n"
                        + own.shore() + ",ship,Kraken\n"
                        + own.shore() + ",book,The Long Ships\n"
                        + "nobody.at.all,ship,Kraken\n"
                        + "nobody.at.all,book,The Long Ships\n"
                        + "oda.leask,ship,ship\n"
                        + "oda.leask,cat,Bosun\n");
        var before = world.mailbox.to(crew.address()).size();
        var said = world.entente("answers", "import", file.toString());
        assertThat(said.code()).isEqualTo(1);
        assertThat(said.out())
                .contains("imported")
                .contains("they have set up questions of their own already")
                .contains("no one signs in as nobody.at.all")
                .contains("The answer uses a word of the question");
        assertThat(said.err()).contains("1 imported, 3 refused.");
        assertThat(world.mailbox.next(crew.address(), before).text()).contains("Provisional answers");
        assertThat(explained(crew)).contains("questions - enrolled and usable");

        var wrong = new ApiPerson(world).prove(crew.shore(), crew.address());
        assertThat(answer(wrong, asked(wrong), Map.of()).status()).isEqualTo(422);
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        var right = answer(person, asked(person), ANSWERS);
        assertThat(right.status()).as(right.body()).isEqualTo(200);
        assertThat(explained(crew)).contains("questions - not enrolled");
        assertThat(world.entente("event", "list", "--limit", "30").out()).contains("Provisional answers");
    }
}
