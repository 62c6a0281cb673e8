package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.bench.Mailbox;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.util.Arrays;
import java.util.List;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** Devices that were used before: known by use, never enough alone, ended by their person, and none on shared desks. */
class KnownDeviceTest extends PublishingTest {
    private static final String ONE =
            "prove:\n  reset: { any-of: [email-code] }\n  details: { any-of: [email-code] }\n";
    private static final String TWO =
            "prove:\n  reset: { methods: 2, any-of: [email-code, known-device, recovery-code] }\n"
                    + "  details: { any-of: [email-code] }\n";

    /** The same browser again, with a new attempt. */
    private ApiPerson again(ApiPerson before) {
        var person = new ApiPerson(world);
        person.device = before.device;
        person.network = before.network;
        return person;
    }

    private void reset(ApiPerson person, Crew crew, String password) {
        person.prove(crew.shore(), crew.address());
        assertThat(person.choose(password).waitForOutcome(SOON).state()).isEqualTo("completed");
    }

    private static List<PortalApi.OwnMethod> devices(ApiPerson person) {
        return Arrays.stream(person.call("GET", "/attempt/enrolments", null).as(PortalApi.OwnMethod[].class))
                .filter(m -> m.method().equals("known-device"))
                .toList();
    }

    /** Another way in, for where a device doesn't help. */
    private void withPaper(Crew crew) {
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        person.setUp("recovery-code", null);
        person.call("POST", "/attempt/end", null);
    }

    private static ApiPerson.Answer byDevice(ApiPerson person) {
        person.attempt = person.ask("known-device").as(PortalApi.Attempt.class);
        return person.call(
                "POST",
                "/attempt/challenges/" + person.attempt.challenge().id() + "/answers",
                new PortalApi.Answer(null, null));
    }

    @Test
    void a_browser_in_which_somebody_chose_a_password_counts_as_one_proof_until_they_end_it() throws IOException {
        var crew = world.crew();
        pilot(ONE, crew);
        var first = new ApiPerson(world);
        reset(first, crew, "Device-Quay-101");
        pilot(TWO, crew);
        assertThat(world.entente("explain", crew.shore()).out())
                .contains("possible    on a known device: with 2 of")
                .contains("impossible  on an unknown device: Without a device that was used before");
        assertThat(world.entente("explain", "--network", "203.0.113.9", crew.shore())
                        .expect(1)
                        .out())
                .contains("known-device: enrolled, but only on a device that was used before");
        assertThat(world.entente("explain", "--known-device", crew.shore())
                        .expect(0)
                        .out())
                .contains("known-device: enrolled and usable");
        withPaper(crew);

        var here = again(first);
        here.prove(crew.shore(), crew.address());
        assertThat(here.attempt.methods()).containsExactlyInAnyOrder("known-device", "recovery-code");
        var proved = byDevice(here);
        assertThat(proved.status()).as(proved.body()).isEqualTo(200);
        here.attempt = proved.as(PortalApi.Attempt.class);
        assertThat(here.attempt.proved()).containsExactly("email-code", "known-device");
        assertThat(here.choose("Device-Quay-102").waitForOutcome(SOON).state()).isEqualTo("completed");

        var elsewhere = new ApiPerson(world);
        elsewhere.prove(crew.shore(), crew.address());
        assertThat(elsewhere.attempt.methods()).containsExactly("recovery-code");
        assertThat(elsewhere.ask("known-device").body()).contains("method-not-offered");

        var details = again(first).wants("details").prove(crew.shore(), crew.address());
        var one = devices(details);
        assertThat(one).hasSize(1);
        assertThat(details.call("DELETE", "/attempt/enrolments/" + one.get(0).id(), null)
                        .status())
                .isEqualTo(200);
        assertThat(devices(details)).isEmpty();
        assertThat(explained(crew)).contains("known-device - not enrolled");
        assertThat(again(first).prove(crew.shore(), crew.address()).attempt.methods())
                .containsExactly("recovery-code");
        assertThat(world.query("SELECT count(*) FROM known_place k JOIN account a ON a.person = k.person"
                        + " WHERE a.login = '" + crew.shore()
                        + "' AND k.kind = 'browser' AND k.password_set_at IS NOT NULL"))
                .isEqualTo("0");
    }

    @Test
    void a_browser_from_which_it_was_somebody_else_is_no_device_of_the_person_s() throws IOException {
        var crew = world.crew();
        pilot(ONE, crew);
        var before = world.mailbox.to(crew.address()).size();
        var stranger = new ApiPerson(world);
        reset(stranger, crew, "Device-Quay-401");
        withPaper(crew);
        pilot(TWO, crew);
        assertThat(again(stranger).prove(crew.shore(), crew.address()).attempt.methods())
                .contains("known-device");
        Installation.waitUntil(
                SOON,
                "the owner is told",
                () -> world.mailbox.to(crew.address()).stream()
                        .anyMatch(m -> Mailbox.link(m).isPresent()));
        assertThat(world.mailbox.to(crew.address()).size()).isGreaterThan(before);
        var link = world.mailbox.to(crew.address()).stream()
                .filter(m -> m.subject().contains("your password was reset"))
                .flatMap(m -> Mailbox.link(m).stream())
                .findFirst()
                .orElseThrow();
        assertThat(new ApiPerson(world)
                        .call("POST", "/alarms", new PortalApi.Alarm(link.replaceAll(".*#", ""), true))
                        .status())
                .isEqualTo(201);
        assertThat(again(stranger).prove(crew.shore(), crew.address()).attempt.methods())
                .containsExactly("recovery-code");
    }

    @Test
    void somebody_else_s_browser_and_a_made_up_cookie_are_not_a_person_s_device() throws IOException {
        var crew = world.crew();
        var other = world.crew();
        pilot(ONE, crew, other);
        var theirs = new ApiPerson(world);
        reset(theirs, other, "Device-Quay-201");
        reset(new ApiPerson(world), crew, "Device-Quay-202");
        withPaper(crew);
        pilot(TWO, crew, other);
        assertThat(again(theirs).prove(crew.shore(), crew.address()).attempt.methods())
                .containsExactly("recovery-code");
        var madeUp = new ApiPerson(world);
        madeUp.device = "__Host-entente-device=" + "A".repeat(43);
        assertThat(madeUp.prove(crew.shore(), crew.address()).attempt.methods()).containsExactly("recovery-code");
    }

    @Test
    void on_shared_desks_no_device_becomes_known_and_none_counts() throws IOException {
        var crew = world.crew();
        write("networks/ward-desks.yaml", "network: ward-desks\nranges: [203.0.113.64/26]\nshared: true\n");
        pilot(ONE, crew);
        var desk = new ApiPerson(world);
        desk.network = "203.0.113.70";
        reset(desk, crew, "Device-Quay-301");
        assertThat(explained(crew)).doesNotContain("known-device");
        var details = again(desk).wants("details").prove(crew.shore(), crew.address());
        assertThat(devices(details)).isEmpty();

        var own = new ApiPerson(world);
        own.network = "203.0.113.5";
        reset(own, crew, "Device-Quay-302");
        withPaper(crew);
        pilot(TWO, crew);
        assertThat(again(own).prove(crew.shore(), crew.address()).attempt.methods())
                .contains("known-device");
        var moved = again(own);
        moved.network = "203.0.113.71";
        assertThat(moved.prove(crew.shore(), crew.address()).attempt.methods()).containsExactly("recovery-code");
    }

    @Test
    void a_policy_can_t_make_it_enough_alone_or_first() throws IOException {
        var draft = ApiPerson.JSON.readTree(api.post(
                        "/drafts",
                        "{\"name\": \"alone-" + UUID.randomUUID().toString().substring(0, 8) + "\"}")
                .body());
        write("methods.yaml", "known-device: { alone: true }\n");
        var loaded = api.put(
                "/drafts/" + draft.path("id").asString() + "/files",
                new dev.entente.wire.DraftApi.DraftFiles(
                        java.util.Map.of("methods.yaml", "known-device: { alone: true }\n")));
        assertThat(loaded.body()).contains("known-device is never enough alone");
    }
}
