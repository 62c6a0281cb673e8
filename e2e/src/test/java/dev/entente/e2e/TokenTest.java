package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.verify.appcode.AppCode;
import dev.entente.core.verify.appcode.AppCode.Kind;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** Tokens that people have already: brought in from files, used, followed when their clocks go wrong, told of. */
class TokenTest extends PublishingTest {
    private static final String TWO = "prove:\n  reset: { methods: 2, any-of: [email-code, app-code] }\n"
            + "  details: { any-of: [email-code] }\n";

    private static String serial() {
        return "T-" + UUID.randomUUID().toString().substring(0, 8);
    }

    private static AppCode token(String seed, String hash, int digits, int seconds) {
        return AppCode.of(seed.getBytes(StandardCharsets.US_ASCII), new Kind(hash, digits, seconds));
    }

    private ApiPerson mailed(Crew crew, String device) {
        var person = new ApiPerson(world);
        person.device = device;
        return person.prove(crew.shore(), crew.address());
    }

    private static String code(AppCode token, long step) {
        return token.at(step);
    }

    @Test
    void a_file_of_tokens_is_brought_in_and_each_row_says_what_became_of_it() throws IOException {
        var crew = world.crew();
        var other = world.crew();
        pilot(TWO, crew, other);
        var one = token("A token of somebody's own", "SHA256", 8, 60);
        var serial = serial();
        var file = folder.resolve("tokens.csv");
        Files.writeString(
                file,
                "Login,Serial,Secret,Algorithm,Digits,Seconds\n"
                        + crew.shore() + "," + serial + "," + one.base32() + ",SHA-256,8,60\n"
                        + "nobody.at.all," + serial() + "," + one.base32() + ",,,\n"
                        + other.shore() + "," + serial + "," + one.base32() + ",,,\n"
                        + other.shore() + "," + serial() + ",01!,,,\n"
                        + other.shore() + "," + serial() + "," + one.base32() + ",MD5,,\n"
                        + other.shore() + "," + serial() + "," + one.base32() + ",,7,\n");
        var before = world.mailbox.to(crew.address()).size();
        var said = world.entente("token", "import", file.toString());
        assertThat(said.code()).isEqualTo(1);
        assertThat(said.out())
                .contains("imported")
                .contains("no one signs in as nobody.at.all")
                .contains("its serial number appears twice")
                .contains("its secret isn't Base32")
                .contains("SHA1, SHA256 or SHA512")
                .contains("6 or 8 digits");
        assertThat(said.err()).contains("1 imported, 5 refused.");
        assertThat(world.mailbox.next(crew.address(), before).text()).contains("Token " + serial);
        assertThat(world.entente("person", "methods", crew.shore()).out()).contains("Token " + serial);
        assertThat(world.query("SELECT encode(secret, 'escape') FROM app_secret WHERE serial = '" + serial + "'"))
                .doesNotContain(one.base32());

        // On a browser that does not know the person, two codes that follow each other, the clock one step ahead.
        var person = mailed(crew, "");
        var step = System.currentTimeMillis() / 60_000 + 1;
        assertThat(person.proveBy("app-code", code(one, step - 1) + code(one, step))
                        .status())
                .isEqualTo(200);
        assertThat(world.query("SELECT drift FROM app_secret WHERE serial = '" + serial + "'"))
                .isIn("1", "0");
        var again = mailed(crew, person.device);
        assertThat(again.proveBy("app-code", code(one, step)).status())
                .as("taken once")
                .isEqualTo(422);
        assertThat(world.entente("token", "import", file.toString()).out())
                .contains("a token with this serial number is there already");
    }

    @Test
    void a_key_container_says_whose_they_are_or_a_second_file_does() throws IOException {
        var crew = world.crew();
        var other = world.crew();
        pilot(TWO, crew, other);
        var first = serial();
        var second = serial();
        var xml = folder.resolve("tokens.xml");
        var pack = """
                <KeyPackage><DeviceInfo><SerialNo>%s</SerialNo></DeviceInfo>
                <Key Id="%s" Algorithm="urn:ietf:params:xml:ns:keyprov:pskc:%s">
                <AlgorithmParameters><ResponseFormat Length="6" Encoding="DECIMAL"/></AlgorithmParameters>
                <Data><Secret><PlainValue>MTIzNDU2Nzg5MDEyMzQ1Njc4OTA=</PlainValue></Secret></Data>%s</Key></KeyPackage>
                """;
        var container = "<KeyContainer Version=\"1.0\" xmlns=\"urn:ietf:params:xml:ns:keyprov:pskc\">%s</KeyContainer>";
        Files.writeString(
                xml,
                container.formatted(
                        pack.formatted(first, "a", "totp", "<UserId>UID=" + crew.shore() + ",DC=skerry</UserId>")
                                + pack.formatted(second, "b", "totp", "")));
        var owners = folder.resolve("owners.csv");
        Files.writeString(owners, "serial,login\n" + second + "," + other.shore() + "\n");
        assertThat(world.entente("token", "import", xml.toString(), "--owners", owners.toString())
                        .expect(0)
                        .err())
                .contains("2 imported.");
        assertThat(world.entente("person", "methods", other.shore()).out()).contains("Token " + second);
        Files.writeString(xml, container.formatted(pack.formatted(serial(), "c", "hotp", "")));
        assertThat(world.entente("token", "import", xml.toString()).err()).contains("no others are taken");
        Files.writeString(xml, "<!DOCTYPE x><x/>");
        assertThat(world.entente("token", "import", xml.toString()).err()).contains("document type");
    }

    @Test
    void where_weakenings_need_approval_tokens_wait_for_somebody_else() throws IOException {
        var crew = world.crew();
        var serial = serial();
        var file = folder.resolve("tokens.csv");
        Files.writeString(
                file,
                "login,serial,secret\n" + crew.shore() + "," + serial + ","
                        + token("A token of somebody's own", "SHA1", 6, 30).base32() + "\n");
        world.query("INSERT INTO approval_rule (asked_for, changed_at) VALUES ('weakening', now())");
        try {
            assertThat(world.entente("token", "import", file.toString()).err())
                    .contains("1 waiting for another administrator");
            assertThat(world.entente("person", "methods", crew.shore()).out()).doesNotContain(serial);
            assertThat(world.entente("approval", "list").out()).contains("1 token is imported, for " + crew.shore());
            assertThat(world.query("SELECT encode(wanted, 'escape') FROM proposed_change WHERE decided_at IS NULL"))
                    .doesNotContain("secret");
        } finally {
            for (var line : world.query("SELECT id FROM proposed_change WHERE decided_at IS NULL")
                    .lines()
                    .toList()) {
                world.entente("approval", "refuse", line);
            }
            world.query("DELETE FROM approval_rule");
        }
    }
}
