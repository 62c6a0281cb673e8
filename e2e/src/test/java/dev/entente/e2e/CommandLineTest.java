package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The command line as an administrator uses it, and what it says when something is wrong. */
class CommandLineTest {
    private final World world = World.get();

    @Test
    void exit_codes_tell_what_went_wrong() {
        assertThat(world.entente("directory", "list").code()).isZero();
        assertThat(world.entente("directory", "show", "nowhere").code()).isEqualTo(1);
        assertThat(world.entente("directory", "frobnicate").code()).isEqualTo(2);
        assertThat(world.entente("--server", "http://127.0.0.1:1", "status").code())
                .isEqualTo(3);
        assertThat(world.entente("--profile", "nobody", "directory", "list").code())
                .isEqualTo(4);
        assertThat(world.ententeWith("wrong password", "sign-in", "--login", "ingeborg")
                        .code())
                .isEqualTo(4);
    }

    @Test
    void errors_are_one_line_on_standard_error() {
        var ran = world.entente("directory", "show", "nowhere");
        assertThat(ran.out()).isEmpty();
        assertThat(ran.err().strip().lines()).hasSize(1);
        assertThat(ran.err()).contains("There is no directory \"nowhere\"");
    }

    @Test
    void explain_says_which_policy_decides_and_by_which_groups() {
        var ran = world.entente("explain", "astrid.nordvik").expect(0);
        assertThat(ran.out())
                .contains("Astrid Nordvik can reset now")
                .contains("Deck Cadets, which is in Deck Ratings, which is in Deck Crew")
                .contains("policies/deck-crew.yaml")
                .contains("defaults.yaml")
                .contains("built in");
    }

    @Test
    void explain_says_what_stands_in_the_way() {
        assertThat(world.entente("explain", "dagny.holm").expect(1).out()).contains("is disabled");
        assertThat(world.entente("explain", "calum.wick").expect(1).out()).contains("No e-mail address");
        assertThat(world.entente("explain", "oda.leask").expect(1).out()).contains("No published policy covers");
        assertThat(world.entente("explain", "hedda.berg").expect(1).out()).contains("left out of Deck crew");
    }

    @Test
    void people_are_found_by_any_part_of_their_names() {
        assertThat(world.entente("person", "list", "παππά").expect(0).out()).contains("Ελένη Παππά", "fleet:epappa3");
        assertThat(world.entente("person", "list", "O'Hara").expect(0).out()).contains("liam.ohara (locked)");
        assertThat(world.entente("--output", "json", "person", "list", "--limit", "500")
                        .expect(0)
                        .out())
                .contains("Øyvind Sørås");
        assertThat(world.entente("person", "show", "100%").expect(1).err()).contains("There is no person");
    }

    @Test
    void preflight_tells_rules_rights_and_what_cannot_be_enforced() {
        var shore = world.entente("directory", "preflight", "shore").expect(0).out();
        assertThat(shore)
                .contains("The service account may set passwords.")
                .contains("may clear a lockout")
                .contains("may ask for a change at the next sign-in")
                .contains("at least 10 characters")
                .contains("does not enforce its history");
        var fleet = world.entente("directory", "preflight", "fleet").expect(0).out();
        assertThat(fleet).contains("The service account may set passwords.", "remember 8 passwords");
    }

    @Test
    void wrong_files_are_refused_with_every_problem_in_its_place(@TempDir Path folder) throws IOException {
        Files.createDirectories(folder.resolve("policies"));
        Files.createDirectories(folder.resolve("scopes"));
        Files.writeString(folder.resolve("scopes/deck.yaml"), "scope: deck\nany:\n  - where: { department: Deck }\n");
        Files.writeString(
                folder.resolve("policies/deck.yaml"),
                "policy: deck\nwho: scope deck\nallow: [rest]\nprove:\n  reset: { methods: 2, any-of: [passkey] }\n"
                        + "refuse: []\npassword: none-such\ndeliver: { to: [shoer] }\n");
        var draft = world.entente("draft", "start", "--name", "wrong")
                .expect(0)
                .out()
                .strip();
        var ran = world.entente("draft", "load", "--draft", draft, folder.toString())
                .expect(1);
        assertThat(ran.err())
                .contains("scopes/deck.yaml:3:5: \"where\" is not available in this version yet")
                .contains("policies/deck.yaml:3:9: there is no action \"rest\"; did you mean \"reset\"?")
                .contains("policies/deck.yaml:5:33: the method \"passkey\" is not available in this version yet")
                .contains("policies/deck.yaml:6:1: \"refuse\" is not available in this version yet")
                .contains("policies/deck.yaml:7:11: there is no rule set \"none-such\"")
                .contains("policies/deck.yaml:8:17: there is no directory \"shoer\"; did you mean \"shore\"?");
        var published = world.entente("draft", "publish", "--draft", draft).expect(1);
        assertThat(published.err()).contains("problems");
        world.entente("draft", "discard", "--draft", draft).expect(0);
    }

    @Test
    void a_revision_is_exported_as_it_was_loaded(@TempDir Path folder) throws IOException {
        world.entente("revision", "export", "1", folder.toString()).expect(0);
        var diff = World.run(
                Map.of(), "diff", "-r", World.ROOT.resolve("demo/configuration").toString(), folder.toString());
        assertThat(diff.out()).isEmpty();
        assertThat(world.entente("revision", "show", "1").expect(0).out()).contains("policy: deck-crew");
        assertThat(world.entente("revision", "list").expect(0).out()).contains("ingeborg");
    }

    @Test
    void a_join_code_works_once_and_pins_both_keys(@TempDir Path folder) throws IOException {
        var code = world.entente("steward", "admit", "--directory", "shore", "shore-spare")
                .expect(0)
                .out()
                .strip();
        var file = folder.resolve("steward.yaml");
        Files.writeString(
                file,
                Files.readString(Path.of(World.stewardFile("shore"))).replace("state: state-shore", "state: here"));
        var other = code.substring(0, code.lastIndexOf('.') + 1) + "AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA";
        assertThat(world.entente("steward", "join", "--file", file.toString(), other)
                        .expect(1)
                        .err())
                .contains("the operator key is another than the one the join code names");
        assertThat(world.entente("steward", "join", "--file", file.toString(), code)
                        .expect(1)
                        .err())
                .contains("This join code is unknown, was used, or is too old");
    }

    @Test
    void a_steward_checks_on_the_spot_and_says_what_is_wrong(@TempDir Path folder) throws IOException {
        assertThat(world.entente("steward", "check", "--file", World.stewardFile("shore"))
                        .expect(0)
                        .out())
                .contains("this steward is on roster 1");
        var wrong = folder.resolve("account.password");
        Files.writeString(wrong, "not the password");
        var file = Path.of(World.stewardFile("fleet")).resolveSibling("wrong.yaml");
        Files.writeString(
                file,
                Files.readString(Path.of(World.stewardFile("fleet")))
                        .replaceAll("password-file: .*", "password-file: " + wrong));
        assertThat(world.entente("steward", "check", "--file", file.toString())
                        .expect(1)
                        .out())
                .contains("The service account cannot sign in");
        Files.writeString(
                file, Files.readString(Path.of(World.stewardFile("fleet"))).replace("svc-entente", "svc-none"));
        assertThat(world.entente("steward", "check", "--file", file.toString())
                        .expect(1)
                        .out())
                .contains("The service account may not set passwords.", "Grant write access to userPassword");
        Files.writeString(
                file,
                Files.readString(Path.of(World.stewardFile("fleet"))).replaceAll("ca: .*", "ca: " + otherCa(folder)));
        assertThat(world.entente("steward", "check", "--file", file.toString())
                        .expect(1)
                        .out())
                .contains("certificate is not trusted");
        Files.delete(file);
    }

    private static Path otherCa(Path folder) {
        var file = folder.resolve("other.crt");
        World.run(
                        Map.of(),
                        "openssl",
                        "req",
                        "-x509",
                        "-newkey",
                        "rsa:2048",
                        "-nodes",
                        "-days",
                        "2",
                        "-subj",
                        "/CN=other",
                        "-keyout",
                        folder.resolve("other.key").toString(),
                        "-out",
                        file.toString())
                .expect(0);
        return file;
    }

    @Test
    void a_roster_signed_by_another_key_is_refused() {
        var signed = new Roster(
                        1,
                        UUID.fromString(world.query("SELECT id FROM directory WHERE name = 'shore'")),
                        2,
                        1,
                        List.of())
                .sign(SigningKey.generate(new SecureRandom()));
        var answer = ConsoleApi.signedIn(world).put("/directories/shore/roster", Map.of("roster", signed));
        assertThat(answer.statusCode()).isEqualTo(422);
        assertThat(answer.body()).contains("it was signed by another key");
    }

    @Test
    void the_steward_log_tells_what_was_done_for_a_login_name() {
        var crew = Crew.next();
        new ApiPerson(world)
                .prove(crew.shore(), crew.address())
                .choose("Logged-Quay-4711")
                .waitForOutcome(Duration.ofSeconds(30));
        var log = world.entente("steward", "log", "--file", World.stewardFile("shore"), crew.shore())
                .expect(0)
                .out();
        assertThat(log).contains(crew.shore(), "DONE").doesNotContain("Logged-Quay");
    }
}
