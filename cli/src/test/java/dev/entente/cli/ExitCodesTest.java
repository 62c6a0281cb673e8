package dev.entente.cli;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpServer;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.PrintStream;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What a command prints and how it ends, whatever the service answers. One line and a code; scripts rely on both. */
class ExitCodesTest {
    @TempDir
    private Path home;

    private HttpServer server;
    private volatile int status = 200;
    private volatile String body = "[]";
    private volatile String contentType = "application/json";
    private final List<String> asked = new ArrayList<>();

    @BeforeEach
    void start() throws IOException {
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 10);
        server.createContext("/", exchange -> {
            asked.add(exchange.getRequestMethod() + " " + exchange.getRequestURI() + " "
                    + exchange.getRequestHeaders().getFirst("Authorization"));
            var bytes = body.getBytes(StandardCharsets.UTF_8);
            exchange.getResponseHeaders().set("Content-Type", contentType);
            exchange.sendResponseHeaders(status, bytes.length == 0 ? -1 : bytes.length);
            exchange.getResponseBody().write(bytes);
            exchange.close();
        });
        server.start();
    }

    @AfterEach
    void stop() {
        server.stop(0);
    }

    private String url() {
        return "http://127.0.0.1:" + server.getAddress().getPort();
    }

    private record Ended(int code, String out, String err) {}

    private Ended run(String... arguments) {
        var all = new ArrayList<>(List.of("--server", url()));
        all.addAll(Arrays.asList(arguments));
        return at(all.toArray(String[]::new));
    }

    private Ended at(String... arguments) {
        var out = System.out;
        var err = System.err;
        var printed = new ByteArrayOutputStream();
        var complained = new ByteArrayOutputStream();
        System.setOut(new PrintStream(printed, true, StandardCharsets.UTF_8));
        System.setErr(new PrintStream(complained, true, StandardCharsets.UTF_8));
        try {
            var code = Entente.run(new Home(home), arguments);
            return new Ended(
                    code, printed.toString(StandardCharsets.UTF_8), complained.toString(StandardCharsets.UTF_8));
        } finally {
            System.setOut(out);
            System.setErr(err);
        }
    }

    private void answers(int newStatus, String newBody) {
        status = newStatus;
        body = newBody;
        contentType = newStatus < 400 ? "application/json" : "application/problem+json";
    }

    @ParameterizedTest(name = "status {0} ends with {1}")
    @CsvSource({"400, 1", "401, 4", "403, 4", "404, 1", "409, 1", "422, 1", "429, 1", "500, 1", "503, 1"})
    void a_problem_is_one_line_and_a_code(int answered, int code) {
        answers(answered, "{\"type\":\"urn:entente:problem:x\",\"detail\":\"Say this to whoever reads it.\"}");
        var ended = run("draft", "list");
        assertThat(ended.code()).isEqualTo(code);
        assertThat(ended.err()).isEqualTo("entente: Say this to whoever reads it.\n");
        assertThat(ended.out()).isEmpty();
    }

    @Test
    void problems_of_files_are_told_with_their_places() {
        answers(
                422,
                "{\"detail\":\"2 problems\",\"problems\":[{\"file\":\"policies/crew.yaml\",\"line\":3,\"column\":7,"
                        + "\"message\":\"there is no scope \\\"crw\\\"\"},{\"file\":\"order.yaml\",\"line\":0,\"column\":0,"
                        + "\"message\":\"missing\"}]}");
        assertThat(run("draft", "list").err())
                .isEqualTo("entente: 2 problems\n  policies/crew.yaml:3:7: there is no scope \"crw\"\n"
                        + "  order.yaml:0:0: missing\n");
    }

    @ParameterizedTest
    @CsvSource({"'<html>Bad gateway</html>'", "''", "'{}'", "'{\"detail\":\"\"}'", "'[1, 2'"})
    void an_answer_that_explains_nothing_is_told_by_its_status(String answer) {
        answers(502, answer);
        var ended = run("draft", "list");
        assertThat(ended.code()).isEqualTo(1);
        assertThat(ended.err())
                .contains("HTTP status 502")
                .contains("check --server")
                .hasLineCount(1);
    }

    @Test
    void a_service_that_is_not_there_ends_with_a_code_of_its_own() throws IOException {
        int closed;
        try (var socket = new ServerSocket(0)) {
            closed = socket.getLocalPort();
        }
        var ended = at("--server", "http://127.0.0.1:" + closed, "draft", "list");
        assertThat(ended.code()).isEqualTo(3);
        assertThat(ended.err())
                .startsWith("entente: Nothing answers at http://127.0.0.1:" + closed + ". Check")
                .hasLineCount(1);
    }

    @Test
    void an_address_that_is_none_is_told_with_what_one_looks_like() {
        var ended = at("--server", "recover.example.test", "draft", "list");
        assertThat(ended.code()).isEqualTo(2);
        assertThat(ended.err())
                .startsWith("entente: The service's address looks like https://recover.example.org, not recover");
    }

    @ParameterizedTest
    @CsvSource({"'draft frobnicate'", "'draft list --output xml'", "'nonsense'", "'stop'", "'explain'"})
    void what_is_typed_wrongly_is_told_with_what_is_possible_and_asks_nobody(String typed) {
        var ended = run(typed.split(" "));
        assertThat(ended.code()).isEqualTo(2);
        assertThat(ended.err()).startsWith("entente: ").contains("--help").hasLineCount(1);
        assertThat(asked).isEmpty();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "person list --limit 0 | whole number from 1",
                "draft discard --draft abc | \"abc\" isn't an id; copy all of it from the list",
                "draft frobnicate | did you mean",
                "explain x --at yesterday | write it as 2026-12-24T08:00"
            })
    void what_is_wrong_with_a_value_is_told_in_a_line(String typed, String says) {
        var ended = run(typed.split(" "));
        assertThat(ended.code()).isEqualTo(2);
        assertThat(ended.err()).contains(says).hasLineCount(1);
        assertThat(asked).isEmpty();
    }

    @ParameterizedTest
    @CsvSource({"../x", "a/b", "..", "''"})
    void what_can_be_the_name_of_nothing_is_not_asked_for(String name) {
        var ended = run("directory", "show", name);
        assertThat(ended.code()).isEqualTo(1);
        assertThat(ended.err()).isEqualTo("entente: there is nothing called \"" + name + "\"; check the name\n");
        assertThat(asked).isEmpty();
    }

    @Test
    void a_directory_whose_steward_file_cannot_be_written_is_not_added(@TempDir Path folder) throws IOException {
        var there = Files.writeString(folder.resolve("steward.yaml"), "mine");
        for (var file : List.of(there.toString(), "/proc/nothing/steward.yaml")) {
            var ended = run(
                    "directory",
                    "add",
                    "hr",
                    "--kind",
                    "local",
                    "--command",
                    "/bin/true",
                    "--correlation",
                    "number",
                    "--steward-file",
                    file);
            assertThat(ended.code()).isEqualTo(1);
            assertThat(ended.err()).hasLineCount(1);
            assertThat(asked).isEmpty();
        }
        assertThat(there).hasContent("mine");
        assertThat(run("directory", "add", "hr", "--kind", "nis", "--correlation", "x", "--steward-file", "s.yaml")
                        .err())
                .contains("--kind must be one of active-directory, ldap, scim, local, not nis");
    }

    @Test
    void an_empty_list_says_so_beside_the_output_so_that_scripts_read_nothing() {
        var ended = run("--output", "json", "draft", "list");
        assertThat(ended.code()).isZero();
        assertThat(ended.out()).isEqualToIgnoringWhitespace("[]");
        assertThat(asked).containsExactly("GET /api/v1/drafts null");
    }

    @Test
    void the_one_time_link_goes_to_the_service_in_it_and_to_no_other() throws IOException {
        answers(201, "{\"login\":\"ingeborg\",\"name\":\"Ingeborg\"}");
        var input = System.in;
        System.setIn(new ByteArrayInputStream("a-long-password\n".getBytes(StandardCharsets.UTF_8)));
        try {
            at(
                    "--server",
                    "http://127.0.0.1:1",
                    "first-administrator",
                    url() + "/console#secret",
                    "--login",
                    "ingeborg");
        } finally {
            System.setIn(input);
        }
        assertThat(asked).containsExactly("POST /api/v1/first-administrator null");
        asked.clear();
        assertThat(run("first-administrator", url() + "/console", "--login", "ingeborg")
                        .code())
                .as("what follows the # is missing")
                .isEqualTo(2);
        assertThat(asked).isEmpty();
    }

    @Test
    void each_profile_uses_its_own_token_and_server() {
        var it = new Home(home);
        it.signIn("default", new Home.SignedIn(url(), "ent_first", Long.MAX_VALUE, null));
        it.signIn("other", new Home.SignedIn(url() + "/", "ent_second", Long.MAX_VALUE, null));
        assertThat(at("draft", "list").code()).isZero();
        assertThat(at("--profile", "other", "draft", "list").code()).isZero();
        assertThat(asked)
                .containsExactly("GET /api/v1/drafts Bearer ent_first", "GET /api/v1/drafts Bearer ent_second");
    }

    @Test
    void what_is_typed_stays_one_part_of_the_address() {
        answers(404, "{\"detail\":\"There is no such person.\"}");
        run("explain", "../drafts?x=1&person=astrid");
        assertThat(asked).hasSize(1);
        assertThat(asked.get(0))
                .startsWith("GET /api/v1/explain?")
                .doesNotContain("/drafts")
                .doesNotContain("&person=astrid");
    }

    @Test
    void a_folder_that_is_not_there_or_holds_nothing_is_told_before_anything_is_sent() throws IOException {
        var missing = run("draft", "load", home.resolve("nowhere").toString());
        assertThat(missing.code()).isEqualTo(1);
        assertThat(missing.err()).startsWith("entente: ").contains("nowhere").hasLineCount(1);
        assertThat(asked).noneMatch(call -> call.startsWith("PUT"));
        var empty = Files.createDirectory(home.resolve("empty"));
        var nothing = run("draft", "load", empty.toString());
        assertThat(nothing.code()).isEqualTo(2);
        assertThat(nothing.err()).contains("empty").hasLineCount(1);
        assertThat(asked).noneMatch(call -> call.startsWith("PUT"));
    }
}
