package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.MailApi;
import java.io.IOException;
import java.net.http.HttpResponse;
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
        assertThat(world.script("directory", "list").code()).isZero();
        assertThat(world.script("directory", "show", "nowhere").code()).isEqualTo(1);
        assertThat(world.script("directory", "frobnicate").code()).isEqualTo(2);
        assertThat(world.script("--server", "http://127.0.0.1:1", "status").code())
                .isEqualTo(3);
        assertThat(world.script("--profile", "nobody", "directory", "list").code())
                .isEqualTo(4);
        assertThat(world.ententeWith("wrong password", "sign-in", "--login", "ingeborg")
                        .expect(4)
                        .err())
                .contains("The sign-in name or the password isn't right.");
    }

    @Test
    void errors_are_one_line_on_standard_error() {
        var ran = world.script("directory", "show", "nowhere");
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
        assertThat(world.entente("explain", "hedda.berg").expect(1).out())
                .contains("not in Deck crew: left out as member of Directory Administrators");
    }

    @Test
    void people_are_found_by_any_part_of_their_names() {
        assertThat(world.entente("person", "list", "παππά").expect(0).out()).contains("Ελένη Παππά", "fleet:epappa3");
        assertThat(world.entente("person", "list", "O'Hara").expect(0).out()).contains("liam.ohara");
        assertThat(world.entente("--output", "json", "person", "list", "sørås")
                        .expect(0)
                        .out())
                .contains("Øyvind Sørås");
        assertThat(world.entente("person", "show", "100%").expect(1).err()).contains("There is no person");
    }

    @Test
    void preflight_tells_rules_rights_and_what_cannot_be_enforced() {
        for (var directory : List.of("shore", "fleet")) {
            World.waitUntil(
                    Duration.ofSeconds(20),
                    "the steward of " + directory + " is back from whatever happened before",
                    () -> world.entente("directory", "preflight", directory).code() == 0);
        }
        var shore = world.entente("directory", "preflight", "shore").expect(0).out();
        assertThat(shore)
                .contains("The service account is allowed to set a password over this connection.")
                .contains("The service account holds no more than it should.")
                .contains("is allowed to reset passwords everywhere below guard.bases")
                .contains("People can write mobile and other phone numbers of their own account")
                .containsPattern("certificate is good for \\d+ more days")
                .contains("at least 10 characters")
                .contains("doesn't enforce its history");
        var fleet = world.entente("directory", "preflight", "fleet").expect(0).out();
        assertThat(fleet)
                .contains(
                        "The service account is allowed to reset passwords.",
                        "is allowed to clear a lockout",
                        "rules apply to the service account",
                        "remember 8 passwords");
    }

    @Test
    void wrong_files_are_refused_with_every_problem_in_its_place(@TempDir Path folder) throws IOException {
        Files.createDirectories(folder.resolve("policies"));
        Files.createDirectories(folder.resolve("scopes"));
        Files.writeString(
                folder.resolve("scopes/deck.yaml"),
                "scope: deck\nany:\n  - where: { department: { begins-with: Deck } }\n");
        Files.writeString(
                folder.resolve("policies/deck.yaml"),
                "policy: deck\nwho: scope deck\nallow: [rest]\nprove:\n  reset: { methods: 2, any-of: [pigeon-x] }\n"
                        + "refuse: [{ actions: [reset], when: outside ships }]\npassword: none-such\ndeliver: { to: [shoer] }\n");
        var draft = world.entente("draft", "start", "--name", "wrong")
                .expect(0)
                .out()
                .strip();
        var ran = world.entente("draft", "load", "--draft", draft, folder.toString())
                .expect(1);
        assertThat(ran.err())
                .contains("scopes/deck.yaml:3:28: \"begins-with\" isn't a known setting here; possible are")
                .contains("policies/deck.yaml:3:9: there is no action \"rest\"; did you mean \"reset\"?")
                .contains("policies/deck.yaml:5:33: there is no method \"pigeon-x\"; possible are")
                .contains("policies/deck.yaml:6:36: there is no network \"ships\"; there are none")
                .contains("policies/deck.yaml:7:11: there is no rule set \"none-such\"")
                .contains("policies/deck.yaml:8:17: there is no directory \"shoer\"; did you mean \"shore\"?");
        var published = world.entente("draft", "publish", "--draft", draft).expect(1);
        assertThat(published.err()).contains("problems");
        world.entente("draft", "discard", "--draft", draft).expect(0);
    }

    @Test
    void names_that_no_directory_knows_are_refused_with_the_nearest_that_there_is(@TempDir Path folder)
            throws IOException {
        Files.createDirectories(folder.resolve("scopes"));
        Files.writeString(folder.resolve("scopes/a.yaml"), "scope: a\nany:\n  - where: { departmnt: Deck }\n");
        Files.writeString(folder.resolve("scopes/b.yaml"), "scope: b\nany:\n  - where: { unicodePwd: x }\n");
        Files.writeString(
                folder.resolve("scopes/c.yaml"), "scope: c\nany:\n  - ou: OU=Dek,OU=People,DC=skerry,DC=test\n");
        Files.writeString(folder.resolve("scopes/d.yaml"), "scope: d\nany:\n  - people: [astrid.nordvk]\n");
        var draft = world.entente("draft", "start", "--name", "misspelled")
                .expect(0)
                .out()
                .strip();
        var told = world.entente("draft", "load", "--draft", draft, folder.toString())
                .expect(1)
                .err();
        assertThat(told).contains("departmnt", "department", "unicodePwd");
        assertThat(told).contains("OU=Deck,OU=People,DC=skerry,DC=test").contains("astrid.nordvik");
        Files.writeString(folder.resolve("scopes/e.yml"), "scope: e\n");
        assertThat(world.entente("draft", "load", "--draft", draft, folder.toString())
                        .err())
                .contains("e.yml");
        world.entente("draft", "discard", "--draft", draft).expect(0);
    }

    @Test
    void a_steward_with_a_guard_rail_that_names_nothing_does_not_start(@TempDir Path folder) throws IOException {
        World.run(Map.of(), "cp", "-r", world.dir.resolve("steward-fleet") + "/.", folder.toString())
                .expect(0);
        var file = folder.resolve("steward.yaml");
        var sound = Files.readString(file);
        for (var wrong : List.of("cn=Engin,ou=groups,dc=fleet,dc=skerry,dc=test", "no name at all")) {
            Files.writeString(file, sound.replace("protected-groups: []", "protected-groups: ['" + wrong + "']"));
            var ended = world.script("steward", "run", "--file", file.toString());
            assertThat(ended.code()).as(ended.out() + ended.err()).isNotZero();
            assertThat(ended.out() + ended.err()).contains("guard.protected-groups", wrong);
        }
    }

    @Test
    void a_roster_is_signed_for_expected_keys_only() {
        var code = world.entente("steward", "admit", "--directory", "fleet", "fleet-unexpected")
                .expect(0)
                .out()
                .strip();
        var folder = world.dir.resolve("steward-unexpected");
        World.run(Map.of(), "mkdir", "-p", folder.toString()).expect(0);
        World.run(
                        Map.of(),
                        "cp",
                        world.stewardFile("fleet"),
                        world.dir.resolve("steward-fleet/account.password").toString(),
                        folder.toString())
                .expect(0);
        world.entente(
                        "steward",
                        "join",
                        "--file",
                        folder.resolve("steward.yaml").toString(),
                        code)
                .expect(0);
        var before = world.query("SELECT roster FROM directory WHERE name = 'fleet'");
        var refused = world.entente("steward", "sign-roster", "--directory", "fleet", "--expect", "A".repeat(43))
                .expect(1);
        assertThat(refused.err()).contains("fleet-unexpected").contains("you didn't expect");
        assertThat(world.entente("steward", "sign-roster", "--directory", "fleet")
                        .code())
                .as("nobody is there to ask")
                .isNotZero();
        assertThat(world.query("SELECT roster FROM directory WHERE name = 'fleet'"))
                .isEqualTo(before);
        world.query("DELETE FROM steward WHERE name = 'fleet-unexpected'");
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
                Files.readString(Path.of(world.stewardFile("shore"))).replace("state: state-shore", "state: here"));
        var other = code.substring(0, code.lastIndexOf('.') + 1) + "AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA";
        assertThat(world.entente("steward", "join", "--file", file.toString(), other)
                        .expect(1)
                        .err())
                .contains("the operator key is another than the one the join code names");
        assertThat(world.entente("steward", "join", "--file", file.toString(), code)
                        .expect(1)
                        .err())
                .contains("This join code is wrong, was already used, or has expired");
    }

    @Test
    void a_steward_checks_on_the_spot_and_says_what_is_wrong(@TempDir Path folder) throws IOException {
        assertThat(world.script("steward", "check", "--file", world.stewardFile("shore"))
                        .expect(0)
                        .out())
                .contains("this steward is on roster");
        var wrong = folder.resolve("account.password");
        Files.writeString(wrong, "not the password");
        var file = Path.of(world.stewardFile("fleet")).resolveSibling("wrong.yaml");
        Files.writeString(
                file,
                Files.readString(Path.of(world.stewardFile("fleet")))
                        .replaceAll("password-file: .*", "password-file: " + wrong));
        assertThat(world.entente("steward", "check", "--file", file.toString())
                        .expect(1)
                        .out())
                .contains("The service account can't sign in");
        Files.writeString(
                file, Files.readString(Path.of(world.stewardFile("fleet"))).replace("svc-entente", "svc-none"));
        assertThat(world.entente("steward", "check", "--file", file.toString())
                        .expect(1)
                        .out())
                .contains("The service account isn't allowed to reset passwords", "attrs=userPassword by dn.exact=");
        Files.writeString(
                file,
                Files.readString(Path.of(world.stewardFile("fleet"))).replaceAll("ca: .*", "ca: " + otherCa(folder)));
        assertThat(world.entente("steward", "check", "--file", file.toString())
                        .expect(1)
                        .out())
                .contains("certificate isn't trusted");
        Files.delete(file);
    }

    @Test
    void a_steward_signs_in_by_certificate_protects_by_starttls_and_trusts_a_pinned_key(@TempDir Path folder)
            throws IOException {
        var sound = Files.readString(Path.of(world.stewardFile("fleet")))
                .replaceAll("ldaps://127.0.0.1:\\d+", "ldaps://127.0.0.1:" + world.ldapsPort);
        var file = Path.of(world.stewardFile("fleet")).resolveSibling("other-way.yaml");
        var pki = world.dir.resolve("lab/pki");
        try {
            Files.writeString(
                    file,
                    sound.replaceAll("(?m)^  bind: .*\n", "")
                            .replaceAll(
                                    "(?m)^  password-file: .*",
                                    "  certificate: " + pki.resolve("svc.crt") + "\n  certificate-key: "
                                            + pki.resolve("svc.key")));
            assertThat(world.entente("steward", "check", "--file", file.toString())
                            .expect(0)
                            .out())
                    .contains("The service account is allowed to reset passwords.");

            Files.writeString(
                    file,
                    sound.replace(
                            "ldaps://127.0.0.1:" + world.ldapsPort, "ldap://127.0.0.1:" + (world.ldapsPort + 200)));
            assertThat(world.entente("steward", "check", "--file", file.toString())
                            .expect(0)
                            .out())
                    .contains("The service account signs in.");

            Files.writeString(file, sound.replaceAll("(?m)^  ca: .*", "  pin: " + pin(pki.resolve("slapd.crt"))));
            world.entente("steward", "check", "--file", file.toString()).expect(0);
            Files.writeString(file, sound.replaceAll("(?m)^  ca: .*", "  pin: " + pin(pki.resolve("ad.crt"))));
            assertThat(world.entente("steward", "check", "--file", file.toString())
                            .expect(1)
                            .out())
                    .contains("certificate isn't trusted");
        } finally {
            Files.deleteIfExists(file);
        }
    }

    @Test
    void a_steward_signs_in_by_kerberos_with_a_keytab() throws IOException {
        world.lab("ad-keytab");
        var file = Path.of(world.stewardFile("shore"));
        var before = Files.readString(file);
        var ticket = before.replaceAll("ldaps://127.0.0.1:\\d+", "ldaps://" + world.adIp + ":636")
                .replaceAll("(?m)^  bind: .*\n", "")
                .replaceAll("(?m)^  password-file: .*", """
                          kerberos:
                            principal: svc-entente@SKERRY.TEST
                            keytab: %s
                            realm: SKERRY.TEST
                            kdc: %s
                            server: dc1.skerry.test""".formatted(
                                world.dir.resolve("lab/ad/svc-entente.keytab"), world.adIp)
                        .indent(2)
                        .stripTrailing());
        world.kill("steward-shore");
        try {
            Files.writeString(file, ticket);
            assertThat(world.entente("steward", "check", "--file", file.toString())
                            .expect(0)
                            .out())
                    .contains("The service account signs in.");
            world.startSteward("shore");
            var crew = world.crew();
            var person = new ApiPerson(world).prove(crew.shore(), crew.address());
            person.choose("Ticket-Quay-101").waitForOutcome(Duration.ofSeconds(30));
            assertThat(person.result("Shore")).isEqualTo("done");
            assertThat(world.binds("shore", crew.shore(), "Ticket-Quay-101")).isTrue();

            Files.writeString(file, ticket.replace("dc1.skerry", "dc9.skerry"));
            assertThat(world.entente("steward", "check", "--file", file.toString())
                            .expect(1)
                            .out())
                    .contains("can't sign in with Kerberos", "Server not found in Kerberos database");
        } finally {
            if (world.processes.get("steward-shore").isAlive()) {
                world.kill("steward-shore");
            }
            Files.writeString(file, before);
            world.startSteward("shore");
        }
    }

    @Test
    void deliveries_are_listed_filtered_and_shown_and_what_is_mistyped_is_said() {
        var crew = world.crew();
        new ApiPerson(world)
                .prove(crew.shore(), crew.address())
                .choose("Command-Quay-101")
                .waitForOutcome(Duration.ofSeconds(30));
        var listed = world.entente("--output", "json", "delivery", "list", "--directory", "fleet", "--state", "done");
        var one = ApiPerson.JSON.readTree(listed.expect(0).out()).get(0);
        assertThat(one.path("login").asString()).isEqualTo(crew.fleet());
        assertThat(world.entente("delivery", "show", one.path("id").asString())
                        .expect(0)
                        .out())
                .contains("reset of " + crew.fleet() + " in fleet: done", "version", "wait ", "judge ");
        assertThat(world.entente("delivery", "show", "x").expect(1).err()).contains("doesn't have the right form");
        assertThat(world.entente("delivery", "list", "--state", "x").expect(1).err())
                .contains("There is no state");
        assertThat(world.entente("delivery", "list", "--cause", "x").expect(1).err())
                .contains("there are too-short");
    }

    @Test
    void mail_is_set_tried_and_a_channel_that_fails_is_told_before_anybody_starts() {
        var port = mailPort();
        assertThat(world.entente("mail", "test", "somebody@skerry.test")
                        .expect(0)
                        .out())
                .contains("RCPT TO:<somebody@skerry.test>", "The server took the message.");
        try {
            world.entente(
                            "mail",
                            "set",
                            "--host",
                            "127.0.0.1",
                            "--port",
                            "1",
                            "--security",
                            "none",
                            "--sender",
                            "no-reply@skerry.test")
                    .expect(0);
            assertThat(world.entente("mail", "test", "somebody@skerry.test")
                            .expect(1)
                            .out())
                    .contains("NOT SENT");
            assertThat(world.entente("mail", "show").expect(1).out()).contains("has NOT worked");
            assertThat(ConsoleApi.signedIn(world).get("/today").body()).contains("Mail cannot be sent");
            assertThat(new ApiPerson(world).start("astrid.nordvik").status()).isEqualTo(503);
            assertThat(new ApiPerson(world).call("GET", "/context", null).body())
                    .contains("\"ready\":false");
        } finally {
            world.entente(
                            "mail",
                            "set",
                            "--host",
                            "127.0.0.1",
                            "--port",
                            port,
                            "--security",
                            "none",
                            "--sender",
                            "no-reply@skerry.test")
                    .expect(0);
        }
        World.waitUntil(
                Duration.ofSeconds(15),
                "it is found to work again",
                () -> world.entente("mail", "show").code() == 0);
        assertThat(new ApiPerson(world).start("astrid.nordvik").status()).isEqualTo(201);
        assertThat(world.entente("mail", "set", "--host", "h", "--port", "0", "--security", "none", "--sender", "a@b")
                        .expect(1)
                        .err())
                .contains("The port must be a number");
    }

    @Test
    void an_old_state_becomes_the_next_revision_byte_for_byte(@TempDir Path folder) throws IOException {
        var first = folder.resolve("first");
        world.entente("revision", "export", "1", first.toString()).expect(0);
        var changed = Files.readString(first.resolve("defaults.yaml")).replace("5 per 24h", "7 per 24h");
        world.entente("draft", "start", "--name", "seven").expect(0);
        var other = folder.resolve("other");
        world.entente("draft", "export", other.toString()).expect(0);
        Files.writeString(other.resolve("defaults.yaml"), changed);
        world.entente("draft", "load", other.toString()).expect(0);
        world.entente("draft", "publish", "--note", "seven").expect(0);
        assertThat(world.entente("revision", "compare", "1").expect(0).out())
                .contains("limit.resets becomes 5 per 24h (was 7 per 24h)", "-limit", "+limit");

        var api = ConsoleApi.signedIn(world);
        var stale = api.post("/revisions/1/restoration", "{\"note\":\"late\",\"after\":1}");
        assertThat(stale.statusCode()).isEqualTo(409);
        assertThat(stale.body()).contains("published in the meantime");
        var number = world.entente("revision", "restore", "1").expect(0).out().replaceAll("[^0-9]", "");
        var restored = folder.resolve("restored");
        world.entente("revision", "export", number, restored.toString()).expect(0);
        World.run(Map.of(), "diff", "-r", first.toString(), restored.toString()).expect(0);
        assertThat(world.entente("revision", "list").out()).contains("Back to revision 1");
        assertThat(world.entente("revision", "restore", "1").expect(1).err()).contains("in force already");
        assertThat(world.entente("revision", "restore", "999").expect(1).err()).contains("no revision 999");
    }

    @Test
    void the_password_of_the_mail_channel_goes_to_no_other_server_and_never_without_tls() {
        var port = mailPort();
        var api = ConsoleApi.signedIn(world);
        try {
            assertThat(put(api, "mail.skerry.test", "starttls", "Mail-Secret-77")
                            .statusCode())
                    .isEqualTo(200);
            assertThat(put(api, "mail.skerry.test", "tls", null).statusCode()).isEqualTo(200);
            assertThat(api.get("/channels/mail").body()).doesNotContain("Mail-Secret-77");
            assertThat(put(api, "elsewhere.skerry.test", "tls", null).body()).contains("only works with the same host");
            assertThat(put(api, "mail.skerry.test", "none", "Mail-Secret-77").body())
                    .contains("Without TLS, others could read the password");
            assertThat(world.query("SELECT host FROM mail_channel")).isEqualTo("mail.skerry.test");
        } finally {
            api.put(
                    "/channels/mail",
                    new MailApi.MailSettings(
                            "127.0.0.1",
                            Integer.parseInt(port),
                            "none",
                            null,
                            null,
                            "no-reply@skerry.test",
                            null,
                            null,
                            null));
        }
        // A message of an earlier test may have met the wrong server.
        World.waitUntil(
                Duration.ofSeconds(15),
                "mail works",
                () -> world.entente("mail", "show").code() == 0);
    }

    private static HttpResponse<String> put(ConsoleApi api, String host, String security, String password) {
        return api.put(
                "/channels/mail",
                new MailApi.MailSettings(
                        host, 587, security, "entente", password, "no-reply@skerry.test", null, null, null));
    }

    private String mailPort() {
        return ApiPerson.JSON
                .readTree(ConsoleApi.signedIn(world).get("/channels/mail").body())
                .path("port")
                .asString();
    }

    @Test
    void a_service_account_s_password_changes_without_a_gap(@TempDir Path folder) throws IOException {
        var old = Files.writeString(folder.resolve("old"), "not any more\n");
        var next = Files.writeString(folder.resolve("next"), "Svc-Quiet-Water-7\n");
        var file = Path.of(world.stewardFile("fleet")).resolveSibling("rotating.yaml");
        Files.writeString(
                file,
                Files.readString(Path.of(world.stewardFile("fleet")))
                        .replaceAll(
                                "(?m)^  password-file: .*",
                                "  password-file: " + old + "\n  next-password-file: " + next));
        assertThat(world.entente("steward", "check", "--file", file.toString())
                        .expect(0)
                        .out())
                .contains("The service account signs in.");
        Files.delete(file);
    }

    private static String pin(Path certificate) {
        return World.run(
                        Map.of(),
                        "bash",
                        "-c",
                        "openssl x509 -in " + certificate + " -pubkey -noout | openssl pkey -pubin -outform der"
                                + " | openssl dgst -sha256 -binary | base64")
                .expect(0)
                .out()
                .strip();
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
        var crew = world.crew();
        new ApiPerson(world)
                .prove(crew.shore(), crew.address())
                .choose("Logged-Quay-4711")
                .waitForOutcome(Duration.ofSeconds(30));
        var log = world.entente("steward", "log", "--file", world.stewardFile("shore"), crew.shore())
                .expect(0)
                .out();
        assertThat(log).contains(crew.shore(), "DONE").doesNotContain("Logged-Quay");
    }
}
