package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.seal.HttpSignature;
import dev.entente.wire.PhoneApi;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.time.Duration;
import java.time.Instant;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Codes to telephones: through gateways that lose, delay, refuse and stay away, to people who know their number. */
class PhoneTest extends PublishingTest {
    private static final String TEXT = "prove:\n  reset: { any-of: [sms-code] }\n";
    private final Telephones phones = new Telephones(world);

    @BeforeEach
    void gateways() throws IOException {
        var secret = Files.writeString(folder.resolveSibling("gateway.secret"), Installation.GATEWAY_SECRET);
        for (var name : new String[] {"north", "south"}) {
            phones.behave(name, "deliver");
            world.entente(
                            "phone",
                            "add-gateway",
                            name,
                            phones.gateway(name),
                            "--secret-file",
                            secret.toString(),
                            "--price",
                            "0.05")
                    .expect(0);
        }
        world.entente("phone", "limit", "--per-number", "6", "--per-prefix", "60", "--per-country", "1000")
                .expect(0);
    }

    @AfterEach
    void none() {
        world.entente("phone", "remove-gateway", "north");
        world.entente("phone", "remove-gateway", "south");
    }

    private ApiPerson begun(Crew crew) {
        var person = new ApiPerson(world);
        person.start(crew.shore()).as(PortalApi.Attempt.class);
        return person;
    }

    private static String end(Crew crew) {
        return crew.phone().substring(crew.phone().length() - 4);
    }

    @Test
    void a_person_without_a_mailbox_gets_back_in_by_a_text_message() throws IOException {
        // Calum Wick's directory has a mobile number and no address.
        write("scopes/pilot.yaml", "scope: pilot\nany:\n  - people: [calum.wick]\n");
        write(
                "policies/pilot.yaml",
                "policy: pilot\nwho: scope pilot\nallow: [reset]\ndeliver: { to: [shore, fleet] }\n" + TEXT);
        write("order.yaml", "order: [pilot, deck-crew]\n");
        publish();
        assertThat(explained("calum.wick"))
                .contains("possible (")
                .contains("way in: The phone number alone is enough.");
        var page = world.browser().page(390, 844);
        var person = new Person(page, world.url);
        person.identify("calum.wick", "reset", "sms-code", "Which number is yours?");
        page.getByLabel("Last four digits").fill("00");
        person.button("Send the text message").click();
        person.waitForText("Type four digits, such as 0123.");
        assertThat(new MethodsInBrowser(world.boxUrl()).textTo(person, "+447700900006", "Pine-Signal-8-Harbour"))
                .isEqualTo("Your new password works");
        assertThat(phones.at("+447700900006").get(0).text())
                .startsWith("Skerry Line: ")
                .contains("Never tell it to anyone");
    }

    @Test
    void news_goes_to_the_telephone_where_the_only_mailbox_is_what_somebody_was_recognised_by() throws IOException {
        var crew = world.crew();
        pilot("prove:\n  reset: { any-of: [email-code, sms-code] }\n", crew);
        new ApiPerson(world)
                .prove(crew.shore(), crew.address())
                .choose("News-By-Text-41-Quay")
                .waitForOutcome(SOON);
        var text = phones.next(crew.phone(), 0);
        assertThat(text.kind()).isEqualTo("text");
        assertThat(text.text())
                .startsWith("Skerry Line: your password was reset. If it wasn’t you: " + world.url + "/not-me#");
        // Whoever was recognised by the telephone is told by mail alone.
        var other = world.crew();
        pilot("prove:\n  reset: { any-of: [email-code, sms-code] }\n", other);
        var person = begun(other);
        person.attempt = person.ask("sms-code", end(other)).as(PortalApi.Attempt.class);
        person.attempt =
                person.answer(Telephones.code(phones.next(other.phone(), 0))).as(PortalApi.Attempt.class);
        person.choose("News-By-Mail-42-Quay").waitForOutcome(SOON);
        Installation.waitUntil(
                SOON,
                "the mailbox is told",
                () -> world.mailbox.to(other.address()).stream()
                        .anyMatch(m -> m.subject().contains("your password was reset")));
        assertThat(phones.at(other.phone())).hasSize(1);
    }

    @Test
    void a_voice_reads_the_code_twice() throws IOException {
        var crew = world.crew();
        pilot("prove:\n  reset: { any-of: [voice-code] }\n", crew);
        var person = begun(crew);
        person.attempt = person.ask("voice-code", end(crew)).as(PortalApi.Attempt.class);
        var call = phones.next(crew.phone(), 0);
        assertThat(call.kind()).isEqualTo("voice");
        var code = Telephones.code(call);
        var spoken = String.join(", ", code.split(""));
        assertThat(call.text().split(spoken, -1)).as(call.text()).hasSize(3);
        assertThat(person.answer(code).status()).isEqualTo(200);
    }

    @Test
    void nothing_is_sent_to_who_does_not_know_the_number_and_nothing_tells_so() throws IOException {
        var crew = world.crew();
        pilot(TEXT, crew);
        var person = begun(crew);
        var wrong = person.ask("sms-code", end(crew).equals("1111") ? "2222" : "1111");
        assertThat(wrong.status()).isEqualTo(201);
        assertThat(person.ask("sms-code", null).body()).contains("number-end-missing");
        assertThat(person.ask("sms-code", "12345").status()).isEqualTo(422);
        var right = person.ask("sms-code", end(crew));
        assertThat(right.json().propertyNames()).isEqualTo(wrong.json().propertyNames());
        phones.next(crew.phone(), 0);
        assertThat(phones.at(crew.phone())).hasSize(1);
    }

    @Test
    void where_one_gateway_refuses_or_is_away_the_next_takes_it_and_what_is_spent_is_counted() throws IOException {
        var crew = world.crew();
        pilot(TEXT, crew);
        for (var trouble : new String[] {"refuse", "down"}) {
            phones.behave("north", trouble);
            var before = phones.at(crew.phone()).size();
            var person = begun(crew);
            person.attempt = person.ask("sms-code", end(crew)).as(PortalApi.Attempt.class);
            var text = phones.next(crew.phone(), before);
            assertThat(text.gateway()).as(trouble).isEqualTo("south");
            assertThat(person.answer(Telephones.code(text)).status()).isEqualTo(200);
        }
        var shown = world.entente("phone", "show");
        assertThat(shown.code()).isEqualTo(1);
        assertThat(shown.out()).contains("NO: ").contains("south").contains("0.05");
        phones.behave("north", "deliver");
        assertThat(world.entente("phone", "test", "+44 7700 900999", "--gateway", "north")
                        .expect(0)
                        .out())
                .contains("took the message");
        assertThat(world.entente("phone", "show").code()).isZero();
    }

    @Test
    void only_the_gateway_itself_tells_what_became_of_a_message() throws Exception {
        var at = URI.create(world.url + "/api/v1/gateways/north/states");
        var body = ApiPerson.JSON
                .writeValueAsString(new PhoneApi.MessageState("none", "delivered", null, null))
                .getBytes(StandardCharsets.UTF_8);
        assertThat(told(at, body, Map.of())).isEqualTo(401);
        assertThat(told(at, body, signed(at, body, "another secret of 20", Instant.now())))
                .as("another secret")
                .isEqualTo(401);
        assertThat(told(
                        at,
                        body,
                        signed(
                                at,
                                body,
                                Installation.GATEWAY_SECRET,
                                Instant.now().minusSeconds(600))))
                .as("an old call")
                .isEqualTo(401);
        var other = URI.create(world.url + "/api/v1/gateways/west/states");
        assertThat(told(other, body, signed(other, body, Installation.GATEWAY_SECRET, Instant.now())))
                .as("no such gateway")
                .isEqualTo(401);
        assertThat(told(at, body, signed(other, body, Installation.GATEWAY_SECRET, Instant.now())))
                .as("signed for another address")
                .isEqualTo(401);
        assertThat(told(at, new byte[] {'{', '}'}, signed(at, body, Installation.GATEWAY_SECRET, Instant.now())))
                .as("another body")
                .isEqualTo(401);
        assertThat(told(at, body, signed(at, body, Installation.GATEWAY_SECRET, Instant.now())))
                .isEqualTo(204);
    }

    private static Map<String, String> signed(URI at, byte[] body, String secret, Instant when) {
        return HttpSignature.fields(
                "POST", at.toString(), body, secret.getBytes(StandardCharsets.UTF_8), "entente", when);
    }

    private static int told(URI at, byte[] body, Map<String, String> fields) throws Exception {
        var call = HttpRequest.newBuilder(at)
                .header("Content-Type", "application/json")
                .POST(HttpRequest.BodyPublishers.ofByteArray(body));
        fields.forEach(call::header);
        return HttpClient.newHttpClient()
                .send(call.build(), HttpResponse.BodyHandlers.discarding())
                .statusCode();
    }

    @Test
    void a_number_gets_so_many_and_explain_says_so_while_a_known_browser_has_its_own() throws IOException {
        var crew = world.crew();
        pilot("prove:\n  reset: { any-of: [sms-code, email-code] }\n", crew);
        world.entente("phone", "limit", "--per-number", "1").expect(0);
        var owner = begun(crew);
        owner.attempt = owner.ask("sms-code", end(crew)).as(PortalApi.Attempt.class);
        var first = phones.next(crew.phone(), 0);
        var stranger = begun(crew);
        stranger.ask("sms-code", end(crew)).as(PortalApi.Attempt.class);
        Installation.waitUntil(
                Duration.ofSeconds(20),
                "it is withheld",
                () -> !world.query("SELECT 1 FROM pressure p JOIN account a ON a.person = p.person WHERE a.login = '"
                                + crew.shore() + "' AND p.kind = 'withheld'")
                        .isEmpty());
        assertThat(phones.at(crew.phone())).hasSize(1);
        assertThat(world.entente("explain", crew.shore(), "--network", "203.0.113.9")
                        .out())
                .contains("Tries by text code are used up");
        assertThat(owner.answer(Telephones.code(first)).status()).isEqualTo(200);
    }

    private boolean offered(Crew crew) {
        return new ApiPerson(world)
                .start(crew.shore())
                .as(PortalApi.Attempt.class)
                .methods()
                .contains("sms-code");
    }

    @Test
    void gateways_that_were_away_are_looked_at_again_and_what_they_say_stays_off_the_record() throws IOException {
        var crew = world.crew();
        pilot("prove:\n  reset: { any-of: [sms-code, email-code] }\n", crew);
        phones.behave("north", "refuse");
        phones.behave("south", "down");
        var person = begun(crew);
        person.ask("sms-code", end(crew)).as(PortalApi.Attempt.class);
        Installation.waitUntil(
                Duration.ofSeconds(20),
                "it was tried",
                () -> world.query("SELECT e.kind FROM event e WHERE e.kind = 'notification.retried'")
                        .contains("retried"));
        assertThat(world.query("SELECT why FROM channel_state WHERE channel LIKE 'phone%'"))
                .doesNotContain("reached by us");
        assertThat(world.entente("phone", "test", "+44 7700 900999", "--gateway", "north")
                        .out())
                .as("who asked is told the gateway's own words")
                .contains("reached by us");
        world.entente("phone", "remove-gateway", "north").expect(0);
        world.entente("phone", "test", "+44 7700 900999", "--gateway", "south");
        Installation.waitUntil(Duration.ofSeconds(20), "it is not offered", () -> !offered(crew));
        phones.behave("south", "deliver");
        Installation.waitUntil(Duration.ofSeconds(30), "it is offered again", () -> offered(crew));
    }

    @Test
    void what_cannot_be_sent_is_not_offered() throws IOException {
        var crew = world.crew();
        pilot("prove:\n  reset: { any-of: [sms-code, email-code] }\n", crew);
        assertThat(new ApiPerson(world)
                        .start(crew.shore())
                        .as(PortalApi.Attempt.class)
                        .methods())
                .contains("sms-code");
        none();
        assertThat(new ApiPerson(world)
                        .start(crew.shore())
                        .as(PortalApi.Attempt.class)
                        .methods())
                .doesNotContain("sms-code");
        pilot(TEXT, crew);
        assertThat(explained(crew)).contains("not possible").contains("its channel isn't working");
    }

    @Test
    void a_gateway_has_to_be_set_up_soundly() {
        for (var wrong : new String[][] {
            {"http://gateway.example.org/", "gateway-url"},
            {"ftp://127.0.0.1/", "gateway-url"},
            {"nonsense", "gateway-url"}
        }) {
            var answer = api.put(
                    "/channels/phone",
                    new PhoneApi.PhoneSettings(
                            java.util.List.of(new PhoneApi.NewGateway(
                                    "x", wrong[0], "a-secret-of-enough", java.util.List.of("text"), null)),
                            null,
                            null,
                            null));
            assertThat(answer.body()).contains(wrong[1]);
        }
        assertThat(world.entente("phone", "test", "12").code()).isEqualTo(1);
        assertThat(world.entente("phone", "test", "12").err()).contains("country code");
    }
}
