package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.bench.Sealer;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Evidence;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.Seal;
import dev.entente.core.seal.SealBinding;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.AttemptAct;
import dev.entente.wire.PortalApi;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.security.SecureRandom;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.Test;

/** What the portal's API refuses, and that nothing is lost by it: the attempt goes on from where it was. */
class PortalApiTest {
    private final ServiceWorld world = ServiceWorld.get();

    private ApiPerson proved() {
        var crew = world.crew();
        return new ApiPerson(world).prove(crew.shore(), crew.address());
    }

    @Test
    void bad_input_gets_a_problem_with_a_sentence() {
        var person = new ApiPerson(world);
        assertProblem(person.start(" "), 422, "Type the name you sign in with");
        assertProblem(person.start("x".repeat(300)), 422, "Type the name");
        assertProblem(
                person.call("POST", "/attempts", new PortalApi.Start("a", "temporary", person.key.publicKey())),
                422,
                "can't be done here");
        assertProblem(person.call("POST", "/attempts", Map.of("name", "a", "action", "reset")), 422, "key is missing");
        var key = person.key.publicKey();
        assertProblem(
                person.call(
                        "POST",
                        "/attempts",
                        Map.of(
                                "name",
                                "a",
                                "action",
                                "reset",
                                "key",
                                Map.of("kty", "EC", "crv", "P-256", "x", key.y(), "y", key.y()))),
                422,
                "not on P-256");
        assertThat(person.call("GET", "/attempt", null).status())
                .as("no attempt is no fault")
                .isEqualTo(204);
        assertProblem(
                person.call("POST", "/attempt/challenges", new PortalApi.Ask("smoke-signal", null, null)),
                422,
                "no such method");
    }

    private static void assertProblem(ApiPerson.Answer answer, int status, String says) {
        assertThat(answer.status()).as(answer.body()).isEqualTo(status);
        assertThat(answer.json().path("type").asString()).startsWith("urn:entente:problem:");
        assertThat(answer.json().path("detail").asString()).contains(says);
    }

    @Test
    void nothing_can_be_sealed_before_the_proof_and_the_cookie_changes_with_it() {
        var crew = world.crew();
        var person = new ApiPerson(world);
        var before = world.mailbox.to(crew.address()).size();
        person.start(crew.shore());
        person.attempt = person.ask().as(PortalApi.Attempt.class);
        assertProblem(person.call("GET", "/attempt/sealing", null), 409, "isn't waiting for a password");
        assertProblem(person.handIn(List.of(new PortalApi.SealedPassword("{}", "a.b.c"))), 409, "isn't waiting");
        var old = person.cookie;
        var code = world.mailbox.nextCode(crew.address(), before);
        assertThat(person.answer(code).status()).isEqualTo(200);
        assertThat(person.cookie).isNotEqualTo(old);

        var thief = new ApiPerson(world);
        thief.cookie = old;
        assertThat(thief.call("GET", "/attempt", null).status()).isEqualTo(410);
        assertThat(thief.call("GET", "/attempt/sealing", null).status()).isEqualTo(410);
        // Whoever copied cookie and code gets nothing new with them: it takes the key of the attempt.
        thief.attempt = person.attempt;
        var answers = "/attempt/challenges/" + person.attempt.challenge().id() + "/answers";
        var body = ApiPerson.JSON.writeValueAsString(PortalApi.Answer.typed(code));
        assertThat(thief.send("POST", answers, body, "").status()).isEqualTo(410);
        assertThat(thief.cookie).isEqualTo(old);
        var reference = person.attempt.reference().replaceAll("[^0-9]", "");
        var other = SigningKey.generate(new SecureRandom());
        assertThat(thief.send("POST", answers, body, AttemptAct.sign(other, reference, "POST", answers, body))
                        .status())
                .isEqualTo(410);
        assertThat(thief.cookie).isEqualTo(old);
        // If the answer with the new cookie got lost, the browser that began gets another.
        var now = person.cookie;
        person.cookie = old;
        assertThat(person.answer(code).status()).isEqualTo(200);
        assertThat(person.cookie).isNotEqualTo(old).isNotEqualTo(now);
    }

    @Test
    void a_stolen_cookie_enrols_nothing_ends_nothing_and_a_signature_counts_once_and_for_its_own_call() {
        var crew = world.crew();
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var thief = new ApiPerson(world);
        thief.cookie = person.cookie;
        var path = "/attempt/enrolments";
        var body = "{\"method\":\"app-code\",\"label\":\"thief\"}";
        assertProblem(thief.send("POST", path, body, ""), 403, "on the page that started the attempt");
        assertProblem(thief.send("POST", "/attempt/end", "", ""), 403, "on the page that started");
        assertProblem(thief.send("POST", "/attempt/continuation", "", ""), 403, "on the page that started");
        assertProblem(thief.send("POST", path, "{\"method\":\"recovery-code\"}", ""), 403, "on the page");
        var reference = person.attempt.reference().replaceAll("[^0-9]", "");
        var act = AttemptAct.sign(person.key, reference, "POST", path, body);
        assertProblem(thief.send("POST", path, "{\"method\":\"recovery-code\"}", act), 403, "on the page");
        assertThat(person.send("POST", path, body, act).status()).isEqualTo(201);
        assertProblem(thief.send("POST", path, body, act), 403, "on the page");
        assertThat(person.look().state()).isEqualTo("proved");
    }

    @Test
    void a_page_of_another_site_starts_and_changes_nothing() {
        for (var header : List.of("Origin: https://evil.test", "Sec-Fetch-Site: cross-site")) {
            var answered = world.shell("curl -s -o /dev/null -w '%{http_code}' -H 'Content-Type: application/json' -H '"
                    + header + "' -d '{}' " + world.url + "/api/v1/portal/attempts");
            assertThat(answered.out()).as(header).isEqualTo("403");
        }
    }

    @Test
    void a_page_that_waits_is_told_what_changed_and_nothing_twice_and_a_second_one_takes_its_place() throws Exception {
        var crew = world.crew();
        var person = new ApiPerson(world);
        person.start(crew.shore()).as(PortalApi.Attempt.class);
        try (var first = Stream.open(world, person)) {
            first.next();
            person.attempt = person.ask().as(PortalApi.Attempt.class);
            assertThat(first.next()).contains(person.attempt.challenge().id().toString());
            try (var second = Stream.open(world, person)) {
                second.next();
                assertThat(first.next())
                        .as("the first one is over, and was told nothing that it knew")
                        .isEmpty();
            }
        }
    }

    /** What a page hears while it waits. */
    private record Stream(InputStream body, BufferedReader lines) implements AutoCloseable {
        static Stream open(ServiceWorld world, ApiPerson person) throws Exception {
            var request = HttpRequest.newBuilder(URI.create(world.url + "/api/v1/portal/attempt/updates"))
                    .header("Cookie", person.cookie)
                    .header(AttemptAct.HEADER, person.act("GET", "/attempt/updates", ""))
                    .build();
            var body = HttpClient.newHttpClient()
                    .send(request, HttpResponse.BodyHandlers.ofInputStream())
                    .body();
            return new Stream(body, new BufferedReader(new InputStreamReader(body, StandardCharsets.UTF_8)));
        }

        /** The next thing told; empty when nothing will be. */
        String next() throws IOException {
            for (var line = lines.readLine(); line != null; line = lines.readLine()) {
                if (line.startsWith("data:")) {
                    return line;
                }
            }
            return "";
        }

        @Override
        public void close() throws IOException {
            body.close();
        }
    }

    /** Hands in a right seal for one directory and a changed one for the other. */
    private ApiPerson.Answer handInChanged(
            ApiPerson person, UnaryOperator<SealBinding> change, SigningKey evidenceKey) {
        var sealing = person.sealing();
        var sealed = new ArrayList<PortalApi.SealedPassword>();
        for (var target : sealing.targets()) {
            var recipient = ApiPerson.recipient(target);
            var binding = ApiPerson.binding(sealing, target, recipient, person.key.publicKey());
            var seal = Seal.parse(Sealer.seal(
                    target.name().equals("shore") ? binding : change.apply(binding), recipient, "Portal-Quay-101"));
            sealed.add(new PortalApi.SealedPassword(
                    seal.text(), ApiPerson.evidence(seal).sign(evidenceKey)));
        }
        return person.handIn(sealed);
    }

    private static SealBinding with(
            SealBinding b, UUID attempt, String action, List<UUID> accounts, String roster, String key, long exp) {
        return new SealBinding(1, b.id(), attempt, b.directory(), action, accounts, roster, key, b.recipients(), exp);
    }

    @Test
    void the_service_refuses_seals_that_are_bound_to_something_else_and_the_attempt_goes_on() {
        var person = proved();
        var key = person.key;
        Map<String, UnaryOperator<SealBinding>> changes = Map.of(
                "another attempt",
                b -> with(b, UUID.randomUUID(), b.action(), b.accounts(), b.roster(), b.key(), b.exp()),
                "another action",
                b -> with(b, b.attempt(), "change", b.accounts(), b.roster(), b.key(), b.exp()),
                "other accounts",
                b -> with(b, b.attempt(), b.action(), List.of(UUID.randomUUID()), b.roster(), b.key(), b.exp()),
                "another roster",
                b -> with(b, b.attempt(), b.action(), b.accounts(), Roster.digest("x"), b.key(), b.exp()),
                "another key than the attempt's",
                b -> with(b, b.attempt(), b.action(), b.accounts(), b.roster(), EcKey.digest("x"), b.exp()),
                "out of bounds",
                b -> with(b, b.attempt(), b.action(), b.accounts(), b.roster(), b.key(), b.exp() + 86_400_000));
        changes.forEach((says, change) -> assertProblem(handInChanged(person, change, key), 422, says));
        assertProblem(
                handInChanged(person, b -> b, SigningKey.generate(new SecureRandom())),
                422,
                "signed by another key than the seal names");
        assertThat(person.look().state()).isEqualTo("proved");

        person.choose("Portal-Quay-102").waitForOutcome(Duration.ofSeconds(30));
        assertThat(person.attempt.state()).isEqualTo("completed");
        assertThat(world.entente("attempt", "show", person.attempt.reference()).out())
                .contains("A sealed password was refused: the seal is bound to another attempt");
    }

    @Test
    void a_directory_without_its_seal_or_with_two_is_refused() {
        var person = proved();
        var sealing = person.sealing();
        var first = person.seal(sealing, sealing.targets().get(0), "Portal-Quay-201");
        var second = person.seal(sealing, sealing.targets().get(0), "Portal-Quay-202");
        assertProblem(person.handIn(List.of(first)), 422, "not one seal for each directory");
        assertProblem(person.handIn(List.of(first, second)), 422, "two seals");
        assertProblem(person.handIn(List.of()), 422, "one to sixteen");
        assertThat(person.look().state()).isEqualTo("proved");
    }

    @Test
    void evidence_that_has_expired_is_refused() {
        var person = proved();
        var sealing = person.sealing();
        var sealed = new ArrayList<PortalApi.SealedPassword>();
        for (var target : sealing.targets()) {
            var right = person.seal(sealing, target, "Portal-Quay-301");
            var seal = Seal.parse(right.seal());
            var e = ApiPerson.evidence(seal);
            var short1 = new Evidence(
                    1, e.attempt(), e.directory(), e.action(), e.accounts(), e.seal(), e.iat(), e.iat() + 1);
            sealed.add(new PortalApi.SealedPassword(right.seal(), short1.sign(person.key)));
        }
        assertProblem(person.handIn(sealed), 422, "agrees to something else than this seal");
    }

    @Test
    void handing_in_the_same_again_changes_nothing_and_another_afterwards_is_refused() {
        var person = proved();
        world.stewards.get("fleet").hold();
        try {
            var sealing = person.sealing();
            var sealed = sealing.targets().stream()
                    .map(t -> person.seal(sealing, t, "Portal-Quay-401"))
                    .toList();
            assertThat(person.handIn(sealed).status()).isEqualTo(202);
            assertThat(person.handIn(List.of(sealed.get(fleet(sealing)))).status())
                    .isEqualTo(202);
            var other = sealing.targets().stream()
                    .map(t -> person.seal(sealing, t, "Portal-Quay-402"))
                    .toList();
            assertProblem(person.handIn(other), 409, "isn't waiting for a password");
            var reference = person.attempt.reference().replaceAll("[^0-9]", "");
            assertThat(world.query(
                            "SELECT count(*) FROM delivery d JOIN attempt a ON a.id = d.attempt WHERE a.reference = '"
                                    + reference + "'"))
                    .isEqualTo("2");
        } finally {
            world.stewards.get("fleet").goOn();
        }
        assertThat(person.waitForOutcome(Duration.ofSeconds(40)).state()).isEqualTo("completed");
    }

    private static int fleet(PortalApi.Sealing sealing) {
        return sealing.targets().get(0).name().equals("fleet") ? 0 : 1;
    }

    @Test
    void an_alarm_with_a_made_up_token_leads_to_the_help_desk() {
        assertProblem(
                new ApiPerson(world).call("POST", "/alarms", new PortalApi.Alarm("made-up", true)),
                404,
                "Contact the help desk");
    }
}
