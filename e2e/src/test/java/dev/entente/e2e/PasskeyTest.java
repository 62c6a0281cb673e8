package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.verify.passkey.PasskeyChallenge;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyFactory;
import java.security.spec.PKCS8EncodedKeySpec;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Passkeys: set up and used in a real browser, and everything that an answer must not get away with. */
class PasskeyTest extends PublishingTest {
    private static final String ALONE = "prove:\n  reset: { any-of: [passkey] }\n  details: { any-of: [email-code] }\n";

    /** 2fc0579f-8113-47ea-b116-bb5a8db9202a */
    private static final byte[] MODEL = HexFormat.of().parseHex("2fc0579f811347eab116bb5a8db9202a");

    private final String origin = world.url;

    /** A person whose policy asks for a passkey and nothing else, with one set up. */
    private SoftPasskey owned(Crew crew) throws Exception {
        var passkey = new SoftPasskey(origin);
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = person.setUp("passkey", "Key on the ring");
        var right = passkey.register(offered).parts().get("credential");
        var otherId = right.replaceFirst("\"rawId\":\"[^\"]*\"", "\"rawId\":\"AAAAAAAAAAAAAAAAAAAAAA\"");
        assertThat(person.call(
                                "POST",
                                "/attempt/enrolments/" + offered.id() + "/confirmation",
                                new PortalApi.Answer(null, java.util.Map.of("credential", otherId)))
                        .body())
                .as("two names for one credential")
                .contains("passkey-refused");
        var made =
                person.call("POST", "/attempt/enrolments/" + offered.id() + "/confirmation", passkey.register(offered));
        assertThat(made.status()).as(made.body()).isEqualTo(200);
        assertThat(made.body()).contains("Key on the ring");
        person.call("POST", "/attempt/end", null);
        return passkey;
    }

    private ApiPerson asked(Crew crew) {
        var person = new ApiPerson(world);
        person.start(crew.shore());
        person.attempt = person.ask("passkey").as(PortalApi.Attempt.class);
        return person;
    }

    private ApiPerson.Answer answer(ApiPerson person, PortalApi.Answer answer) {
        return person.call(
                "POST", "/attempt/challenges/" + person.attempt.challenge().id() + "/answers", answer);
    }

    private static PasskeyChallenge challenge(ApiPerson person) {
        return person.passkeyChallenge();
    }

    /** On a busy machine whose an attempt is, is looked up later than a passkey can answer. */
    @Test
    void an_answer_that_comes_before_the_service_knows_whose_attempt_it_is_waits_for_that() throws Exception {
        var crew = world.crew();
        pilot(ALONE, crew);
        var passkey = owned(crew);
        var answered = new CompletableFuture<ApiPerson.Answer>();
        world.during("BEGIN; LOCK TABLE account_login IN ACCESS EXCLUSIVE MODE", () -> {
            var person = asked(crew);
            CompletableFuture.runAsync(() -> {
                try {
                    answered.complete(answer(person, passkey.sign(challenge(person))));
                } catch (Exception e) {
                    answered.completeExceptionally(e);
                }
            });
            assertThat(answered).as("it waits").failsWithin(Duration.ofMillis(1_200));
        });
        assertThat(answered.get(30, TimeUnit.SECONDS).status()).isEqualTo(200);
    }

    @Test
    void a_person_sets_one_up_in_the_browser_and_gets_a_new_password_with_it_alone() throws Exception {
        var crew = world.crew();
        pilot(ALONE, crew);
        assertThat(explained(crew)).contains("passkey");
        var page = world.browser().page(390, 844);
        world.browser().authenticators(page);
        var person = new Person(page, world.url);
        var browser = new MethodsInBrowser(world.boxUrl());
        browser.addPasskey(person, crew.shore(), crew.address());
        assertThat(browser.byPasskey(person, crew.shore(), "Rowan-Kettle-9-Tide"))
                .isEqualTo("Your new password works");
    }

    @Test
    void an_assertion_counts_for_its_attempt_its_owner_and_once() throws Exception {
        var owner = world.crew();
        var other = world.crew();
        pilot(ALONE, owner, other);
        var passkey = owned(owner);

        var first = asked(owner);
        var second = asked(owner);
        var made = passkey.sign(challenge(first));
        assertThat(answer(second, made).status()).as("another attempt's").isEqualTo(422);
        assertThat(answer(first, made).status()).isEqualTo(200);
        assertThat(answer(first, made).status()).as("again").isNotEqualTo(200);
        assertThat(answer(second, made).status()).as("again, elsewhere").isEqualTo(422);
        assertThat(answer(asked(other), made).status()).as("somebody else").isEqualTo(422);
        var stranger = asked(other);
        assertThat(answer(stranger, passkey.sign(challenge(stranger))).status())
                .as("somebody else's name, freshly signed")
                .isEqualTo(422);
        var nobody = new ApiPerson(world);
        nobody.start("nobody.by.this.name");
        nobody.attempt = nobody.ask("passkey").as(PortalApi.Attempt.class);
        assertThat(answer(nobody, passkey.sign(challenge(nobody))).status()).isEqualTo(422);
    }

    @Test
    void what_is_not_as_it_should_be_is_refused_and_a_counter_that_goes_back_is_on_record() throws Exception {
        var crew = world.crew();
        pilot(ALONE, crew);
        var passkey = owned(crew);
        var person = asked(crew);

        passkey.origin = "https://skerry.example";
        assertThat(answer(person, passkey.sign(challenge(person))).status())
                .as("origin")
                .isEqualTo(422);
        passkey.origin = origin;
        passkey.relyingParty = "skerry.example";
        assertThat(answer(person, passkey.sign(challenge(person))).status())
                .as("relying party")
                .isEqualTo(422);
        passkey.relyingParty = "localhost";
        passkey.verifiesUser = false;
        assertThat(answer(person, passkey.sign(challenge(person))).status())
                .as("the user was not verified")
                .isEqualTo(422);
        passkey.verifiesUser = true;
        for (var nonsense : new PortalApi.Answer[] {
            PortalApi.Answer.typed("12345678"), new PortalApi.Answer(null, java.util.Map.of("credential", "{}"))
        }) {
            assertThat(answer(person, nonsense).status()).isEqualTo(422);
        }

        person = asked(crew);
        passkey.counter = 10;
        assertThat(answer(person, passkey.sign(challenge(person))).status()).isEqualTo(200);
        var copy = asked(crew);
        passkey.counter = 3;
        assertThat(answer(copy, passkey.sign(challenge(copy))).status()).isEqualTo(422);
        Installation.waitUntil(
                Duration.ofSeconds(20),
                "it is on record",
                () -> api.get("/events").body().contains("“Key on the ring” went back, so someone may hold a copy"));
        assertThat(world.entente("attempt", "show", copy.attempt.reference()).out())
                .as("where the attempt is, with whose it is")
                .contains(name(crew) + "’s passkey “Key on the ring”");
        passkey.counter = 20;
        assertThat(answer(copy, passkey.sign(challenge(copy))).status()).isEqualTo(200);
    }

    @Test
    void a_passkey_has_a_name_is_set_up_once_and_can_be_removed() throws Exception {
        var crew = world.crew();
        pilot(ALONE, crew);
        var passkey = owned(crew);
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var again = person.setUp("passkey", null);
        assertThat(again.parts().get("exclude")).isNotEmpty();
        var twice = person.call("POST", "/attempt/enrolments/" + again.id() + "/confirmation", passkey.register(again));
        assertThat(twice.status()).isEqualTo(409);
        var bad = new SoftPasskey(origin);
        bad.verifiesUser = false;
        assertThat(person.call("POST", "/attempt/enrolments/" + again.id() + "/confirmation", bad.register(again))
                        .body())
                .contains("touch or unlock it");
        var mine = ApiPerson.JSON.readValue(
                person.call("GET", "/attempt/enrolments", null).body(), PortalApi.OwnMethod[].class);
        UUID id = null;
        for (var one : mine) {
            id = one.method().equals("passkey") ? one.id() : id;
        }
        assertThat(person.call("PATCH", "/attempt/enrolments/" + id, new PortalApi.Naming("Blue key"))
                        .body())
                .contains("Blue key");
        assertThat(person.call("PATCH", "/attempt/enrolments/" + id, new PortalApi.Naming("x".repeat(61)))
                        .status())
                .isEqualTo(422);
        assertThat(person.call("DELETE", "/attempt/enrolments/" + id, null).status())
                .isEqualTo(200);
        var without = asked(crew);
        assertThat(answer(without, passkey.sign(challenge(without))).status()).isEqualTo(422);
        assertThat(explained(crew)).contains("passkey - not enrolled");
    }

    @Test
    void a_passkey_shows_two_factors() throws Exception {
        var crew = world.crew();
        pilot(
                "prove:\n  reset: { methods: 1, factors: 2, any-of: [passkey, app-code] }\n"
                        + "  details: { any-of: [email-code] }\n",
                crew);
        var passkey = owned(crew);
        var person = asked(crew);
        assertThat(answer(person, passkey.sign(challenge(person)))
                        .as(PortalApi.Attempt.class)
                        .state())
                .isEqualTo("proved");
    }

    @Test
    void where_a_list_names_authenticators_only_those_can_be_set_up() throws Exception {
        var crew = world.crew();
        write("methods.yaml", "passkey: { authenticators: [2fc0579f-8113-47ea-b116-bb5a8db9202a] }\n");
        pilot(ALONE, crew);
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = person.setUp("passkey", null);
        assertThat(offered.parts()).containsEntry("attestation", "direct");
        var passkey = new SoftPasskey(origin);
        var path = "/attempt/enrolments/" + offered.id() + "/confirmation";
        assertThat(person.call("POST", path, passkey.register(offered)).body()).contains("passkey-not-taken");
        passkey.model = MODEL;
        assertThat(person.call("POST", path, passkey.register(offered)).status())
                .isEqualTo(200);
    }

    @Test
    void what_an_authenticator_says_of_itself_is_believed_only_as_far_as_its_maker_vouches_for_it(@TempDir Path folder)
            throws Exception {
        var crew = world.crew();
        var root = authority(folder, "root");
        write(
                "methods.yaml",
                "passkey:\n  authenticators: [2fc0579f-8113-47ea-b116-bb5a8db9202a]\n  roots:\n    - |\n"
                        + Files.readString(root).indent(6));
        pilot(ALONE, crew);
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = person.setUp("passkey", null);
        var path = "/attempt/enrolments/" + offered.id() + "/confirmation";
        var passkey = new SoftPasskey(origin);
        passkey.model = MODEL;
        // Nobody vouches for it; somebody else does; the maker does for another model; its certificate, with another's
        // key.
        assertThat(person.call("POST", path, passkey.register(offered)).body()).contains("passkey-not-taken");
        authority(folder, "stranger");
        passkey.maker = maker(folder, "stranger", MODEL);
        assertThat(person.call("POST", path, passkey.register(offered)).body()).contains("passkey-not-taken");
        passkey.maker = maker(folder, "root", new byte[16]);
        assertThat(person.call("POST", path, passkey.register(offered)).body()).contains("passkey-not-taken");
        var genuine = maker(folder, "root", MODEL);
        passkey.maker = new SoftPasskey.Maker(maker(folder, "stranger", MODEL).key(), genuine.certificate());
        assertThat(person.call("POST", path, passkey.register(offered)).body()).contains("passkey-not-taken");
        passkey.maker = genuine;
        assertThat(person.call("POST", path, passkey.register(offered)).status())
                .isEqualTo(200);
    }

    private static void openssl(Path folder, String... arguments) throws IOException, InterruptedException {
        var command = new ArrayList<>(List.of("openssl"));
        command.addAll(List.of(arguments));
        var process = new ProcessBuilder(command)
                .directory(folder.toFile())
                .redirectErrorStream(true)
                .start();
        var said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertThat(process.waitFor()).as(said).isZero();
    }

    private static Path authority(Path folder, String name) throws IOException, InterruptedException {
        openssl(
                folder,
                "req",
                "-x509",
                "-newkey",
                "ec",
                "-pkeyopt",
                "ec_paramgen_curve:P-256",
                "-nodes",
                "-days",
                "30",
                "-subj",
                "/CN=Keys of " + name,
                "-keyout",
                name + ".key",
                "-out",
                name + ".crt");
        return folder.resolve(name + ".crt");
    }

    /** A certificate for a maker of authenticators of one model (WebAuthn level 2, section 8.2.1), with its key. */
    private static SoftPasskey.Maker maker(Path folder, String by, byte[] model) throws Exception {
        Files.writeString(
                folder.resolve("leaf.cnf"),
                "basicConstraints = critical, CA:FALSE\n1.3.6.1.4.1.45724.1.1.4 = DER:0410"
                        + HexFormat.of().formatHex(model) + "\n");
        openssl(
                folder,
                "req",
                "-newkey",
                "ec",
                "-pkeyopt",
                "ec_paramgen_curve:P-256",
                "-nodes",
                "-subj",
                "/C=NO/O=Skerry Keys/OU=Authenticator Attestation/CN=Batch",
                "-keyout",
                "leaf.key",
                "-out",
                "leaf.csr");
        openssl(
                folder,
                "x509",
                "-req",
                "-in",
                "leaf.csr",
                "-CA",
                by + ".crt",
                "-CAkey",
                by + ".key",
                "-CAcreateserial",
                "-days",
                "20",
                "-extfile",
                "leaf.cnf",
                "-outform",
                "DER",
                "-out",
                "leaf.der");
        openssl(folder, "pkcs8", "-topk8", "-nocrypt", "-in", "leaf.key", "-outform", "DER", "-out", "leaf.p8");
        var key = KeyFactory.getInstance("EC")
                .generatePrivate(new PKCS8EncodedKeySpec(Files.readAllBytes(folder.resolve("leaf.p8"))));
        return new SoftPasskey.Maker(key, Files.readAllBytes(folder.resolve("leaf.der")));
    }
}
