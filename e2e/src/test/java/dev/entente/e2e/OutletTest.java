package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import dev.entente.wire.OutletApi;
import java.io.IOException;
import java.math.BigInteger;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.AlgorithmParameters;
import java.security.GeneralSecurityException;
import java.security.KeyFactory;
import java.security.MessageDigest;
import java.security.Signature;
import java.security.spec.ECGenParameterSpec;
import java.security.spec.ECParameterSpec;
import java.security.spec.ECPoint;
import java.security.spec.ECPublicKeySpec;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Base64;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.Executors;
import java.util.function.BooleanSupplier;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/** Outlets tell real receivers everything, in order, also after these were away, stalled, refused or dropped. */
class OutletTest {
    private static final Duration SOON = Duration.ofSeconds(30);

    private final ServiceWorld world = ServiceWorld.get();
    private final List<String> made = new ArrayList<>();
    private final List<AutoCloseable> open = new ArrayList<>();

    @TempDir
    Path folder;

    /** An outlet begins at what is in place on record; what others did just before would still be told. */
    @BeforeEach
    void everythingIsInPlace() {
        waitFor(
                "no event waits for its place",
                () -> world.query("SELECT count(*) FROM event_pending").equals("0"));
    }

    @AfterEach
    void end() throws Exception {
        for (var name : made) {
            world.entente("outlet", "remove", name).expect(0);
        }
        for (var one : open) {
            one.close();
        }
    }

    private Installation.Ran set(String name, String... options) {
        var line = new ArrayList<>(List.of("outlet", "set", name));
        line.addAll(List.of(options));
        var ran = world.entente(line.toArray(String[]::new));
        if (ran.code() == 0 && !made.contains(name)) {
            made.add(name);
        }
        return ran;
    }

    private OutletApi.Outlet outlet(String name) {
        return ApiPerson.JSON.readValue(
                ConsoleApi.signedIn(world).get("/outlets/" + name).body(), OutletApi.Outlet.class);
    }

    private void waitFor(String what, BooleanSupplier condition) {
        Installation.waitUntil(SOON, what, condition);
    }

    /** Something that is on record, and what to look for. */
    private String deed(String reason) {
        world.entente("stop", "method:push", "--reason", reason).expect(0);
        world.entente("resume", "method:push").expect(0);
        return reason;
    }

    // --- syslog
    // -------------------------------------------------------------------------------------------------------

    private Process collector(Path messages, Path certificate, Path key) throws IOException {
        var settings = Files.writeString(folder.resolve("rsyslog.conf"), """
                global(workDirectory="%s" defaultNetstreamDriver="gtls" defaultNetstreamDriverCAFile="%s"
                    defaultNetstreamDriverCertFile="%s" defaultNetstreamDriverKeyFile="%s" maxMessageSize="64k")
                module(load="imtcp" streamDriver.name="gtls" streamDriver.mode="1" streamDriver.authMode="anon")
                template(name="raw" type="string" string="%%rawmsg%%\\n")
                ruleset(name="keep") { action(type="omfile" file="%s" template="raw") }
                input(type="imtcp" address="127.0.0.1" port="%d" ruleset="keep")
                """.formatted(
                        folder, certificate, certificate, key, messages, world.collector));
        var process = new ProcessBuilder(
                        "/usr/sbin/rsyslogd",
                        "-n",
                        "-f",
                        settings.toString(),
                        "-i",
                        folder.resolve("rsyslog.pid").toString())
                .redirectErrorStream(true)
                .redirectOutput(folder.resolve("rsyslog.log").toFile())
                .start();
        open.add(process::destroyForcibly);
        waitFor("the collector listens", () -> Installation.listens(world.collector));
        return process;
    }

    private static List<String> lines(Path file) {
        try {
            return Files.exists(file) ? Files.readAllLines(file) : List.of();
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    void a_syslog_collector_that_was_away_gets_everything_in_order() throws Exception {
        var certificate = folder.resolve("collector.pem");
        var key = folder.resolve("collector.key");
        Installation.run(
                        Map.of(),
                        "openssl",
                        "req",
                        "-x509",
                        "-newkey",
                        "ec",
                        "-pkeyopt",
                        "ec_paramgen_curve:prime256v1",
                        "-nodes",
                        "-subj",
                        "/CN=collector",
                        "-addext",
                        "subjectAltName=IP:127.0.0.1",
                        "-days",
                        "2",
                        "-keyout",
                        key.toString(),
                        "-out",
                        certificate.toString())
                .expect(0);
        var messages = folder.resolve("messages");
        var collector = collector(messages, certificate, key);
        var to = "127.0.0.1:" + world.collector;
        set("siem", "--kind", "syslog", "--to", to).expect(0);
        // Whose certificate nobody vouches for gets nothing.
        var test = world.entente("outlet", "test", "siem").expect(1);
        assertThat(test.out()).contains("NOT TAKEN: its certificate isn't one that this outlet believes");
        set("siem", "--kind", "syslog", "--to", to, "--ca", certificate.toString())
                .expect(0);
        world.entente("outlet", "test", "siem").expect(0);
        var first = deed("the quay lamp flickers [\"3\\]");
        waitFor("the collector has it", () -> lines(messages).stream().anyMatch(l -> l.contains("quay lamp")));
        var said = lines(messages).stream()
                .filter(l -> l.contains("quay lamp"))
                .findFirst()
                .orElseThrow();
        // RFC 5424: facility 10, severity of the kind, structured data with escapes, the sentence behind a byte order
        // mark.
        assertThat(said)
                .matches(
                        "<8[0-7]>1 \\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\d\\.?\\d*Z localhost entente - stop\\.started"
                                + " \\[entente@32473 seq=\"\\d+\" id=\"[0-9a-f-]{36}\".*]\\[event@32473 .*] \uFEFF.*")
                .contains("[\\\"3\\\\\\]")
                .doesNotContain("ingeborg");
        assertThat(first).isNotEmpty();

        // Away: killed, not told goodbye.
        collector.destroyForcibly().waitFor();
        deed("while the collector was away");
        waitFor("it is known that it is away", () -> outlet("siem").failures() > 0);
        assertThat(world.entente("outlet", "list").expect(1).out()).contains("WAITS: it can't be reached");
        for (var minutes = 15; minutes <= 60; minutes += 15) {
            world.later(Duration.ofMinutes(minutes));
            deed("after " + minutes + " minutes without it");
        }
        deed("and a little later");
        collector(messages, certificate, key);
        // Tried again by itself, however long it was away.
        world.later(Duration.ofMinutes(90));
        waitFor("it has everything", () -> outlet("siem").behind() == 0);
        assertThat(outlet("siem").failures()).isZero();
        waitFor("and has written it", () -> lines(messages).stream().anyMatch(l -> l.contains("a little later")));
        var seqs = lines(messages).stream()
                .map(Pattern.compile(" seq=\"(\\d+)\"")::matcher)
                .filter(m -> m.find())
                .map(m -> Long.parseLong(m.group(1)))
                .toList();
        var distinct = seqs.stream().distinct().toList();
        assertThat(distinct).isSorted();
        assertThat(distinct.get(distinct.size() - 1) - distinct.get(0) + 1)
                .as("no gap")
                .isEqualTo(distinct.size());
        for (var minutes = 15; minutes <= 60; minutes += 15) {
            var deed = "after " + minutes + " minutes without it";
            assertThat(lines(messages).stream().filter(l -> l.contains(deed)).count())
                    .as("told once, and not again without saying so")
                    .isEqualTo(1);
        }
    }

    // --- web services
    // -------------------------------------------------------------------------------------------------

    /** What a receiver got. */
    private record Got(Map<String, String> fields, String body) {}

    /** Answers as it is told, with 200 once nothing more is said. */
    private final class Web implements AutoCloseable {
        final List<Got> got = new CopyOnWriteArrayList<>();
        final ConcurrentLinkedQueue<String> answers = new ConcurrentLinkedQueue<>();
        /** Whatever says this is refused for good. */
        volatile String unwanted;

        private final HttpServer server;

        Web() throws IOException {
            server = HttpServer.create(new InetSocketAddress("127.0.0.1", world.receiver), 0);
            server.setExecutor(Executors.newCachedThreadPool(task -> {
                var thread = new Thread(task);
                thread.setDaemon(true);
                return thread;
            }));
            server.createContext("/", this::answer);
            server.start();
            open.add(this);
        }

        private void answer(HttpExchange call) throws IOException {
            var body = new String(call.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
            var answer = answers.isEmpty() ? "200" : answers.remove();
            if (answer.equals("drop")) {
                call.close();
                return;
            }
            if (answer.equals("stall")) {
                // Headers, and then nothing more.
                call.sendResponseHeaders(200, 10);
                call.getResponseBody().flush();
                return;
            }
            if (unwanted != null && body.contains(unwanted)) {
                answer = "422";
            }
            if (answer.equals("200")) {
                var fields = new HashMap<String, String>();
                call.getRequestHeaders()
                        .forEach((name, values) -> fields.put(name.toLowerCase(Locale.ROOT), values.get(0)));
                got.add(new Got(fields, body));
            }
            var parts = answer.split(" ", 2);
            var said = parts.length > 1 ? parts[1].getBytes(StandardCharsets.UTF_8) : new byte[0];
            if (parts[0].startsWith("3")) {
                call.getResponseHeaders().add("Location", "http://127.0.0.1:" + world.port + "/api/v1/tokens");
            }
            call.sendResponseHeaders(Integer.parseInt(parts[0]), said.length == 0 ? -1 : said.length);
            call.getResponseBody().write(said);
            call.close();
        }

        @Override
        public void close() {
            server.stop(0);
        }
    }

    private String address() {
        return "http://127.0.0.1:" + world.receiver + "/entente";
    }

    /** RFC 9421 by the JDK alone, with the published key. */
    private void verify(Got got) throws GeneralSecurityException {
        var input = got.fields().get("signature-input");
        var said = Pattern.compile(
                        "sig1=(\\(\"@method\" \"@target-uri\" \"content-digest\"\\);created=\\d+;keyid=\"([^\"]+)\";alg=\"ecdsa-p256-sha256\")")
                .matcher(input);
        assertThat(said.matches()).as(input).isTrue();
        var digest = "sha-256=:"
                + Base64.getEncoder()
                        .encodeToString(MessageDigest.getInstance("SHA-256")
                                .digest(got.body().getBytes(StandardCharsets.UTF_8)))
                + ":";
        assertThat(got.fields().get("content-digest")).isEqualTo(digest);
        JsonNode key = null;
        for (var one : ApiPerson.JSON
                .readTree(world.entente("outlet", "keys").expect(0).out())
                .path("keys")) {
            key = one.path("kid").asString().equals(said.group(2)) ? one : key;
        }
        assertThat(key).as("the key is published").isNotNull();
        var curve = AlgorithmParameters.getInstance("EC");
        curve.init(new ECGenParameterSpec("secp256r1"));
        var point = new ECPoint(
                number(key.path("x").asString()), number(key.path("y").asString()));
        var signature = Signature.getInstance("SHA256withECDSAinP1363Format");
        signature.initVerify(KeyFactory.getInstance("EC")
                .generatePublic(new ECPublicKeySpec(point, curve.getParameterSpec(ECParameterSpec.class))));
        signature.update(("\"@method\": POST\n\"@target-uri\": " + address() + "\n\"content-digest\": " + digest
                        + "\n\"@signature-params\": " + said.group(1))
                .getBytes(StandardCharsets.US_ASCII));
        assertThat(signature.verify(
                        Base64.getDecoder().decode(got.fields().get("signature").replaceAll("^sig1=:|:$", ""))))
                .isTrue();
    }

    private static BigInteger number(String base64) {
        return new BigInteger(1, Base64.getUrlDecoder().decode(base64));
    }

    private static List<JsonNode> events(Web web) {
        var events = new ArrayList<JsonNode>();
        web.got.forEach(
                got -> ApiPerson.JSON.readTree(got.body()).path("events").forEach(events::add));
        return events;
    }

    @Test
    void a_web_service_is_told_with_a_signature_and_may_drop_refuse_and_come_back() throws Exception {
        var web = new Web();
        set("hook", "--kind", "webhook", "--to", address(), "--event", "stop.started")
                .expect(0);
        world.entente("outlet", "test", "hook").expect(0);
        assertThat(ApiPerson.JSON.readTree(web.got.get(0).body()).path("test").asBoolean())
                .isTrue();
        verify(web.got.get(0));

        // Dropped, refused for now, led elsewhere: told once it takes it, and nowhere else.
        web.answers.addAll(List.of("drop", "503", "307"));
        deed("lamps out");
        waitFor("it was dropped", () -> outlet("hook").failures() >= 1);
        waitFor("it went through", () -> {
            if (outlet("hook").failures() > 0) {
                world.entente("outlet", "resume", "hook").expect(0);
            }
            return events(web).size() == 1;
        });
        assertThat(events(web).get(0).path("kind").asString()).isEqualTo("stop.started");
        assertThat(events(web).get(0).path("personal").isEmpty()).isTrue();
        assertThat(web.got.get(1).body()).contains("lamps out").doesNotContain("ingeborg");
        verify(web.got.get(1));

        // Refused for good: it stops there, shows, and goes on behind it when told to.
        web.answers.add("422");
        deed("nobody wants this");
        waitFor("it stopped", () -> outlet("hook").state().equals("stopped"));
        assertThat(world.entente("outlet", "list").expect(1).out()).contains("STOPPED: it won't take it (status 422)");
        assertThat(world.entente("status").out()).contains("The outlet hook stopped: it won't take it (status 422)");
        deed("but this");
        world.entente("outlet", "resume", "hook", "--skip").expect(0);
        waitFor("it went on", () -> events(web).size() == 2);
        assertThat(web.got.get(2).body()).contains("but this").doesNotContain("nobody wants this");
        assertThat(world.entente("outlet", "resume", "hook", "--skip").expect(1).err())
                .contains("Only an outlet that has stopped");

        // Again from a point, with the same ids; with a new key, and the old one is still published.
        var from = events(web).get(0).path("seq").asLong();
        world.entente("outlet", "keys", "--rotate").expect(0);
        world.entente("outlet", "resume", "hook", "--from", String.valueOf(from))
                .expect(0);
        waitFor("it was told again", () -> events(web).size() == 5);
        assertThat(events(web).get(2).path("id")).isEqualTo(events(web).get(0).path("id"));
        verify(web.got.get(2));
        verify(web.got.get(web.got.size() - 1));
        assertThat(web.got.get(2).fields().get("signature-input"))
                .isNotEqualTo(web.got.get(web.got.size() - 1).fields().get("signature-input"));
    }

    @Test
    void a_receiver_that_stalls_after_its_headers_is_told_of_and_holds_nobody() throws Exception {
        var web = new Web();
        set("hook", "--kind", "webhook", "--to", address(), "--event", "stop.started")
                .expect(0);
        web.answers.add("stall");
        var reason = deed("stalled " + System.nanoTime());
        waitFor("it is known", () -> outlet("hook").failures() == 1);
        assertThat(world.entente("outlet", "list").expect(1).out()).contains("WAITS: it didn't answer in time");
        waitFor(
                "it is told once more",
                () -> events(web).stream().anyMatch(event -> event.toString().contains(reason)));
    }

    /** What is at fault is left out, and nothing else. */
    @Test
    void one_event_that_a_receiver_will_not_take_takes_no_other_of_its_batch_along() throws Exception {
        var web = new Web();
        set("hook", "--kind", "webhook", "--to", address(), "--event", "stop.started")
                .expect(0);
        world.entente("outlet", "pause", "hook").expect(0);
        var mark = "batch " + System.nanoTime() + " ";
        for (var i = 0; i < 9; i++) {
            deed(mark + i + ".");
        }
        web.unwanted = mark + 5 + ".";
        world.entente("outlet", "resume", "hook").expect(0);
        waitFor("it stopped", () -> outlet("hook").state().equals("stopped"));
        assertThat(reasons(web, mark)).containsExactly("0.", "1.", "2.", "3.", "4.");
        world.entente("outlet", "resume", "hook", "--skip").expect(0);
        waitFor("the others came", () -> reasons(web, mark).size() == 8);
        assertThat(reasons(web, mark)).containsExactly("0.", "1.", "2.", "3.", "4.", "6.", "7.", "8.");
    }

    private static List<String> reasons(Web web, String mark) {
        return events(web).stream()
                .map(event -> event.at("/data/reason").asString())
                .filter(reason -> reason.startsWith(mark))
                .map(reason -> reason.substring(mark.length()))
                .toList();
    }

    @Test
    void what_narrows_an_outlet_or_moves_it_is_on_record_with_old_and_new_and_may_have_to_be_approved()
            throws Exception {
        new Web();
        set("hook", "--kind", "webhook", "--to", address(), "--event", "stop.started")
                .expect(0);
        set(
                        "hook",
                        "--kind",
                        "webhook",
                        "--to",
                        address(),
                        "--event",
                        "stop.ended",
                        "--severity",
                        "alert",
                        "--from",
                        "1")
                .expect(0);
        world.onRecord(
                "The kinds of the outlet hook: stop.started before, stop.ended after.",
                "The severity of the outlet hook: info before, alert after.",
                ", from event 1.");
        world.ententeWith("another-quay-lantern", "administrator", "add", "outlet-two")
                .code();
        world.ententeWith("another-quay-lantern", "--profile", "outlet-two", "sign-in", "--login", "outlet-two")
                .expect(0);
        world.entente("draft", "approval", "weakening").expect(0);
        try {
            assertThat(set("hook", "--kind", "webhook", "--to", address(), "--event", "stop.started")
                            .expect(0)
                            .err())
                    .contains("isn't in force yet");
            world.entente("outlet", "resume", "hook", "--from", "0").expect(0);
            world.entente("outlet", "remove", "hook").expect(0);
            assertThat(outlet("hook").kinds()).containsExactly("stop.ended");
            var waiting = world.entente("approval", "list").expect(1).out();
            assertThat(waiting).contains("The outlet hook is removed");
        } finally {
            world.withoutApproval();
            world.query("DELETE FROM administrator WHERE login = 'outlet-two'");
        }
        world.onRecord("The next event of the outlet hook: ", "The outlet hook is removed; it stood at event ");
    }

    @Test
    void names_are_told_only_where_that_was_asked_for_and_the_token_goes_along() throws Exception {
        var web = new Web();
        var token = Files.writeString(folder.resolve("token"), "s3cret-of-the-receiver\n");
        set(
                        "hook",
                        "--kind",
                        "webhook",
                        "--to",
                        address(),
                        "--event",
                        "stop.started",
                        "--with-names",
                        "--token-file",
                        token.toString())
                .expect(0);
        deed("with names");
        waitFor("it was told", () -> !web.got.isEmpty());
        assertThat(web.got.get(0).body()).contains("ingeborg");
        assertThat(web.got.get(0).fields().get("authorization")).isEqualTo("Bearer s3cret-of-the-receiver");
        assertThat(ConsoleApi.signedIn(world).get("/outlets").body()).doesNotContain("s3cret");
        // Whoever leads it elsewhere doesn't take the token along.
        set("hook", "--kind", "webhook", "--to", address() + "/other", "--event", "stop.started")
                .expect(0);
        assertThat(outlet("hook").credential()).isFalse();
    }

    @Test
    void nobody_is_led_where_the_operator_did_not_allow_it() {
        var elsewhere = set("hook", "--kind", "webhook", "--to", "http://127.0.0.1:" + world.pgPort + "/")
                .expect(1);
        assertThat(elsewhere.err()).contains("doesn't let outlets lead to http://127.0.0.1:" + world.pgPort);
        // By another name, another scheme, with a user in front, or as a file elsewhere.
        for (var to : List.of(
                "http://localhost:" + world.receiver + "/",
                "https://127.0.0.1:" + world.receiver + "/",
                "http://127.0.0.1:" + world.receiver + "@127.0.0.1:" + world.pgPort + "/",
                "file:///etc/passwd",
                "127.0.0.1:" + world.receiver)) {
            assertThat(set("hook", "--kind", "webhook", "--to", to).code())
                    .as(to)
                    .isEqualTo(1);
        }
        for (var file : List.of("../outside", "/etc/passwd", ".hidden", "")) {
            assertThat(set("kept", "--kind", "file", "--to", file).code())
                    .as(file)
                    .isEqualTo(1);
        }
        assertThat(set("siem", "--kind", "syslog", "--to", "127.0.0.1:" + world.pgPort)
                        .expect(1)
                        .err())
                .contains("doesn't let outlets lead to");
        assertThat(set("Hook!", "--kind", "webhook", "--to", address())
                        .expect(1)
                        .err())
                .contains("small letters");
        assertThat(set("hook", "--kind", "carrier-pigeon", "--to", address())
                        .expect(1)
                        .err())
                .contains("The kind must be one of syslog, webhook");
        assertThat(set("hook", "--kind", "webhook", "--to", address(), "--event", "stop.never")
                        .expect(1)
                        .err())
                .contains("There is no kind of event \"stop.never\"");
    }

    // --- security event tokens
    // ----------------------------------------------------------------------------------------

    private JsonNode read(String token) throws IOException {
        var keys = Files.writeString(
                folder.resolve("keys.jwks"),
                world.entente("outlet", "keys").expect(0).out());
        var signed = Files.writeString(folder.resolve("token.jwt"), token);
        // Another implementation checks the signature by the published keys.
        var payload = Installation.run(
                        Map.of(), "jose", "jws", "ver", "-i", signed.toString(), "-k", keys.toString(), "-O", "-")
                .expect(0)
                .out();
        var header = ApiPerson.JSON.readTree(Base64.getUrlDecoder().decode(token.split("\\.")[0]));
        assertThat(header.path("typ").asString()).isEqualTo("secevent+jwt");
        return ApiPerson.JSON.readTree(payload);
    }

    private static String type(JsonNode token) {
        var type = token.path("events").propertyNames().iterator().next();
        return type.substring(type.lastIndexOf('/') + 1);
    }

    @Test
    void credential_changes_are_pushed_as_security_event_tokens() throws Exception {
        var web = new Web();
        set("signals", "--kind", "security-events", "--to", address(), "--audience", "https://signals.skerry.test")
                .expect(0);
        // Nothing was ever signed for an outlet here.
        world.query("DELETE FROM outlet_key");
        world.entente("outlet", "test", "signals").expect(0);
        assertThat(type(read(web.got.get(0).body()))).isEqualTo("verification");
        web.got.clear();
        var crew = world.crew();
        // The second directory's change is refused once for now, then taken: what was taken before it is not told
        // twice.
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.choose("Signal-Quay-" + System.nanoTime()).waitForOutcome(SOON);
        waitFor("all is told", () -> outlet("signals").behind() == 0 && web.got.size() >= 3);
        var tokens = new ArrayList<JsonNode>();
        for (var got : web.got) {
            assertThat(got.fields().get("content-type")).isEqualTo("application/secevent+jwt");
            tokens.add(read(got.body()));
        }
        var reference = person.attempt.reference();
        var ours = tokens.stream()
                .filter(t -> t.path("txn").asString("").equals(reference))
                .toList();
        assertThat(ours)
                .extracting(OutletTest::type)
                .containsExactly("recovery-activated", "credential-change", "credential-change");
        var change = ours.get(1);
        assertThat(change.path("aud").asString()).isEqualTo("https://signals.skerry.test");
        assertThat(change.path("iss").asString()).isEqualTo(world.url);
        assertThat(change.path("sub_id").path("format").asString()).isEqualTo("opaque");
        assertThat(change.path("events").iterator().next().path("change_type").asString())
                .isEqualTo("update");
        assertThat(ours)
                .extracting(t -> t.path("sub_id").path("id").asString())
                .containsOnly(change.path("sub_id").path("id").asString());
        assertThat(ours).extracting(t -> t.path("jti").asString()).doesNotHaveDuplicates();
        web.got.forEach(got -> assertThat(got.body()).doesNotContain(crew.shore()));

        // The receiver refuses a token for good (RFC 8935 section 2.4), with words that go nowhere.
        web.answers.add("400 {\"err\":\"invalid_audience\",\"description\":\"marker-of-the-receiver\"}");
        new ApiPerson(world).prove(crew.shore(), crew.address());
        waitFor("it stopped", () -> outlet("signals").state().equals("stopped"));
        assertThat(outlet("signals").why()).isEqualTo("it refused the token (invalid_audience)");
    }

    @Test
    void tokens_that_are_fetched_are_offered_until_they_are_acknowledged() throws Exception {
        var token = set("fetched", "--kind", "security-events-fetched", "--with-names")
                .expect(0)
                .out()
                .strip();
        var stream = new Stream("fetched", token);
        assertThat(stream.poll("{}").path("sets").isEmpty()).isTrue();
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.choose("Fetch-Quay-" + System.nanoTime()).waitForOutcome(SOON);
        waitFor("they are there", () -> stream.poll("{}").path("sets").size() == 3);
        var two = stream.poll("{\"maxEvents\":2}");
        assertThat(two.path("sets").size()).isEqualTo(2);
        assertThat(two.path("moreAvailable").asBoolean()).isTrue();
        var ids = List.copyOf(two.path("sets").propertyNames());
        var read = read(two.path("sets").path(ids.get(1)).asString());
        assertThat(read.path("jti").asString()).isEqualTo(ids.get(1));
        assertThat(read.path("sub_id").path("format").asString()).isEqualTo("aliases");
        assertThat(read.path("sub_id").path("identifiers").toString()).contains("/directories/");
        // Not acknowledged: offered again, the same ones.
        assertThat(List.copyOf(stream.poll("{\"maxEvents\":2}").path("sets").propertyNames()))
                .isEqualTo(ids);
        var rest = stream.poll("{\"ack\":[\"" + ids.get(0) + "\"],\"setErrs\":{\"" + ids.get(1)
                + "\":{\"err\":\"jwtParse\",\"description\":\"marker\"}}}");
        assertThat(rest.path("sets").size()).isEqualTo(1);
        var last = rest.path("sets").propertyNames().iterator().next();
        stream.poll("{\"maxEvents\":0,\"ack\":[\"" + last + "\"]}");
        waitFor("what it refused is on record", () -> {
            stream.poll("{}");
            return world.entente("event", "list", "--kind", "outlet.refused")
                    .out()
                    .contains("fetched");
        });
        assertThat(stream.poll("{}").path("sets").isEmpty()).isTrue();

        // Nobody else fetches, and nobody learns what there is.
        for (var wrong :
                List.of(new Stream("fetched", token + "x"), new Stream("nothing", token), new Stream("fetched", ""))) {
            assertThat(wrong.status("{}")).isEqualTo(401);
        }
        assertThat(stream.status("{\"ack\":[\"not-an-id\"]}")).isEqualTo(422);
        world.entente("outlet", "resume", "fetched", "--from", "0").expect(0);
        waitFor("from the beginning", () -> !stream.poll("{}").path("sets").isEmpty());
    }

    /** Fetches as a receiver does. */
    private final class Stream {
        private final String name;
        private final String token;

        Stream(String name, String token) {
            this.name = name;
            this.token = token;
        }

        private String[] call(String body) {
            return Installation.run(
                            Map.of(),
                            "curl",
                            "-s",
                            "-w",
                            "\n%{http_code}",
                            "-H",
                            "Authorization: Bearer " + token,
                            "-H",
                            "Content-Type: application/json",
                            "--data",
                            body,
                            world.url + "/api/v1/event-streams/" + name)
                    .expect(0)
                    .out()
                    .split("\n");
        }

        int status(String body) {
            var said = call(body);
            return Integer.parseInt(said[said.length - 1].strip());
        }

        JsonNode poll(String body) {
            var said = call(body);
            assertThat(said[said.length - 1].strip())
                    .as(String.join("\n", said))
                    .isEqualTo("200");
            return ApiPerson.JSON.readTree(said[0]);
        }
    }

    // --- files
    // --------------------------------------------------------------------------------------------------------

    @Test
    void a_file_is_appended_to_and_may_be_rotated() throws IOException {
        var file = world.dir.resolve("logs/events.jsonl");
        set("kept", "--kind", "file", "--to", "events.jsonl", "--part", "policy")
                .expect(0);
        deed("into the file");
        waitFor("it is there", () -> lines(file).stream().anyMatch(l -> l.contains("into the file")));
        waitFor("all of it is", () -> outlet("kept").behind() == 0);
        assertThat(set("beside", "--kind", "file", "--to", "events.jsonl").err())
                .contains("The outlet kept writes events.jsonl already");
        // Rotated, and cut off by a crash in the middle of a line.
        Files.move(file, world.dir.resolve("logs/events.jsonl.1"));
        Files.writeString(file, "{\"seq\":");
        deed("into the next one");
        waitFor("it is there", () -> lines(file).stream().anyMatch(l -> l.contains("into the next one")));
        assertThat(lines(file).get(0)).isEqualTo("{\"seq\":");
        assertThat(ApiPerson.JSON.readTree(lines(file).get(1)).path("kind").asString())
                .isEqualTo("stop.started");
    }

    @Test
    void checkpoints_go_wherever_events_go_and_the_record_is_proven_against_them() throws IOException {
        var file = world.dir.resolve("logs/checkpoints.jsonl");
        set("kept", "--kind", "file", "--to", "checkpoints.jsonl", "--event", "record.signed")
                .expect(0);
        deed("before a checkpoint");
        deed("and another");
        // Within two hours at most, wherever the clock was before.
        var due = world.query(
                "SELECT ceil(greatest(0, least(7200, extract(epoch FROM next_at - entente_now())))) FROM checkpoint_told");
        world.later(Duration.ofSeconds(Long.parseLong(due)).plusMinutes(1));
        try {
            waitFor("a checkpoint is told", () -> !lines(file).isEmpty());
            var told = ApiPerson.JSON.readTree(lines(file).get(0)).path("data");
            var kept = Files.writeString(
                    folder.resolve("kept"), told.path("statement").asString() + "\n");
            assertThat(world.verify("--kept", kept.toString()).expect(0).out()).contains("checkpoint");
            // Nothing but that happened since: there is nothing to tell.
            waitFor("all of it is told", () -> outlet("kept").behind() == 0);
            var before = lines(file).size();
            world.later(Duration.ofSeconds(Long.parseLong(due)).plusMinutes(70));
            deed("something happens again");
            waitFor("the next one is told", () -> lines(file).size() > before);
        } finally {
            world.later(Duration.ZERO);
        }
    }

    @Test
    void an_outlet_that_pauses_loses_nothing() throws Exception {
        var web = new Web();
        set("hook", "--kind", "webhook", "--to", address(), "--event", "stop.started")
                .expect(0);
        world.entente("outlet", "pause", "hook").expect(0);
        deed("in the pause");
        waitFor("it falls behind", () -> outlet("hook").behind() > 0);
        assertThat(world.entente("outlet", "list").expect(0).out()).contains("paused");
        assertThat(web.got).isEmpty();
        world.entente("outlet", "resume", "hook").expect(0);
        waitFor("it is told", () -> events(web).size() == 1);
    }
}
