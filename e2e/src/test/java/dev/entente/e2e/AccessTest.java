package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.CookieManager;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

/** Who gets into the administrators' API, and how. */
class AccessTest {
    private final ServiceWorld world = ServiceWorld.get();
    private final HttpClient http =
            HttpClient.newBuilder().cookieHandler(new CookieManager()).build();

    private HttpResponse<String> post(String path, String body, String... headers) {
        try {
            var request = HttpRequest.newBuilder(URI.create(world.url + "/api/v1" + path))
                    .header("Content-Type", "application/json")
                    .POST(HttpRequest.BodyPublishers.ofString(body));
            for (var i = 0; i < headers.length; i += 2) {
                request.header(headers[i], headers[i + 1]);
            }
            return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    @Test
    void the_one_time_link_is_used_up_and_its_file_gives_it_to_nobody_else() throws IOException {
        var file = world.dir.resolve("secrets/first-administrator.link");
        var token = Files.exists(file) ? Files.readString(file).strip().split("#")[1] : "none";
        var answer = post(
                "/first-administrator",
                "{\"token\":\"" + token
                        + "\",\"login\":\"second\",\"name\":\"x\",\"password\":\"long-enough-password\"}");
        assertThat(answer.statusCode()).isEqualTo(403);
        assertThat(answer.body()).contains("This link was already used, or has expired");
        try (var secrets = Files.list(world.dir.resolve("secrets"))) {
            for (var secret : secrets.toList()) {
                assertThat(Files.getPosixFilePermissions(secret).toString()).doesNotContain("GROUP", "OTHERS");
            }
        }
    }

    @Test
    void a_session_is_protected_against_other_sites() {
        var signIn = "{\"login\":\"ingeborg\",\"password\":\"" + Installation.PASSWORD + "\"}";
        assertThat(post("/session", signIn).statusCode())
                .as("without the token that only this site's pages can read")
                .isEqualTo(403);
        var cookie = post("/session", signIn).headers().allValues("set-cookie").toString();
        assertThat(cookie).doesNotContain("__Host-entente-session");
    }

    @Test
    void wrong_passwords_are_answered_alike_and_run_out() {
        // Ten in ten minutes; the clock may begin the next ten in the middle.
        var statuses = IntStream.range(0, 21)
                .map(i -> post("/tokens", "{\"login\":\"guessing\",\"password\":\"wrong\"}")
                        .statusCode())
                .toArray();
        assertThat(statuses).startsWith(401, 401).contains(429);
        assertThat(world.shell(
                                "curl -s -o /dev/null -w '%{http_code}' --interface 127.0.0.2 -H 'Content-Type: application/json'"
                                        + " -d '{\"login\":\"guessing\",\"password\":\"wrong\"}' http://127.0.0.1:"
                                        + world.port
                                        + "/api/v1/tokens")
                        .out())
                .as("from another network")
                .isEqualTo("401");
        assertThat(post("/tokens", "{\"login\":\"nobody-known\",\"password\":\"wrong\"}")
                        .body())
                .isEqualTo(post("/tokens", "{\"login\":\"ingeborg\",\"password\":\"wrong\"}")
                        .body());
    }

    @Test
    void right_passwords_do_not_run_out() {
        var signIn = "{\"login\":\"ingeborg\",\"password\":\"" + Installation.PASSWORD + "\"}";
        for (var i = 0; i < 21; i++) {
            assertThat(post("/tokens", signIn).statusCode()).isEqualTo(200);
        }
    }

    @Test
    void a_token_of_another_shape_is_no_token() {
        for (var token : new String[] {"ent_", "ent_AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA", "' OR 1=1 --"}) {
            assertThat(post("/drafts", "{\"name\":\"x\"}", "Authorization", "Bearer " + token)
                            .statusCode())
                    .isEqualTo(401);
        }
    }

    @Test
    void a_session_is_a_row_of_plain_values_and_no_object_to_be_read_back() {
        assertThat(world.query("SELECT string_agg(column_name, ', ') FROM information_schema.columns"
                        + " WHERE table_schema = 'public' AND table_name ILIKE '%session%'"
                        + " AND data_type NOT IN ('uuid', 'text', 'timestamp with time zone', 'boolean')"
                        + " AND NOT (data_type = 'bytea' AND column_name LIKE '%_hash')"))
                .isEmpty();
        // How every serialised Java object begins.
        assertThat(world.query(
                        "SELECT count(*) FILTER (WHERE encode(convert_to(s::text, 'UTF8'), 'hex') LIKE '%aced0005%'"
                                + " OR s::text LIKE '%aced0005%'), count(*) > 0 FROM administrator_session s"))
                .isEqualTo("0|t");
    }

    @Test
    void what_is_kept_of_passwords_and_tokens_opens_nothing() {
        assertThat(world.query("SELECT password_hash FROM administrator")).startsWith("$argon2id$");
        assertThat(world.query(
                        "SELECT count(*) FROM administrator_session WHERE position('ent_'::bytea in token_hash) > 0"))
                .isEqualTo("0");
    }
}
