package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.verify.passkey.PasskeyChallenge;
import dev.entente.wire.PortalApi;
import org.junit.jupiter.api.Test;

/** Keys that are touched: named after the first proof alone, taken as what they are and for nobody else. */
class SecurityKeyTest extends PublishingTest {
    private static final String TWO = "prove:\n  reset: { methods: 2, any-of: [email-code, security-key, passkey] }\n"
            + "  details: { any-of: [email-code] }\n";

    private SoftPasskey registered(Crew crew) throws Exception {
        var key = new SoftPasskey(world.url, false);
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = person.setUp("security-key", "Key on the ring");
        assertThat(offered.parts())
                .containsEntry("residentKey", "discouraged")
                .containsEntry("userVerification", "discouraged")
                .containsEntry("attachment", "cross-platform");
        var made = person.call("POST", "/attempt/enrolments/" + offered.id() + "/confirmation", key.register(offered));
        assertThat(made.status()).as(made.body()).isEqualTo(200);
        assertThat(made.body()).contains("Key on the ring");

        // The same device is not to be a passkey as well, and a touch alone is none.
        var passkey = person.setUp("passkey", null);
        assertThat(passkey.parts().get("exclude")).isEqualTo(key.id());
        assertThat(person.call(
                                "POST",
                                "/attempt/enrolments/" + passkey.id() + "/confirmation",
                                new SoftPasskey(world.url, false).register(passkey))
                        .body())
                .contains("passkey-refused");
        person.call("POST", "/attempt/end", null);
        return key;
    }

    private ApiPerson asked(Crew crew) {
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.attempt = person.ask("security-key").as(PortalApi.Attempt.class);
        return person;
    }

    private static ApiPerson.Answer answer(ApiPerson person, PortalApi.Answer answer) {
        return person.call(
                "POST", "/attempt/challenges/" + person.attempt.challenge().id() + "/answers", answer);
    }

    private static PasskeyChallenge challenge(ApiPerson person) {
        return person.passkeyChallenge();
    }

    @Test
    void it_is_asked_for_after_another_method_and_named_then() throws Exception {
        var crew = world.crew();
        pilot(TWO, crew);
        assertThat(explained(crew)).contains("methods").contains("not possible");
        var key = registered(crew);
        assertThat(explained(crew)).contains("reset: possible");

        var early = new ApiPerson(world);
        assertThat(early.start(crew.shore()).as(PortalApi.Attempt.class).methods())
                .contains("email-code", "passkey")
                .doesNotContain("security-key");
        assertThat(early.ask("security-key").body()).contains("method-not-offered");

        var first = asked(crew);
        assertThat(first.attempt.challenge().parts().get("allow")).isEqualTo(key.id());
        var second = asked(crew);
        var made = key.sign(challenge(first));
        assertThat(answer(second, made).status()).as("another attempt's").isEqualTo(422);
        var proved = answer(first, made);
        assertThat(proved.as(PortalApi.Attempt.class).state()).isEqualTo("proved");
        assertThat(answer(second, made).status()).as("again").isEqualTo(422);

        key.counter = 0;
        assertThat(answer(second, key.sign(challenge(second))).status())
                .as("a counter that went back")
                .isEqualTo(422);
        var foreign = new SoftPasskey(world.url, false);
        assertThat(answer(second, foreign.sign(challenge(second))).status())
                .as("somebody's own key")
                .isEqualTo(422);
    }

    @Test
    void it_is_no_passkey() throws Exception {
        var crew = world.crew();
        pilot(TWO, crew);
        var key = registered(crew);
        key.verifiesUser = true;
        var person = new ApiPerson(world);
        person.start(crew.shore());
        person.attempt = person.ask("passkey").as(PortalApi.Attempt.class);
        assertThat(answer(person, key.sign(challenge(person))).status()).isEqualTo(422);
    }
}
