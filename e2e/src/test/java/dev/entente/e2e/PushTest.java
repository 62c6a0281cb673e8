package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.seal.SigningKey;
import dev.entente.core.verify.push.DeviceDocuments;
import dev.entente.wire.DeviceApi;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.net.http.HttpResponse;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** Approval on a registered device: on two screens, and everything that a device or a stranger must not get away with. */
class PushTest extends PublishingTest {
    private static final String ALONE = "prove:\n  reset: { any-of: [push] }\n  details: { any-of: [email-code] }\n";

    /** A device of somebody's. */
    private record Device(UUID id, SigningKey key) {}

    private HttpResponse<String> post(String path, Object body) {
        return DeviceCalls.post(world, path, body);
    }

    private Device owned(Crew crew) {
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = person.setUp("push", "My phone");
        var key = SigningKey.generate(new SecureRandom());
        var word = offered.parts().get("link").replaceAll(".*#", "");
        var registered = post("/registrations", new DeviceApi.Registration(word, key.publicKey()));
        assertThat(registered.statusCode()).as(registered.body()).isEqualTo(201);
        assertThat(post("/registrations", new DeviceApi.Registration(word, key.publicKey()))
                        .statusCode())
                .as("a link is good for once")
                .isEqualTo(410);
        var check = ApiPerson.JSON
                .readValue(registered.body(), DeviceApi.Registered.class)
                .check();
        var path = "/attempt/enrolments/" + offered.id() + "/confirmation";
        assertThat(person.call("POST", path, PortalApi.Answer.typed(check.equals("000000") ? "000001" : "000000"))
                        .status())
                .as("another device's digits")
                .isEqualTo(422);
        assertThat(person.call("POST", path, PortalApi.Answer.typed(check)).status())
                .isEqualTo(200);
        person.call("POST", "/attempt/end", null);
        return new Device(offered.id(), key);
    }

    private ApiPerson asked(Crew crew) {
        var person = new ApiPerson(world);
        person.start(crew.shore());
        person.attempt = person.ask("push").as(PortalApi.Attempt.class);
        return person;
    }

    private static ApiPerson.Answer look(ApiPerson person) {
        return person.call(
                "POST",
                "/attempt/challenges/" + person.attempt.challenge().id() + "/answers",
                new PortalApi.Answer(null, null));
    }

    private List<DeviceApi.Request> waiting(Device device) {
        var answer = post(
                "/" + device.id() + "/requests",
                new DeviceApi.Signed(DeviceDocuments.sign(
                        device.key(),
                        new DeviceDocuments.Look(1, device.id(), Instant.now().getEpochSecond()))));
        assertThat(answer.statusCode()).as(answer.body()).isEqualTo(200);
        return List.of(ApiPerson.JSON.readValue(answer.body(), DeviceApi.Request[].class));
    }

    private DeviceApi.Request waits(Device device, ApiPerson person) {
        Installation.waitUntil(
                Duration.ofSeconds(20),
                "the device is asked",
                () -> waiting(device).stream()
                        .anyMatch(r ->
                                r.request().equals(person.attempt.challenge().id())));
        return waiting(device).stream()
                .filter(r -> r.request().equals(person.attempt.challenge().id()))
                .findFirst()
                .orElseThrow();
    }

    private int answer(Device device, DeviceApi.Request request, String verdict, String number) {
        return answer(device, device.key(), request.request(), request.key(), verdict, number, Instant.now());
    }

    private int answer(
            Device device, SigningKey key, UUID request, String attempt, String verdict, String number, Instant at) {
        return post(
                        "/" + device.id() + "/answers",
                        new DeviceApi.Signed(DeviceDocuments.sign(
                                key,
                                new DeviceDocuments.Answer(
                                        1, device.id(), request, attempt, verdict, number, at.getEpochSecond()))))
                .statusCode();
    }

    private static String number(ApiPerson person) {
        return person.attempt.challenge().parts().get("number");
    }

    @Test
    void a_person_registers_a_phone_and_gets_a_new_password_by_approving_on_it() throws IOException {
        var crew = world.crew();
        pilot(ALONE, crew);
        var page = world.browser().page(390, 844);
        var person = new Person(page, world.url);
        var phone = world.browser().page(390, 844);
        var browser = new MethodsInBrowser(world.boxUrl());
        browser.addPhone(person, phone, crew.shore(), crew.address());
        var number = browser.askPhone(person, crew.shore());
        // A page that was reloaded waits on.
        page.reload();
        person.heading("Approve on your phone").waitFor();
        browser.approve(phone, number, null);
        person.choose("Lantern-Quay-4-Pines");
        assertThat(person.outcome()).isEqualTo("Your new password works");
        assertThat(explained(crew)).contains("way in: The mailbox alone is enough, by adding");
    }

    @Test
    void an_approval_counts_for_its_attempt_with_its_number_once() throws IOException {
        var owner = world.crew();
        var other = world.crew();
        pilot(ALONE, owner, other);
        var device = owned(owner);
        var stranger = owned(other);

        var person = asked(owner);
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);
        var request = waits(device, person);
        assertThat(request.action()).isEqualTo("reset");
        assertThat(request.login()).isEqualTo(owner.shore());
        assertThat(waiting(stranger)).isEmpty();
        var number = number(person);
        assertThat(answer(stranger, stranger.key(), request.request(), request.key(), "approve", number, Instant.now()))
                .as("another person's device")
                .isEqualTo(409);
        assertThat(answer(device, stranger.key(), request.request(), request.key(), "approve", number, Instant.now()))
                .as("another key")
                .isEqualTo(401);
        assertThat(answer(
                        device,
                        device.key(),
                        request.request(),
                        request.key(),
                        "approve",
                        number,
                        Instant.now().minusSeconds(900)))
                .as("signed long ago")
                .isEqualTo(401);
        assertThat(answer(device, request, "approve", number.equals("10") ? "11" : "10"))
                .as("another number")
                .isEqualTo(422);
        assertThat(answer(device, device.key(), request.request(), "x".repeat(43), "approve", number, Instant.now()))
                .as("for another attempt's key")
                .isEqualTo(422);
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);
        assertThat(answer(device, request, "approve", number)).isEqualTo(204);
        assertThat(answer(device, request, "approve", number)).as("twice").isEqualTo(409);
        var elsewhere = asked(owner);
        assertThat(look(elsewhere).status()).as("another attempt").isEqualTo(202);
        assertThat(look(person).as(PortalApi.Attempt.class).state()).isEqualTo("proved");
        assertThat(look(person).status()).as("again").isGreaterThanOrEqualTo(400);
    }

    @Test
    void to_deny_it_is_an_alarm_and_tells_the_asking_browser_nothing() throws IOException {
        var crew = world.crew();
        pilot(ALONE, crew);
        var device = owned(crew);
        var person = asked(crew);
        var before = world.mailbox.to(crew.address()).size();
        assertThat(answer(device, waits(device, person), "deny", null)).isEqualTo(204);
        assertThat(look(person).status()).as("nothing yet").isEqualTo(202);
        assertThat(world.mailbox.next(crew.address(), before).text()).contains("denied on a registered device");
        assertThat(world.query("SELECT e.kind FROM event e JOIN attempt a ON a.id = e.attempt WHERE a.reference = '"
                        + person.attempt.reference().replaceAll("[^0-9]", "") + "'"))
                .contains("challenge.denied");
        var nobody = new ApiPerson(world);
        nobody.start("no.such.person");
        nobody.attempt = nobody.ask("push").as(PortalApi.Attempt.class);
        assertThat(look(nobody).status()).as("nothing yet").isEqualTo(202);
        assertThat(nobody.attempt.challenge().parts().keySet())
                .isEqualTo(Map.of("number", "").keySet());
    }

    @Test
    void a_person_is_not_worn_out_by_requests_and_a_device_that_was_removed_is_asked_nothing() throws IOException {
        var crew = world.crew();
        pilot(ALONE, crew);
        var device = owned(crew);
        for (var round = 0; round < 5; round++) {
            var person = new ApiPerson(world);
            person.network = "203.0.113.60";
            person.start(crew.shore());
            person.ask("push").as(PortalApi.Attempt.class);
        }
        Installation.waitUntil(
                Duration.ofSeconds(20),
                "further ones are withheld",
                () -> !world.query("SELECT 1 FROM pressure p JOIN account a ON a.person = p.person WHERE a.login = '"
                                + crew.shore() + "' AND p.kind = 'withheld'")
                        .isEmpty());
        assertThat(waiting(device))
                .as("three at the wish of one unknown network")
                .hasSize(3);
        assertThat(world.entente("explain", crew.shore(), "--network", "203.0.113.60")
                        .out())
                .contains("Tries by push approval are used up");
        assertThat(world.entente("explain", crew.shore(), "--network", "198.51.100.9")
                        .code())
                .as("another network still may")
                .isZero();
        world.entente("person", "remove-method", crew.shore(), device.id().toString())
                .expect(0);
        assertThat(post(
                                "/" + device.id() + "/requests",
                                new DeviceApi.Signed(DeviceDocuments.sign(
                                        device.key(),
                                        new DeviceDocuments.Look(
                                                1, device.id(), Instant.now().getEpochSecond()))))
                        .statusCode())
                .isEqualTo(401);
    }
}
