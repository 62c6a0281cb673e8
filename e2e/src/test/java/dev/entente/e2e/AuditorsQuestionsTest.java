package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Page;
import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import dev.entente.wire.PolicyApi;
import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.time.Duration;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** The questions of docs/auditing.md, each asked as it says there: by its command, and by its page in a browser. */
class AuditorsQuestionsTest {
    private static final Duration SOON = Duration.ofSeconds(30);
    private static final Pattern ROW = Pattern.compile("\\| (.*) \\| `entente (.*)` \\| `(.*)` \\|");

    /**
     * What each answer has to say, in the order of the document; a pattern, in which capitals stand for values as they do there.
     * Other tests move the clock ahead, and their events are newer than these: what is asked of all that happened expects the
     * kind of answer, what is asked of one person, attempt or word this one.
     */
    private static final List<String> ANSWERS = List.of(
            "The person verified with email-code",
            "The directory fleet accepted the new password",
            "password-reset",
            "OTHER",
            "The delivery to fleet.* failed",
            "The delivery to fleet.* failed",
            "STEWARD took the order",
            "The person verified with METHOD",
            "Someone started a reset",
            "Someone started a reset",
            "The directory DIRECTORY accepted the new password",
            "",
            "ADMINISTRATOR (?!looked|read|signed)[a-z]",
            "[a-z0-9-]+ published",
            "[a-z0-9-]+ (stopped|resumed) [a-z]+:",
            "ADMINISTRATOR looked at",
            "ADMINISTRATOR (looked at|read)",
            "[a-z0-9-]+ signed in",
            "Auditors keep",
            "Auditors ask");

    private final ServiceWorld world = ServiceWorld.get();
    private final ConsoleApi api = ConsoleApi.signedIn(world);

    private record Question(String asked, String command, String page) {
        static Stream<Question> of(String line) {
            return ROW.matcher(line).results().map(row -> new Question(row.group(1), row.group(2), row.group(3)));
        }
    }

    @Test
    void each_is_answered_in_one_step() throws IOException {
        var questions = Files.readAllLines(Installation.ROOT.resolve("docs/auditing.md")).stream()
                .flatMap(Question::of)
                .toList();
        assertThat(questions).hasSameSizeAs(ANSWERS).hasSize(20);
        var values = happened();
        var page = signedIn();
        for (var i = 0; i < ANSWERS.size(); i++) {
            var question = questions.get(i);
            var answer = Pattern.compile(filled(ANSWERS.get(i), values));
            var arguments = Stream.of(question.command().split(" "))
                    .map(word -> filled(word, values))
                    .toArray(String[]::new);
            assertThat(world.entente(arguments).expect(0).out())
                    .as(question.asked())
                    .containsPattern(answer);
            var path = question.page();
            for (var value : values.entrySet()) {
                path = path.replace(value.getKey(), URLEncoder.encode(value.getValue(), StandardCharsets.UTF_8));
            }
            page.navigate(world.url + "/console/" + path.replace("+", "%20"));
            page.locator("h1").first().waitFor();
            page.getByText(answer).locator("visible=true").first().waitFor();
        }
    }

    private static String filled(String text, Map<String, String> values) {
        var filled = text;
        for (var value : values.entrySet()) {
            filled = filled.replace(value.getKey(), value.getValue());
        }
        return filled;
    }

    /** Something for each to find. */
    private Map<String, String> happened() {
        var crew = world.crew();
        var person = new ApiPerson(world);
        person.network = "198.51.100.77";
        person.prove(crew.shore(), crew.address());
        person.choose("Asked-Quay-" + System.nanoTime()).waitForOutcome(SOON);
        var other = world.crew();
        var unlucky = new ApiPerson(world).prove(other.shore(), other.address());
        var fleet = world.stewards.get("fleet");
        var shore = world.stewards.get("shore");
        try {
            Stream.of(fleet, shore).forEach(one -> one.say(Outcome.FAILED, Cause.UNREACHABLE));
            unlucky.choose("Asked-Quay-" + System.nanoTime()).waitForOutcome(SOON);
        } finally {
            Stream.of(fleet, shore).forEach(one -> one.say(Outcome.DONE, null));
        }
        assertThat(api.post(
                                "/stops",
                                ApiPerson.JSON.writeValueAsString(
                                        new PolicyApi.NewStop("method:push", "Auditors ask", null)))
                        .statusCode())
                .isLessThan(300);
        assertThat(api.delete("/stops?what=method:push").statusCode()).isLessThan(300);
        var hold = world.entente("hold", "place", "--person", other.shore(), "--reason", "Auditors keep")
                .expect(0)
                .out()
                .strip();
        world.entente("hold", "lift", hold).expect(0);
        assertThat(api.get("/explain?person=" + crew.shore()).statusCode()).isEqualTo(200);
        assertThat(api.get("/people?search=" + crew.shore()).statusCode()).isEqualTo(200);
        Installation.waitUntil(
                SOON,
                "all of it is sealed and told",
                () -> world.query("SELECT (SELECT count(*) FROM event_pending) + (SELECT count(*) FROM notification"
                                + " WHERE state IN ('queued', 'sending'))")
                        .equals("0"));
        return values(
                "LOGIN",
                crew.shore(),
                "DAY",
                LocalDate.ofInstant(world.now(), ZoneOffset.UTC).minusDays(1).toString(),
                "REFERENCE",
                person.attempt.reference(),
                "OTHER",
                unlucky.attempt.reference(),
                "DIRECTORY",
                "fleet",
                "STEWARD",
                "fleet-1",
                "METHOD",
                "email-code",
                "NETWORK",
                "198.51.100.0/24",
                "ADMINISTRATOR",
                "ingeborg",
                "POLICY",
                "deck-crew",
                "WORDS",
                "auditors");
    }

    /** Longer names first, so that none is taken for a part of another. */
    private static Map<String, String> values(String... named) {
        var values = new TreeMap<String, String>(
                Comparator.comparing(String::length).reversed().thenComparing(one -> one));
        for (var i = 0; i < named.length; i += 2) {
            values.put(named[i], named[i + 1]);
        }
        return values;
    }

    private Page signedIn() {
        var page = world.browser().page(1280, 800);
        page.setDefaultTimeout(45_000);
        page.navigate(world.url + "/console");
        page.getByLabel("Sign-in name").fill("ingeborg");
        page.getByLabel("Password").fill(Installation.PASSWORD);
        page.getByLabel("Password").press("Enter");
        page.getByText("Events on record").waitFor();
        return page;
    }
}
