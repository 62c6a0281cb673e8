package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.UUID;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What creates something is done once under one key, however often it is asked for. */
class RepeatedCallsTest {
    private final ServiceWorld world = ServiceWorld.get();
    private final ConsoleApi api = ConsoleApi.signedIn(world);
    private final String key = UUID.randomUUID().toString();

    @AfterEach
    void discard() {
        for (var draft : ApiPerson.JSON.readTree(api.get("/drafts").body())) {
            api.delete("/drafts/" + draft.path("id").asString());
        }
    }

    private HttpResponse<String> draft(String name, String by) {
        return api.post("/drafts", "{\"name\":\"" + name + "\"}", "Idempotency-Key", by);
    }

    private int drafts(String name) {
        return Integer.parseInt(world.query("SELECT count(*) FROM draft WHERE name = '" + name + "'"));
    }

    @Test
    void the_second_call_gets_the_answer_of_the_first() {
        var first = draft("once", key);
        var second = draft("once", key);
        assertThat(first.statusCode()).isEqualTo(201);
        assertThat(second.statusCode()).isEqualTo(201);
        assertThat(second.body()).isEqualTo(first.body());
        assertThat(drafts("once")).isEqualTo(1);
        assertThat(draft("once", UUID.randomUUID().toString()).body())
                .as("under another key it is another draft")
                .isNotEqualTo(first.body());
        assertThat(world.query("SELECT count(*) FROM repeated_call WHERE body LIKE '%once%'::bytea"))
                .as("kept encrypted")
                .isEqualTo("0");
    }

    /** Its password is hashed on another thread. */
    @Test
    void what_is_answered_later_is_kept_as_well() {
        var body = "{\"login\":\"repeated\",\"name\":\"Repeated\",\"password\":\"a-long-test-password\"}";
        var first = api.post("/administrators", body, "Idempotency-Key", key);
        try {
            assertThat(first.statusCode()).as(first.body()).isEqualTo(201);
            assertThat(first.body()).contains("repeated");
            var second = api.post("/administrators", body, "Idempotency-Key", key);
            assertThat(second.statusCode()).isEqualTo(201);
            assertThat(second.body()).isEqualTo(first.body());
        } finally {
            api.delete("/administrators/repeated");
        }
    }

    @Test
    void many_at_the_same_time_do_it_once() {
        var answers = Installation.atOnce(12, i -> draft("at once", key));
        assertThat(drafts("at once")).isEqualTo(1);
        assertThat(answers)
                .allMatch(a -> a.statusCode() == 201
                        || a.statusCode() == 409 && a.body().contains("urn:entente:problem:idempotency-key-in-use"));
        assertThat(draft("at once", key).statusCode()).isEqualTo(201);
    }

    @Test
    void a_key_is_for_one_call_and_of_one_administrator() {
        assertThat(draft("mine", key).statusCode()).isEqualTo(201);
        var other = draft("something else", key);
        assertThat(other.statusCode()).isEqualTo(422);
        assertThat(other.body()).contains("urn:entente:problem:idempotency-key-reused");
        assertThat(draft("x", "k".repeat(129)).statusCode()).isEqualTo(400);
        assertThat(drafts("something else")).isZero();
        world.query("UPDATE repeated_call SET administrator = gen_random_uuid() WHERE status = 201");
        assertThat(draft("something else", key).statusCode())
                .as("another administrator's key means nothing here")
                .isEqualTo(201);
    }

    @Test
    void what_was_refused_is_refused_again_and_what_broke_off_says_that_nobody_knows() {
        var refused = draft("y".repeat(5000), key);
        assertThat(draft("y".repeat(5000), key).body()).isEqualTo(refused.body());
        var lost = UUID.randomUUID().toString();
        assertThat(draft("lost", lost).statusCode()).isEqualTo(201);
        world.query("UPDATE repeated_call SET status = NULL WHERE made_at = (SELECT max(made_at) FROM repeated_call"
                + " WHERE made_at <= entente_now())");
        world.later(Duration.ofMinutes(5));
        assertThat(draft("lost", lost).body()).contains("urn:entente:problem:idempotency-outcome-unknown");
    }
}
