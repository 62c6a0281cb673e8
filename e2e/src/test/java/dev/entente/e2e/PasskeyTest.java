package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.wire.PortalApi;
import java.time.Duration;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** Passkeys: set up and used in a real browser, and everything that an answer must not get away with. */
class PasskeyTest extends PublishingTest {
    private static final String ALONE = "prove:\n  reset: { any-of: [passkey] }\n  details: { any-of: [email-code] }\n";

    private final String origin = world.url;

    /** A person whose policy asks for a passkey and nothing else, with one set up. */
    private SoftPasskey owned(Crew crew) throws Exception {
        var passkey = new SoftPasskey(origin);
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = person.setUp("passkey", "Key on the ring");
        var made =
                person.call("POST", "/attempt/enrolments/" + offered.id() + "/confirmation", passkey.register(offered));
        assertThat(made.status()).as(made.body()).isEqualTo(200);
        assertThat(made.body()).contains("Key on the ring");
        person.call("POST", "/attempt/end", null);
        return passkey;
    }

    private ApiPerson asked(Crew crew) {
        var person = new ApiPerson(world);
        person.start(crew.shore());
        person.attempt = person.ask("passkey").as(PortalApi.Attempt.class);
        return person;
    }

    private ApiPerson.Answer answer(ApiPerson person, PortalApi.Answer answer) {
        return person.call(
                "POST", "/attempt/challenges/" + person.attempt.challenge().id() + "/answers", answer);
    }

    private static String challenge(ApiPerson person) {
        return person.attempt.challenge().parts().get("challenge");
    }

    @Test
    void a_person_sets_one_up_in_the_browser_and_gets_a_new_password_with_it_alone() throws Exception {
        var crew = world.crew();
        pilot(ALONE, crew);
        assertThat(explained(crew)).contains("passkey");
        var page = world.browser().page(390, 844);
        new VirtualAuthenticators(page);
        var person = new Person(page, world.url);
        var browser = new MethodsInBrowser(world.url, world.boxUrl());
        browser.addPasskey(person, crew.shore(), crew.address());
        assertThat(browser.byPasskey(person, crew.shore(), "Rowan-Kettle-9-Tide"))
                .isEqualTo("Your new password works");
        assertThat(World.binds("shore", crew.shore(), "Rowan-Kettle-9-Tide")).isTrue();
    }

    @Test
    void an_assertion_counts_for_its_attempt_its_owner_and_once() throws Exception {
        var owner = world.crew();
        var other = world.crew();
        pilot(ALONE, owner, other);
        var passkey = owned(owner);

        var first = asked(owner);
        var second = asked(owner);
        var made = passkey.sign(challenge(first));
        assertThat(answer(second, made).status()).as("another attempt's").isEqualTo(422);
        assertThat(answer(first, made).status()).isEqualTo(200);
        assertThat(answer(first, made).status()).as("again").isNotEqualTo(200);
        assertThat(answer(second, made).status()).as("again, elsewhere").isEqualTo(422);
        assertThat(answer(asked(other), made).status()).as("somebody else").isEqualTo(422);
        var stranger = asked(other);
        assertThat(answer(stranger, passkey.sign(challenge(stranger))).status())
                .as("somebody else's name, freshly signed")
                .isEqualTo(422);
        var nobody = new ApiPerson(world);
        nobody.start("nobody.by.this.name");
        nobody.attempt = nobody.ask("passkey").as(PortalApi.Attempt.class);
        assertThat(answer(nobody, passkey.sign(challenge(nobody))).status()).isEqualTo(422);
    }

    @Test
    void what_is_not_as_it_should_be_is_refused_and_a_counter_that_goes_back_is_on_record() throws Exception {
        var crew = world.crew();
        pilot(ALONE, crew);
        var passkey = owned(crew);
        var person = asked(crew);

        passkey.origin = "https://skerry.example";
        assertThat(answer(person, passkey.sign(challenge(person))).status())
                .as("origin")
                .isEqualTo(422);
        passkey.origin = origin;
        passkey.relyingParty = "skerry.example";
        assertThat(answer(person, passkey.sign(challenge(person))).status())
                .as("relying party")
                .isEqualTo(422);
        passkey.relyingParty = "localhost";
        passkey.verifiesUser = false;
        assertThat(answer(person, passkey.sign(challenge(person))).status())
                .as("the user was not verified")
                .isEqualTo(422);
        passkey.verifiesUser = true;
        for (var nonsense : new PortalApi.Answer[] {
            PortalApi.Answer.typed("12345678"), new PortalApi.Answer(null, java.util.Map.of("credential", "{}"))
        }) {
            assertThat(answer(person, nonsense).status()).isEqualTo(422);
        }

        person = asked(crew);
        passkey.counter = 10;
        assertThat(answer(person, passkey.sign(challenge(person))).status()).isEqualTo(200);
        var copy = asked(crew);
        passkey.counter = 3;
        assertThat(answer(copy, passkey.sign(challenge(copy))).status()).isEqualTo(422);
        World.waitUntil(
                Duration.ofSeconds(20),
                "it is on record",
                () -> api.get("/events").body().contains("someone may hold a copy"));
        passkey.counter = 20;
        assertThat(answer(copy, passkey.sign(challenge(copy))).status()).isEqualTo(200);
    }

    @Test
    void a_passkey_has_a_name_is_set_up_once_and_can_be_removed() throws Exception {
        var crew = world.crew();
        pilot(ALONE, crew);
        var passkey = owned(crew);
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var again = person.setUp("passkey", null);
        assertThat(again.parts().get("exclude")).isNotEmpty();
        var twice = person.call("POST", "/attempt/enrolments/" + again.id() + "/confirmation", passkey.register(again));
        assertThat(twice.status()).isEqualTo(409);
        var bad = new SoftPasskey(origin);
        bad.verifiesUser = false;
        assertThat(person.call("POST", "/attempt/enrolments/" + again.id() + "/confirmation", bad.register(again))
                        .body())
                .contains("touch or unlock it");
        var mine = ApiPerson.JSON.readValue(
                person.call("GET", "/attempt/enrolments", null).body(), PortalApi.OwnMethod[].class);
        UUID id = null;
        for (var one : mine) {
            id = one.method().equals("passkey") ? one.id() : id;
        }
        assertThat(person.call("PATCH", "/attempt/enrolments/" + id, new PortalApi.Naming("Blue key"))
                        .body())
                .contains("Blue key");
        assertThat(person.call("PATCH", "/attempt/enrolments/" + id, new PortalApi.Naming("x".repeat(61)))
                        .status())
                .isEqualTo(422);
        assertThat(person.call("DELETE", "/attempt/enrolments/" + id, null).status())
                .isEqualTo(200);
        var without = asked(crew);
        assertThat(answer(without, passkey.sign(challenge(without))).status()).isEqualTo(422);
        assertThat(explained(crew)).contains("passkey - not enrolled");
    }

    @Test
    void a_passkey_shows_two_factors() throws Exception {
        var crew = world.crew();
        pilot(
                "prove:\n  reset: { methods: 1, factors: 2, any-of: [passkey, app-code] }\n"
                        + "  details: { any-of: [email-code] }\n",
                crew);
        var passkey = owned(crew);
        var person = asked(crew);
        assertThat(answer(person, passkey.sign(challenge(person)))
                        .as(PortalApi.Attempt.class)
                        .state())
                .isEqualTo("proved");
    }

    @Test
    void where_a_list_names_authenticators_only_those_can_be_set_up() throws Exception {
        var crew = world.crew();
        write("methods.yaml", "passkey: { authenticators: [2fc0579f-8113-47ea-b116-bb5a8db9202a] }\n");
        pilot(ALONE, crew);
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = person.setUp("passkey", null);
        assertThat(offered.parts()).containsEntry("attestation", "direct");
        var passkey = new SoftPasskey(origin);
        var path = "/attempt/enrolments/" + offered.id() + "/confirmation";
        assertThat(person.call("POST", path, passkey.register(offered)).body()).contains("passkey-not-taken");
        var id = UUID.fromString("2fc0579f-8113-47ea-b116-bb5a8db9202a");
        passkey.model = java.nio.ByteBuffer.allocate(16)
                .putLong(id.getMostSignificantBits())
                .putLong(id.getLeastSignificantBits())
                .array();
        assertThat(person.call("POST", path, passkey.register(offered)).status())
                .isEqualTo(200);
    }
}
