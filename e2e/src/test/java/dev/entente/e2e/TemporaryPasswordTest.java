package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.bench.Sealer;
import dev.entente.core.seal.Seal;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.ApprovalApi;
import dev.entente.wire.AttemptApi;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;

/** Temporary passwords: off by default in two places, never for the privileged, gone when nobody used them. */
@TestMethodOrder(MethodOrderer.OrderAnnotation.class)
class TemporaryPasswordTest {
    private static final Duration SOON = Duration.ofSeconds(40);
    private static World world;
    private static ConsoleApi api;

    @BeforeAll
    static void start() {
        world = World.get();
        api = ConsoleApi.signedIn(world);
    }

    @AfterAll
    static void switchOff() throws IOException {
        api.put("/switches", new ApprovalApi.Switches(false, false));
        actions("reset", "unlock", "change");
    }

    private static void actions(String... actions) throws IOException {
        for (var directory : new String[] {"shore", "fleet"}) {
            var file = Path.of(world.stewardFile(directory));
            Files.writeString(
                    file,
                    Files.readString(file)
                            .replaceAll("(?s)  actions:\n(  - \\w+\n)+|  actions: \\[[^]]*]\n", "")
                            .replace("guard:\n", "guard:\n  actions: [" + String.join(", ", actions) + "]\n"));
            world.kill("steward-" + directory);
            world.startSteward(directory);
        }
    }

    private static String personId(String login) {
        return ApiPerson.JSON
                .readTree(world.entente("--output", "json", "person", "show", login)
                        .expect(0)
                        .out())
                .path("id")
                .asString();
    }

    /** As the administrator's browser does it. */
    private static String give(String login, String password) {
        var key = SigningKey.generate(new SecureRandom());
        var answer = api.post(
                "/people/" + personId(login) + "/temporary-password",
                ApiPerson.JSON.writeValueAsString(new AttemptApi.NewTemporary(key.publicKey())));
        assertThat(answer.statusCode()).as(answer.body()).isEqualTo(201);
        var asked = ApiPerson.JSON.readValue(answer.body(), AttemptApi.Temporary.class);
        var sealed = new ArrayList<PortalApi.SealedPassword>();
        for (var target : asked.sealing().targets()) {
            var recipients = ApiPerson.recipients(target, world.now());
            var seal = Seal.parse(Sealer.seal(
                    ApiPerson.binding(asked.sealing(), target, recipients, key.publicKey()),
                    recipients,
                    Map.of("v", 1, "password", password)));
            sealed.add(new PortalApi.SealedPassword(
                    seal.text(), ApiPerson.evidence(seal).sign(key)));
        }
        var reference = asked.reference().replaceAll("\\D", "");
        assertThat(api.post(
                                "/attempts/" + reference + "/passwords",
                                ApiPerson.JSON.writeValueAsString(new PortalApi.SealedPasswords(sealed)))
                        .statusCode())
                .isEqualTo(202);
        World.waitUntil(SOON, "it is told", () -> !state(reference).equals("delivering"));
        return reference;
    }

    private static String state(String reference) {
        return world.query("SELECT state FROM attempt WHERE reference = '" + reference + "'");
    }

    @Test
    @Order(1)
    void it_is_off_in_two_places_set_with_must_change_and_replaced_when_nobody_used_it() throws IOException {
        var crew = world.crew();
        var asking = "/people/" + personId(crew.shore()) + "/temporary-password";
        var key = ApiPerson.JSON.writeValueAsString(new AttemptApi.NewTemporary(
                SigningKey.generate(new SecureRandom()).publicKey()));
        assertThat(api.post(asking, key).body()).contains("switched off");

        api.put("/switches", new ApprovalApi.Switches(true, false));
        var refused = give(crew.shore(), "Temporary-Quay-101");
        assertThat(state(refused)).isEqualTo("refused");
        assertThat(world.entente("attempt", "show", refused).out()).contains("doesn't allow this action");
        assertThat(world.binds("shore", crew.shore(), World.OLD_PASSWORD)).isTrue();

        actions("reset", "unlock", "change", "temporary");
        var given = give(crew.shore(), "Temporary-Quay-102");
        assertThat(state(given)).isEqualTo("completed");
        assertThat(world.binds("fleet", crew.fleet(), "Temporary-Quay-102")).isTrue();
        assertThat(world.binds("shore", crew.shore(), "Temporary-Quay-102"))
                .as("the domain lets nobody in before it is changed")
                .isFalse();
        assertThat(world.entente("person", "show", crew.shore()).out()).contains("must change");

        var versions = world.passwordsSet("shore", crew.shore());
        world.query("UPDATE delivery SET retire_at = now() - interval '1 minute' WHERE retire_at IS NOT NULL");
        World.waitUntil(
                SOON, "it is replaced in the domain", () -> world.passwordsSet("shore", crew.shore()) == versions + 1);
        World.waitUntil(
                SOON, "it is replaced in slapd", () -> !world.binds("fleet", crew.fleet(), "Temporary-Quay-102"));
    }

    @Test
    void one_that_was_used_is_left_alone() throws IOException {
        var crew = world.crew();
        api.put("/switches", new ApprovalApi.Switches(true, false));
        actions("reset", "unlock", "change", "temporary");
        var before = world.mailbox.to(crew.address()).size();
        give(crew.shore(), "Temporary-Quay-201");
        assertThat(world.mailbox.next(crew.address(), before).text())
                .contains("An administrator gave you a temporary password");
        new ApiPerson(world)
                .prove(crew.shore(), crew.address())
                .choose("Temporary-Quay-202")
                .waitForOutcome(SOON);
        world.query("UPDATE delivery SET retire_at = now() - interval '1 minute' WHERE retire_at IS NOT NULL");
        World.waitUntil(
                SOON,
                "both are looked at",
                () -> world.query("SELECT count(*) FROM delivery WHERE action = 'retire'"
                                + " AND state = 'refused' AND account IN (SELECT id FROM account WHERE login IN ('"
                                + crew.shore()
                                + "', '" + crew.fleet() + "'))")
                        .equals("2"));
        assertThat(world.binds("shore", crew.shore(), "Temporary-Quay-202")).isTrue();
        assertThat(world.binds("fleet", crew.fleet(), "Temporary-Quay-202")).isTrue();
    }

    @Test
    void a_privileged_person_never_gets_one() {
        api.put("/switches", new ApprovalApi.Switches(true, false));
        var answer = api.post(
                "/people/" + personId("hedda.berg") + "/temporary-password",
                ApiPerson.JSON.writeValueAsString(new AttemptApi.NewTemporary(
                        SigningKey.generate(new SecureRandom()).publicKey())));
        assertThat(answer.statusCode()).isEqualTo(409);
        assertThat(answer.body()).contains("is privileged");
    }
}
