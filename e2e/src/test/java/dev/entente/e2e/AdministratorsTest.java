package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.verify.appcode.AppCode;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/** Administrators come and go, show a second factor, approve what others change; strangers keep none of them out. */
class AdministratorsTest {
    private static final String OTHERS = "another-long-password";
    private final ServiceWorld world = ServiceWorld.get();
    private final ConsoleApi first = ConsoleApi.signedIn(world);

    @BeforeEach
    @AfterEach
    void alone() {
        world.withoutApproval();
        world.query("DELETE FROM administrator WHERE login <> 'ingeborg'");
    }

    private static JsonNode json(HttpResponse<String> answer) {
        return ApiPerson.JSON.readTree(answer.body());
    }

    private ConsoleApi added(String login) {
        assertThat(first.post(
                                "/administrators",
                                "{\"login\":\"" + login + "\",\"name\":\"Another\",\"password\":\"" + OTHERS + "\"}")
                        .statusCode())
                .isEqualTo(201);
        return signedIn(login);
    }

    private ConsoleApi signedIn(String login) {
        return ConsoleApi.with(
                world, json(token(login, OTHERS, null, "")).path("token").asString());
    }

    private HttpResponse<String> token(String login, String password, String code, String network) {
        return ConsoleApi.asNobody(world)
                .from(network)
                .post(
                        "/tokens",
                        ApiPerson.JSON.writeValueAsString(
                                code == null
                                        ? Map.of("login", login, "password", password)
                                        : Map.of("login", login, "password", password, "code", code)));
    }

    @Test
    void whoever_is_suspended_or_removed_is_out_at_once_and_the_last_one_stays() {
        var other = added("bjarke");
        assertThat(other.get("/stops").statusCode()).isEqualTo(200);
        world.entente("administrator", "suspend", "bjarke").expect(0);
        assertThat(other.get("/stops").statusCode()).isEqualTo(401);
        assertThat(token("bjarke", OTHERS, null, "").statusCode()).isEqualTo(401);
        world.entente("administrator", "resume", "bjarke").expect(0);
        var again = signedIn("bjarke");
        assertThat(again.get("/stops").statusCode()).isEqualTo(200);
        world.entente("administrator", "remove", "bjarke").expect(0);
        assertThat(again.get("/stops").statusCode()).isEqualTo(401);
        assertThat(world.entente("administrator", "remove", "ingeborg")
                        .expect(1)
                        .err())
                .contains("last");
        assertThat(first.get("/stops").statusCode()).isEqualTo(200);
        world.onRecord("administrator.removed", "bjarke");
    }

    @Test
    void a_session_ends_absolutely_can_be_ended_and_a_new_password_ends_all_others() {
        var one = added("carla");
        var two = signedIn("carla");
        assertThat(json(two.get("/me/sessions"))).hasSize(2);
        assertThat(two.put("/me/password", Map.of("before", "wrong", "password", "yet-another-password"))
                        .statusCode())
                .isBetween(400, 499);
        assertThat(two.put("/me/password", Map.of("before", OTHERS, "password", "yet-another-password"))
                        .statusCode())
                .isEqualTo(204);
        assertThat(one.get("/stops").statusCode()).isEqualTo(401);
        assertThat(two.get("/stops").statusCode()).isEqualTo(200);
        assertThat(world.query("SELECT max(ends_at - made_at) = interval '12 hours' FROM administrator_session"))
                .isEqualTo("t");
        for (var minutes = 20; minutes < 720; minutes += 20) {
            world.later(Duration.ofMinutes(minutes));
            assertThat(two.get("/stops").statusCode()).as("used all the time").isEqualTo(200);
        }
        world.later(Duration.ofHours(12));
        assertThat(two.get("/stops").statusCode()).as("twelve hours later").isEqualTo(401);
    }

    @Test
    void a_second_factor_is_asked_for_at_sign_in_and_again_before_what_is_dangerous() {
        var other = added("dagmar");
        var offered = json(other.post("/me/second-factor", ""));
        var app = AppCode.parse(offered.path("secret").asString());
        var step = Instant.now().getEpochSecond() / 30;
        var set = other.post("/me/second-factor/confirmation", "{\"code\":\"" + app.at(step - 1) + "\"}");
        assertThat(set.statusCode()).isEqualTo(200);
        var recovery = json(set).path("recoveryCodes");
        assertThat(recovery).hasSize(10);
        assertThat(token("dagmar", OTHERS, null, "").body()).contains("second-factor");
        assertThat(token("dagmar", OTHERS, app.at(step - 1), "").statusCode())
                .as("a code that was used")
                .isEqualTo(401);
        var entered = token("dagmar", OTHERS, recovery.path(0).asString(), "");
        assertThat(entered.statusCode()).isEqualTo(200);
        assertThat(token("dagmar", OTHERS, recovery.path(0).asString(), "").statusCode())
                .as("a recovery code counts once")
                .isEqualTo(401);
        var session = ConsoleApi.with(world, json(entered).path("token").asString());
        world.later(Duration.ofMinutes(11));
        var newOne = "{\"login\":\"eigil\",\"name\":\"Eigil\",\"password\":\"" + OTHERS + "\"}";
        assertThat(session.post("/administrators", newOne).body()).contains("urn:entente:problem:confirm");
        var id = UUID.randomUUID();
        for (var asked : List.of(
                // However an address is written, it is the same call.
                session.post("/%61dministrators", newOne),
                session.put("/%6Futlets/elsewhere", Map.of()),
                session.post("/security-answers", "{}"),
                session.put("/channels/mail/bounces", Map.of()),
                session.delete("/channels/mail/bounces"),
                session.post("/correlation-cases/" + id + "/settlement", "{}"),
                session.post("/people/" + id + "/self-service/opening", "{}"),
                session.delete("/stops?what=method:push"),
                session.post("/directories", "{}"),
                session.post("/drafts/" + id + "/approval", "{}"))) {
            assertThat(asked.body()).as(asked.uri().toString()).contains("urn:entente:problem:confirm");
        }
        // What is no danger isn't held up: reading, drafts, and stopping something at once.
        assertThat(session.get("/stops").statusCode()).isEqualTo(200);
        for (var harmless : List.of(
                session.post("/stops", "{}"), session.post("/drafts/" + id + "/merge", ""), session.get("/outlets"))) {
            assertThat(harmless.body()).doesNotContain("urn:entente:problem:confirm");
        }
        assertThat(session.post("/me/confirmation", "{\"code\":\"000000\"}").statusCode())
                .isBetween(400, 499);
        assertThat(session.post(
                                "/me/confirmation",
                                "{\"code\":\"" + recovery.path(1).asString() + "\"}")
                        .statusCode())
                .isEqualTo(204);
        assertThat(session.post("/administrators", newOne).statusCode()).isEqualTo(201);
    }

    @Test
    void whoever_has_to_have_a_second_factor_can_do_nothing_before_it_is_set_up() {
        assertThat(first.put("/switches", Map.of("temporaryPasswords", false, "secondFactorRequired", true))
                        .statusCode())
                .isEqualTo(200);
        try {
            var other = withoutSecondFactor("frida");
            assertThat(other.get("/stops").body()).contains("second-factor-needed");
            var app = AppCode.parse(
                    json(other.post("/me/second-factor", "")).path("secret").asString());
            var code = app.at(Instant.now().getEpochSecond() / 30);
            assertThat(other.post("/me/second-factor/confirmation", "{\"code\":\"" + code + "\"}")
                            .statusCode())
                    .isEqualTo(200);
            assertThat(other.get("/stops").statusCode()).isEqualTo(200);
        } finally {
            world.query("UPDATE service_switch SET turned_on = false WHERE name = 'second-factor-required'");
        }
    }

    /** Made as a row, since the first administrator has no second factor here either. */
    private ConsoleApi withoutSecondFactor(String login) {
        world.query("INSERT INTO administrator (id, login, name, password_hash, created_at) SELECT gen_random_uuid(), '"
                + login + "', 'Frida', password_hash, now() FROM administrator WHERE login = 'ingeborg'");
        return ConsoleApi.with(
                world,
                json(token(login, Installation.PASSWORD, null, ""))
                        .path("token")
                        .asString());
    }

    @Test
    void strangers_with_many_addresses_lock_no_administrator_out() {
        added("gudrun");
        for (var i = 1; i <= 60; i++) {
            assertThat(token("gudrun", "guess " + i, null, "198.19.7." + i).statusCode())
                    .isIn(401, 429);
        }
        assertThat(token("gudrun", OTHERS, null, "").statusCode())
                .as("from where they were before")
                .isEqualTo(200);
        world.onRecord("administrator.sign-in-failed");
        assertThat(world.entente("event", "list", "--limit", "200").out()).doesNotContain("guess 7");
    }

    @Test
    void strangers_wait_behind_strangers_and_who_is_known_behind_none_of_them() throws Exception {
        var known = Map.of(
                "login",
                "ingeborg",
                "password",
                Installation.PASSWORD,
                "device",
                ApiPerson.JSON
                        .readTree(Files.readString(world.dir.resolve("administrator/profiles/default.json")))
                        .path("device")
                        .asString());
        var threads = Executors.newFixedThreadPool(40);
        try {
            var flood = new ArrayList<Future<HttpResponse<String>>>();
            for (var i = 0; i < 40; i++) {
                var address = "198.19.9." + i;
                flood.add(threads.submit(
                        () -> token("nobody." + address, "a guess of forty characters or so", null, address)));
            }
            Installation.waitUntil(
                    Duration.ofSeconds(30),
                    "some of it was hashed",
                    () -> flood.stream().anyMatch(Future::isDone));
            var entered = ConsoleApi.asNobody(world).post("/tokens", ApiPerson.JSON.writeValueAsString(known));
            var waiting = flood.stream().filter(one -> !one.isDone()).count();
            assertThat(entered.statusCode()).isEqualTo(200);
            assertThat(waiting).as("strangers who wait still").isPositive();
            for (var one : flood) {
                assertThat(one.get().statusCode()).isEqualTo(401);
            }
        } finally {
            threads.shutdown();
        }
    }

    @Test
    void what_decides_who_gets_codes_waits_for_somebody_else_and_nobody_approves_their_own() {
        var other = added("halvor");
        assertThat(first.put("/approval-rule", Map.of("askedFor", "weakening")).statusCode())
                .isEqualTo(200);
        var before = first.get("/channels/mail").body();
        var mail = Map.of(
                "host",
                "mail.evil.test",
                "port",
                25,
                "security",
                "none",
                "sender",
                "no-reply@skerry.test",
                "administrators",
                java.util.List.of());
        assertThat(other.put("/channels/mail", mail).statusCode()).isEqualTo(202);
        assertThat(first.get("/channels/mail").body()).isEqualTo(before);
        var waiting = json(first.get("/proposed-changes"));
        assertThat(waiting).hasSize(1);
        assertThat(waiting.toString()).contains("mail.evil.test", "halvor");
        var id = waiting.path(0).path("id").asString();
        assertThat(other.post("/proposed-changes/" + id + "/approval", "").statusCode())
                .as("one's own")
                .isEqualTo(409);
        assertThat(other.put("/approval-rule", Map.of("askedFor", "nothing")).statusCode())
                .as("the rule itself")
                .isEqualTo(202);
        world.entente("approval", "refuse", id).expect(0);
        assertThat(first.get("/proposed-changes").body()).doesNotContain(id);
        assertThat(first.get("/channels/mail").body()).isEqualTo(before);
        world.onRecord("mail.evil.test");
    }

    @Test
    void a_text_that_the_database_cannot_keep_is_refused_with_a_reason() {
        for (var call : List.of(
                first.post("/drafts", "{\"name\": \"kelpline\\u0000after\"}"),
                first.post("/stops", "{\"what\": \"action:reset\", \"reason\": \"kelpline\\u0000after\"}"))) {
            assertThat(call.statusCode()).as(call.body()).isEqualTo(422);
            assertThat(call.body()).contains("urn:entente:problem:zero-character", "U+0000");
        }
        assertThat(world.entente("stops").out()).doesNotContain("kelpline");
    }
}
